/** One module of any type in a patch that plays it, for tests over the whole catalogue. */
import { isSignalParam } from '../describe/slots.ts'
import type { AssetSound, ModuleDescription } from '../describe/types.ts'
import { Engine } from '../engine/engine.ts'
import type { Patch } from '../patch/types.ts'
import { checkPatch } from '../patch/validate.ts'
import { testKernels } from './kernels.ts'

export const RATE = 48000

/** What modules that play a recording are given: half a second, both sides different. */
const TAKE = 'take'
export const RECORDINGS: ReadonlyMap<string, AssetSound> = new Map([
  [
    TAKE,
    {
      rate: RATE,
      channels: [0.05, 0.07].map((pace) =>
        Float32Array.from({ length: RATE / 2 }, (_, n) => 0.5 * Math.sin(n * pace + (n % 11))),
      ),
    },
  ],
])

/** Two that sound together, of which two take turns. */
const ZONES = [
  { asset: TAKE, loop: 'forward', loopStart: 0.2, loopEnd: 0.3, crossfade: 0.2 },
  { asset: TAKE, root: 48, turn: 'a', pan: 0.3 },
  { asset: TAKE, root: 55, turn: 'a', lowVelocity: 0.2 },
]

export interface Variant {
  readonly voices: number
  readonly stereo: boolean
}

/** Cables to everything of the module: notes to pitches and gates, a saw to sound and control, a sine to parameters. */
const cablesTo = (module: ModuleDescription, stereo: boolean): object[] => {
  const cables: object[] = []
  const cable = (from: string, to: string, amount: number): void => {
    cables.push({ id: `k${cables.length + 1}`, from, to: `m.${to}`, amount })
  }
  for (const { kind, name } of module.inputs) {
    const isSignal = kind === 'audio' || kind === 'control'
    cable(isSignal ? 'o.saw' : kind === 'pitch' ? 'n.pitch' : 'n.gate', name, isSignal ? 0.5 : 1)
    if (stereo && kind === 'audio') cable('i.out', name, 0.5)
  }
  for (const param of module.params)
    if (isSignalParam(param) && param.kind === 'number')
      cable('o.sine', param.name, param.log || param.time ? 0.5 : (param.max - param.min) * 0.05)
  return cables
}

/** A patch in which everything that can be connected to the module is, in the given shape. */
export const surround = (
  module: ModuleDescription,
  { voices, stereo }: Variant,
  choices: Record<string, string> = {},
): Patch => {
  const isNotes = module.type === 'notes'
  const value = {
    format: 'ypsilon/patch',
    version: 1,
    seed: 5,
    modules: [
      ...(isNotes ? [] : [{ id: 'n', type: 'notes', params: { voices, mode: 'poly' } }]),
      { id: 'o', type: 'oscillator', params: { octave: -1, fine: 7 } },
      { id: 'i', type: 'input' },
      {
        id: 'm',
        type: module.type,
        params: {
          ...(module.params.some(({ name }) => name === 'asset') ? { asset: TAKE } : {}),
          ...choices,
          ...(isNotes ? { voices, mode: 'poly', glide: 0.01 } : {}),
        },
        ...(module.data?.some(({ kind }) => kind === 'zones') ? { data: { zones: ZONES } } : {}),
      },
    ],
    cables: [{ from: isNotes ? 'm.pitch' : 'n.pitch', to: 'o.pitch' }, ...cablesTo(module, stereo)],
  }
  const result = checkPatch(value)
  if (!result.ok) throw new Error(result.faults.map((fault) => `${fault.place}: ${fault.message}`).join('\n'))
  return result.value
}

export interface Played {
  readonly engine: Engine
  readonly outputs: Map<string, number[]>
}

const inputs = new Map<number, Float32Array>()
/** What comes in from outside, at a level; worked out once. */
const inputAt = (level: number): Float32Array => {
  const known = inputs.get(level)
  if (known) return known
  const made = Float32Array.from({ length: 60000 }, (_, i) => level * Math.sin(i * 0.05 + (i % 7)))
  inputs.set(level, made)
  return made
}

/** Plays a few notes through the patch in segments of the given lengths; every lane of every output is kept. */
export const play = (
  patch: Patch,
  module: ModuleDescription,
  seconds: number,
  lengths: (n: number) => number,
  feed = 1,
  silent = false,
  rests = true,
  more: (engine: Engine) => void = () => undefined,
): Played => {
  const engine = new Engine(testKernels(), RATE, { assets: RECORDINGS })
  engine.runtime.allowRest(rests)
  for (const port of module.outputs) engine.layout.watchRing(`m.${port.name}`)
  const applied = engine.apply(patch)
  if (!applied.ok) throw new Error(applied.faults[0]!.message)
  const { runtime, layout } = engine
  if (!silent) {
    runtime.schedule(100, { type: 'on', note: 50, velocity: 0.9, id: 1 })
    runtime.schedule(777, { type: 'on', note: 57.5, velocity: 0.4, id: 2 })
    runtime.schedule(2000, { type: 'off', note: 50, velocity: 0.3, id: 1 })
    runtime.schedule(2600, { type: 'on', note: 62, velocity: 1, id: 3 })
  }
  more(engine)
  const signals = module.outputs.map((port) => ({ key: port.name, signal: layout.signal(`m.${port.name}`)! }))
  const outputs = new Map(signals.map(({ key }) => [key, [] as number[]]))
  const left = new Float32Array(128),
    right = new Float32Array(128)
  const input = inputAt(feed)
  const total = Math.round(seconds * RATE)
  const keep = (_done: number, length: number): void => {
    for (const { key, signal } of signals) {
      const rows = outputs.get(key)!
      const lanes = Array.from({ length: signal.voices * signal.sides }, (_, lane) =>
        runtime.laneOf(signal.address, lane),
      )
      for (let f = 0; f < length; f += 1) {
        for (const { address, stride } of lanes) rows.push(runtime.f32(address + f * stride))
      }
    }
  }
  for (let done = 0, n = 0; done < total; n += 1) {
    const length = Math.min(lengths(n), total - done)
    runtime.process(left, right, 0, length, { left: input, right: input, offset: done }, keep)
    done += length
  }
  return { engine, outputs }
}

/** Segment lengths 1…128 from a fixed sequence. */
export const ragged =
  (seed: number) =>
  (n: number): number =>
    1 + ((Math.imul(n + seed, 2654435761) >>> 0) % 128)
export const whole = (): number => 128
