import { Engine } from '../engine/engine.ts'
import type { EngineEvent } from '../engine/runtime.ts'
import { inOrder, type PlayerEvent } from '../notes/events.ts'
import { CATALOGUE } from '../catalogue.ts'
import type { Cable, Fault, ParamValue, Patch, PatchModule, Result } from '../patch/types.ts'
import { everyModule, splitTarget } from '../patch/walk.ts'
import { exactLog } from '../units/exact.ts'
import type { Sound } from '../formats/wav.ts'

export interface RenderOptions {
  readonly events?: readonly PlayerEvent[]
  /** Exactly this many seconds; without it the last event plus the tail. */
  readonly seconds?: number
  readonly rate?: number
  readonly best?: boolean
  /** Output ports to write besides: `osc.saw`. */
  readonly taps?: readonly string[]
  /** Recordings the patch brings along, by id. */
  readonly assets?: ReadonlyMap<string, Sound>
  /** What the `input` modules hear; of the render's rate. */
  readonly input?: Sound
  /** Called now and then with frames done and frames known to come; returning false cancels. */
  readonly progress?: (done: number, total: number) => boolean | void
}

export interface Rendered {
  readonly sound: Sound
  readonly taps: ReadonlyMap<string, Sound>
  /** Frames in which the limiter worked, and by how many decibels at the most. */
  readonly limited: number
  readonly limitedDb: number
  /** The guard ended the sound: it stayed above +24 dB. */
  readonly stopped: boolean
  /** Modules reset after a NaN. */
  readonly resets: number
}

const TAIL_LEVEL = 0.001
const LONGEST_TAIL = 30
/** A tail has ended when nothing was above −60 dB for this long. */
const QUIET_SECONDS = 0.25
const BLOCK = 128

const engineEvents = (
  engine: Engine,
  patch: Patch,
  event: PlayerEvent,
  frameRate: number,
  ids: { next: number },
): EngineEvent[] | Fault => {
  switch (event.type) {
    case 'on':
      return [
        {
          type: 'on',
          note: event.note,
          velocity: event.velocity ?? 1,
          id: event.id ?? (ids.next -= 1),
          ...(event.channel === undefined ? {} : { channel: event.channel }),
        },
      ]
    case 'off':
      return [
        {
          type: 'off',
          note: event.note,
          velocity: event.velocity ?? 0,
          ...(event.id === undefined ? {} : { id: event.id }),
        },
      ]
    case 'pressure':
    case 'slide':
    case 'bend':
    case 'control': {
      const { t: _t, ...rest } = event
      return [rest as EngineEvent]
    }
    case 'clock':
      return [{ type: 'clock', value: event.value }]
    case 'transport':
      return [{ type: 'transport', running: event.value !== 'stop' }]
    case 'param':
      return engine.eventFor(event.target, event.value)
    case 'macro':
      return engine.eventFor(`macro:${event.target}`, event.value)
    case 'snapshot':
      return snapshotEvents(engine, patch, event.target, Math.round((event.over ?? 0) * frameRate))
  }
}

const snapshotEvents = (engine: Engine, patch: Patch, id: string, glide: number): EngineEvent[] | Fault => {
  const snapshot = patch.snapshots?.find((item) => item.id === id)
  if (!snapshot) return { place: `snapshot ${id}`, message: 'there is no such snapshot' }
  const events: EngineEvent[] = []
  for (const [target, value] of Object.entries(snapshot.params ?? {})) {
    const result = engine.eventFor(target, value, glide > 0 ? glide : -1)
    if (!Array.isArray(result)) return result
    events.push(...result)
  }
  return events
}

/** Overrides of `--set`, applied to the patch itself: they hold from the first sample. */
export const withSettings = (
  patch: Patch,
  settings: readonly (readonly [target: string, value: ParamValue])[],
): Patch => {
  const modulesWith = (
    modules: Patch['modules'],
    id: string,
    name: string,
    value: ParamValue,
  ): Patch['modules'] =>
    modules.map((module) =>
      module.id === id
        ? { ...module, params: { ...module.params, [name]: value } }
        : module.inside
          ? {
              ...module,
              inside: { ...module.inside, modules: modulesWith(module.inside.modules, id, name, value) },
            }
          : module,
    )
  return settings.reduce<Patch>((result, [target, value]) => {
    if (target.startsWith('cable:'))
      return {
        ...result,
        cables: result.cables.map((cable) =>
          cable.id === target.slice(6) ? { ...cable, amount: Number(value) } : cable,
        ),
      }
    const dot = target.indexOf('.')
    return {
      ...result,
      modules: modulesWith(result.modules, target.slice(0, dot), target.slice(dot + 1), value),
    }
  }, patch)
}

/** A growing list of samples. */
class Tape {
  private data = new Float32Array(65536)
  length = 0
  reserve(frames: number): void {
    if (this.length + frames <= this.data.length) return
    const larger = new Float32Array(Math.max(this.data.length * 2, this.length + frames))
    larger.set(this.data)
    this.data = larger
  }
  push(value: number): void {
    this.data[this.length] = value
    this.length += 1
  }
  cut(start: number, frames: number): Float32Array {
    return this.data.slice(start, start + frames)
  }
}

interface Tap {
  readonly key: string
  readonly address: number
  readonly lanes: number
  readonly tapes: Tape[]
}

/**
 * A patch in which every port to be written exists while it plays: ports of groups and buses, and of what is bypassed,
 * are dissolved when a patch is compiled, so something that passes them on is connected to each. Names of the ports that
 * carry them then, by the names asked for.
 */
const withTaps = (
  patch: Patch,
  taps: readonly string[],
): { readonly patch: Patch; readonly keys: ReadonlyMap<string, string> } => {
  const modules = new Map(everyModule(patch).map(({ module }) => [module.id, module]))
  const added: PatchModule[] = [],
    cables: Cable[] = []
  const keys = taps.map((tap, index): [string, string] => {
    const module = modules.get(splitTarget(tap)?.[0] ?? '')
    const dissolved =
      module?.type === 'group' ||
      module?.bypass === true ||
      CATALOGUE.get(module?.type ?? '')?.description.flattened === true
    if (!dissolved) return [tap, tap]
    const id = `~tap:${index}`
    added.push({ id, type: 'meter' })
    cables.push({ from: tap, to: `${id}.in` })
    return [tap, `${id}.out`]
  })
  return {
    patch:
      added.length > 0
        ? { ...patch, modules: [...patch.modules, ...added], cables: [...patch.cables, ...cables] }
        : patch,
    keys: new Map(keys),
  }
}

/** Greatest values that events will set, by target. */
const settingsAhead = (events: readonly PlayerEvent[]): Map<string, number> => {
  const found = new Map<string, number>()
  for (const event of events)
    if (event.type === 'param' && typeof event.value === 'number')
      found.set(event.target, Math.max(found.get(event.target) ?? -Infinity, event.value))
  return found
}

/** Renders a checked patch offline, sample-exact, always the same. */
export const render = (
  kernels: WebAssembly.Module,
  patch: Patch,
  options: RenderOptions = {},
): Result<Rendered> => {
  const rate = options.rate ?? 48000
  const engine = new Engine(kernels, rate, {
    ...(options.best ? { best: true } : {}),
    ...(options.assets ? { assets: options.assets } : {}),
    settings: settingsAhead(options.events ?? []),
  })
  const { runtime, layout } = engine
  const { patch: tapped, keys } = withTaps(patch, options.taps ?? [])
  for (const key of keys.values()) layout.watchRing(key)
  const applied = engine.apply(tapped)
  if (!applied.ok) return applied
  const faults: Fault[] = []
  const taps: Tap[] = (options.taps ?? []).flatMap((key) => {
    const signal = layout.signal(keys.get(key)!)
    if (!signal) {
      faults.push({ place: `--tap ${key}`, message: 'there is no such output port' })
      return []
    }
    const lanes = signal.voices * signal.sides
    return [{ key, address: signal.address, lanes, tapes: Array.from({ length: lanes }, () => new Tape()) }]
  })
  const ordered = inOrder(options.events ?? [], rate)
  const ids = { next: 0 }
  for (const { frame, event } of ordered) {
    const events = engineEvents(engine, patch, event, rate, ids)
    if (!Array.isArray(events))
      faults.push({ place: `event at ${event.t} s, ${events.place}`, message: events.message })
    else for (const item of events) runtime.schedule(frame, item)
  }
  if (faults.length > 0) return { ok: false, faults }
  const latency = runtime.guardLatency
  const lastEvent = ordered.at(-1)?.frame ?? 0
  const exact = options.seconds === undefined ? undefined : Math.round(options.seconds * rate)
  const most = exact ?? lastEvent + LONGEST_TAIL * rate
  // A pair in between that nothing uses is silent, so that channels keep their numbers.
  const tapes = Array.from({ length: 2 * (1 + Math.max(...runtime.pairs)) }, () => new Tape())
  const l = new Float32Array(BLOCK),
    r = new Float32Array(BLOCK)
  const input = options.input
  let quiet = 0
  const capture = (_done: number, length: number): void => {
    for (const tap of taps) readTap(runtime, tap, length)
    loud = readPairs(runtime, tapes, length, l, r) || loud
  }
  let loud = false
  while (tapes[0]!.length < most + latency) {
    const inputs = input ? blockOf(input, runtime.time) : undefined
    loud = false
    runtime.process(l, r, 0, BLOCK, inputs, capture)
    quiet = loud ? 0 : quiet + BLOCK
    if (exact === undefined && tapes[0]!.length > lastEvent + latency && quiet > QUIET_SECONDS * rate) break
    if (tapes[0]!.length % 65536 < BLOCK && options.progress?.(tapes[0]!.length, most) === false)
      return { ok: false, faults: [{ place: '', message: 'the render was cancelled' }] }
  }
  const frames = exact ?? Math.max(lastEvent, tapes[0]!.length - latency - quiet)
  return {
    ok: true,
    warnings: [],
    value: {
      sound: { rate, channels: tapes.map((tape) => tape.cut(latency, frames)) },
      taps: new Map(
        taps.map((tap) => [tap.key, { rate, channels: tap.tapes.map((tape) => tape.cut(0, frames)) }]),
      ),
      limited: runtime.limitedFrames(),
      limitedDb: Math.max(0, (-20 / Math.LN10) * exactLog(runtime.leastGain())),
      stopped: runtime.isStopped(),
      resets: runtime.resets,
    },
  }
}

const blockOf = (
  input: Sound,
  time: number,
): { left: Float32Array; right: Float32Array; offset: number } => ({
  left: input.channels[0]!,
  right: input.channels[1] ?? input.channels[0]!,
  offset: time,
})

/** Appends what every output pair let out in a segment; true when any of it is above the level of tails. */
const readPairs = (
  runtime: Engine['runtime'],
  tapes: readonly Tape[],
  length: number,
  left: Float32Array,
  right: Float32Array,
): boolean => {
  let loud = false
  for (let pair = 0; 2 * pair < tapes.length; pair += 1) {
    const [l, r] = [tapes[2 * pair]!, tapes[2 * pair + 1]!]
    l.reserve(length)
    r.reserve(length)
    if (runtime.pairs.includes(pair)) runtime.readPair(pair, length, left, right, 0)
    else {
      left.fill(0)
      right.fill(0)
    }
    for (let f = 0; f < length; f += 1) {
      l.push(left[f]!)
      r.push(right[f]!)
      if (Math.abs(left[f]!) > TAIL_LEVEL || Math.abs(right[f]!) > TAIL_LEVEL) loud = true
    }
  }
  return loud
}

const readTap = (runtime: Engine['runtime'], tap: Tap, length: number): void => {
  for (let lane = 0; lane < tap.lanes; lane += 1) {
    const { address, stride } = runtime.laneOf(tap.address, lane)
    const tape = tap.tapes[lane]!
    tape.reserve(length)
    for (let f = 0; f < length; f += 1) tape.push(runtime.f32(address + f * stride))
  }
}
