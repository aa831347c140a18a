import { Engine } from '../engine/engine.ts'
import { compile } from '../compile/compile.ts'
import { CATALOGUE, PUBLIC_MODULES } from '../catalogue.ts'
import { moduleLoads } from '../engine/load.ts'
import { Playback } from '../perform/playback.ts'
import { checkPatch } from '../patch/validate.ts'
import type { ModuleDescription, SignalKind } from '../describe/types.ts'
import type { Patch } from '../patch/types.ts'
import { V16 } from './v16.ts'

const RATE = 48000
const BLOCK = 128

const middle = (list: number[]): number => list.sort((a, b) => a - b)[list.length >> 1]!

const timeOf = (work: () => unknown, now: () => number): number => {
  const start = now()
  work()
  return now() - start
}

const patchFrom = (value: unknown): Patch => {
  const result = checkPatch(value)
  if (!result.ok) throw new Error(result.faults.map((fault) => `${fault.place}: ${fault.message}`).join('\n'))
  return result.value
}

/** Renders `seconds` of a patch in blocks; seconds of sound per second of work. `play` starts and stops notes. */
export const timesRealTime = (
  kernels: WebAssembly.Module,
  value: unknown,
  seconds: number,
  now: () => number,
  play?: (engine: Engine, block: number) => void,
): number => {
  const engine = new Engine(kernels, RATE)
  const applied = engine.apply(patchFrom(value))
  if (!applied.ok) throw new Error(applied.faults[0]!.message)
  const left = new Float32Array(BLOCK),
    right = new Float32Array(BLOCK)
  const run = (blocks: number): void => {
    for (let block = 0; block < blocks; block += 1) {
      play?.(engine, block)
      engine.runtime.process(left, right, 0, BLOCK)
    }
  }
  run(400)
  const start = now()
  run((seconds * RATE) / BLOCK)
  return seconds / (now() - start)
}

/** Sixteen notes on and off in turn, every 50 blocks, as in the C reference. */
export const chords = (engine: Engine, block: number): void => {
  if (block % 50 !== 0) return
  for (let voice = 0; voice < 16; voice += 1) {
    const note = 48 + 2 * voice
    engine.runtime.send({
      event:
        block % 100 === 0
          ? { type: 'on', note, velocity: 1, id: voice + 1 }
          : { type: 'off', note, velocity: 0, id: voice + 1 },
    })
  }
}

export const v16TimesRealTime = (kernels: WebAssembly.Module, seconds: number, now: () => number): number =>
  timesRealTime(kernels, V16, seconds, now, chords)

/** Three modules in a circle without a delay, 16 lanes: runs sample by sample. Share of one core. */
export const loopLoad = (kernels: WebAssembly.Module, seconds: number, now: () => number): number => {
  const value = {
    format: 'ypsilon/patch',
    version: 1,
    modules: [
      { id: 'notes', type: 'notes', params: { voices: 16, mode: 'poly' } },
      { id: 'noise', type: 'noise' },
      { id: 'mix', type: 'mix' },
      { id: 'amp', type: 'amplifier', params: { level: -6 } },
      { id: 'filter', type: 'filter' },
    ],
    cables: [
      { from: 'notes.velocity', to: 'mix.in1' },
      { from: 'mix.out', to: 'filter.in' },
      { from: 'filter.low', to: 'amp.in' },
      { from: 'amp.out', to: 'mix.in2', amount: 0.5 },
    ],
  }
  const hold = (engine: Engine, block: number): void => {
    if (block === 0)
      for (let v = 0; v < 16; v += 1)
        engine.runtime.send({ event: { type: 'on', note: 40 + v, velocity: 0.1, id: v + 1 } })
  }
  return 1 / timesRealTime(kernels, value, seconds, now, hold)
}

/** A patch of `count` modules and three cables each, for compile times. */
export const largePatch = (count: number): Patch => {
  const modules = [{ id: 'notes', type: 'notes', params: { voices: 4, mode: 'poly' } }] as {
    id: string
    type: string
    params?: object
  }[]
  const cables: { from: string; to: string; amount?: number }[] = []
  const kinds = ['oscillator', 'filter', 'envelope', 'amplifier', 'mix', 'lfo'] as const
  const output = {
    oscillator: 'saw',
    filter: 'low',
    envelope: 'env',
    amplifier: 'out',
    mix: 'out',
    lfo: 'out',
  } as const
  const inputs = {
    oscillator: ['pitch', 'fine', 'width'],
    filter: ['in', 'cutoff', 'resonance'],
    envelope: ['gate', 'attack', 'decay'],
    amplifier: ['in', 'cv', 'level'],
    mix: ['in1', 'in2', 'amount1'],
    lfo: ['rate', 'level', 'reset'],
  } as const
  for (let n = 1; n < count - 1; n += 1) modules.push({ id: `m${n}`, type: kinds[n % kinds.length]! })
  modules.push({ id: 'out', type: 'output' })
  for (let n = 1; n < count - 1; n += 1) {
    const kind = kinds[n % kinds.length]!
    inputs[kind].forEach((port, k) => {
      const from = n - 1 - ((n * 7 + k * 3) % 12)
      const source = from < 1 ? 'notes.pitch' : `m${from}.${output[kinds[from % kinds.length]!]}`
      cables.push({ from: source, to: `m${n}.${port}`, amount: 0.5 })
    })
  }
  cables.push({ from: `m${count - 2}.${output[kinds[(count - 2) % kinds.length]!]}`, to: 'out.in' })
  return patchFrom({ format: 'ypsilon/patch', version: 1, modules, cables })
}

const MANY = 201

/**
 * Milliseconds of one compilation: median of many. Each is of a patch that was never seen as a whole; its modules and cables
 * stay the same objects, as edits leave them.
 */
export const compileTime = (known: Patch, now: () => number): number =>
  middle(
    Array.from({ length: MANY }, () => {
      const patch = { ...known, modules: [...known.modules], cables: [...known.cables] }
      return 1000 * timeOf(() => compile(patch), now)
    }),
  )

/** The same for one cable more, from and to somewhere else each time, after the patch without it. */
export const cableTime = (known: Patch, now: () => number): number => {
  const inputs = known.modules.flatMap(({ id, type }) => {
    const input = CATALOGUE.get(type)!.inputs.keys().next().value
    return input === undefined ? [] : [`${id}.${input}`]
  })
  const sources = known.cables.map(({ from }) => from)
  return middle(
    Array.from({ length: MANY }, (_, n) => {
      compile({ ...known, cables: [...known.cables] })
      const [from, to] = [sources[(n * 7) % sources.length]!, inputs[(n * 13) % inputs.length]!]
      const patch = { ...known, cables: [...known.cables, { id: 'more', from, to, amount: 0.5 }] }
      return 1000 * timeOf(() => compile(patch), now)
    }),
  )
}

/** 25 voices' worth of gated modules (200 in all): seconds of work while silent over seconds of work while playing. */
export const sleepRatio = (kernels: WebAssembly.Module, now: () => number): number => {
  const modules: { id: string; type: string; params?: object }[] = [
    { id: 'notes', type: 'notes', params: { voices: 4, mode: 'poly' } },
    { id: 'out', type: 'output', params: { level: -48 } },
  ]
  const cables: { from: string; to: string }[] = []
  for (let n = 0; n < 33; n += 1) {
    modules.push(
      { id: `e${n}`, type: 'envelope', params: { release: 0.05 } },
      { id: `o${n}`, type: 'noise', params: { level: 0 } },
      { id: `a${n}`, type: 'amplifier' },
      { id: `f${n}`, type: 'filter', params: { cutoff: 300 + 40 * n } },
      { id: `g${n}`, type: 'filter', params: { cutoff: 4000, resonance: 0.4 } },
      { id: `m${n}`, type: 'mix' },
    )
    cables.push(
      { from: 'notes.gate', to: `e${n}.gate` },
      { from: 'notes.velocity', to: `o${n}.level` },
      { from: `o${n}.white`, to: `a${n}.in` },
      { from: `e${n}.env`, to: `a${n}.cv` },
      { from: `a${n}.out`, to: `f${n}.in` },
      { from: `f${n}.low`, to: `g${n}.in` },
      { from: `g${n}.low`, to: `m${n}.in1` },
      { from: `m${n}.out`, to: 'out.in' },
    )
  }
  const value = { format: 'ypsilon/patch', version: 1, modules, cables }
  const playing = timesRealTime(kernels, value, 5, now, (engine, block) => {
    if (block === 0)
      for (let v = 0; v < 4; v += 1)
        engine.runtime.send({ event: { type: 'on', note: 50 + v, velocity: 1, id: v + 1 } })
  })
  const silent = timesRealTime(kernels, value, 5, now)
  return playing / silent
}

/** A large patch that plays, looked at in 200 places or not; runs blocks. */
const watchedPatch = (
  kernels: WebAssembly.Module,
  patch: Patch,
  watching: boolean,
): ((blocks: number) => void) => {
  const engine = new Engine(kernels, RATE)
  engine.apply(patch)
  const keys = patch.modules
    .flatMap((module) => ['saw', 'low', 'env', 'out'].map((port) => `${module.id}.${port}`))
    .filter((key) => engine.layout.signal(key))
    .slice(0, 200)
  if (watching)
    engine.runtime.setWatches(
      keys.map((key) => {
        const signal = engine.layout.signal(key)!,
          ring = engine.layout.watchRing(key)
        engine.runtime.reserve(ring.memoryBytes)
        return { signal: signal.address, voices: signal.voices, sides: signal.sides, ring: ring.address }
      }),
    )
  const left = new Float32Array(BLOCK),
    right = new Float32Array(BLOCK)
  return (blocks) => {
    for (let n = 0; n < blocks; n += 1) engine.runtime.process(left, right, 0, BLOCK)
  }
}

/** What looking at 200 ports costs, as a share of one core: with less without, in short turns; the median of many. */
export const watchLoad = (kernels: WebAssembly.Module, now: () => number): number => {
  const patch = largePatch(200),
    turn = 25
  const looking = watchedPatch(kernels, patch, true),
    blind = watchedPatch(kernels, patch, false)
  looking(750)
  blind(750)
  const differences = Array.from({ length: 120 }, () => {
    const less = timeOf(() => blind(turn), now)
    return timeOf(() => looking(turn), now) - less
  })
  return Math.max(0, middle(differences)) / ((turn * BLOCK) / RATE)
}

export interface ModuleCost {
  readonly type: string
  readonly nanoseconds: number
  /** Voices times sides it was measured with. */
  readonly lanes: number
  readonly bound: number
}

/** Inputs that are connected in nearly every patch. */
const USUAL = new Set([
  'in',
  'in1',
  'in2',
  'a',
  'b',
  'pitch',
  'gate',
  'trigger',
  'clock',
  'cv',
  'left',
  'right',
  'excite',
])

/** Nanoseconds a module takes for one sample of one lane: 16 voices unless told otherwise, its usual inputs connected, notes held. */
export const moduleCosts = (
  kernels: WebAssembly.Module,
  now: () => number,
  seconds = 0.15,
  modules: readonly ModuleDescription[] = PUBLIC_MODULES,
  voices = 16,
): ModuleCost[] =>
  modules
    .filter((module) => !module.flattened && module.role !== 'output')
    .map((module) => {
      const isNotes = module.type === 'notes'
      // Gates open and close, and what plays pitches is given some that move: nothing rests.
      const source: Readonly<Record<SignalKind, string>> = {
        pitch: module.family === 'playing' ? 'v.out' : 'n.pitch',
        gate: 'g.out',
        audio: 'o.saw',
        control: 'o.saw',
      }
      const cables = module.inputs
        .filter((port) => USUAL.has(port.name))
        .map((port) => ({
          from: port.name.includes('clock') ? 'c.square' : source[port.kind],
          to: `m.${port.name}`,
          amount: port.kind === 'control' ? 0.1 : 1,
        }))
      const outs = module.outputs
        .slice(0, 1)
        .map((port) => ({ from: `m.${port.name}`, to: 'out.in', amount: 0.01 }))
      const notes = isNotes ? 'm' : 'n'
      const patch = patchFrom({
        format: 'ypsilon/patch',
        version: 1,
        modules: [
          ...(isNotes ? [] : [{ id: 'n', type: 'notes', params: { voices, mode: 'poly' } }]),
          { id: 'o', type: 'oscillator' },
          { id: 'c', type: 'lfo', params: { rate: 8 } },
          { id: 'g', type: 'multiply' },
          { id: 'v', type: 'mix', params: { amount2: 0.1 } },
          { id: 'm', type: module.type, params: isNotes ? { voices, mode: 'poly' } : {} },
          { id: 'out', type: 'output', params: { level: -40 } },
        ],
        cables: [
          { from: `${notes}.gate`, to: 'g.a' },
          { from: 'c.square', to: 'g.b' },
          { from: `${notes}.pitch`, to: 'v.in1' },
          { from: 'c.sine', to: 'v.in2' },
          { from: `${notes}.pitch`, to: 'o.pitch' },
          ...cables,
          ...outs,
        ],
      })
      // The least of a few: whatever else the machine does only adds.
      const own = Math.min(
        ...[1, 2, 3, 4].map(() =>
          moduleLoads(kernels, patch, { now, seconds })
            .filter((load) => load.ids.includes('m'))
            .reduce((sum, load) => sum + load.share, 0),
        ),
      )
      const result = compile(patch)
      const shape = result.ok ? result.plan.modules.find((item) => item.id === 'm')! : { voices: 1, sides: 1 }
      return {
        type: module.type,
        nanoseconds: (own * 1e9) / (RATE * shape.voices * shape.sides),
        lanes: shape.voices * shape.sides,
        bound: module.bound,
      }
    })

export interface RecallCost {
  /** Shares of the time a block lasts: what the page works out, what the audio thread takes in, and what a block costs more while 500 values move. */
  readonly worked: number
  readonly taken: number
  readonly moving: number
}

const VOICES = 100,
  RECALLS = 40

/** 500 values of a patch of 301 modules, recalled again and again: medians. */
export const recallCost = (kernels: WebAssembly.Module, now: () => number): RecallCost => {
  const names = Array.from({ length: VOICES }, (_, n) => n)
  const params = (scale: number): Record<string, number> =>
    Object.fromEntries(
      names.flatMap((n) => [
        [`o${n}.fine`, 20 * scale],
        [`f${n}.cutoff`, 3000 * scale],
        [`f${n}.resonance`, 0.5 * scale],
        [`a${n}.level`, -3 * scale],
        [`cable:k${n}`, 0.02 * scale],
      ]),
    )
  const patch = patchFrom({
    format: 'ypsilon/patch',
    version: 1,
    modules: [
      ...names.flatMap((n) => [
        { id: `o${n}`, type: 'oscillator' },
        { id: `f${n}`, type: 'filter' },
        { id: `a${n}`, type: 'amplifier' },
      ]),
      { id: 'out', type: 'output' },
    ],
    cables: names.flatMap((n) => [
      { from: `o${n}.saw`, to: `f${n}.in` },
      { from: `f${n}.low`, to: `a${n}.in` },
      { id: `k${n}`, from: `a${n}.out`, to: 'out.in', amount: 0.01 },
    ]),
    snapshots: [
      { id: 's', name: 'One', params: params(1) },
      { id: 't', name: 'Other', params: params(0.5) },
    ],
  })
  const playback = new Playback(kernels, patch, [], { sampleRate: RATE })
  playback.begin()
  const { runtime, performance } = playback
  const left = new Float32Array(BLOCK),
    right = new Float32Array(BLOCK)
  const block = (): number => {
    const start = now()
    runtime.process(left, right, 0, BLOCK)
    return now() - start
  }
  const worked: number[] = [],
    taken: number[] = [],
    moving: number[] = [],
    still: number[] = []
  for (let n = 0; n < RECALLS; n += 1) {
    const start = now()
    performance.play({ t: 0, type: 'snapshot', target: n % 2 ? 's' : 't' }, runtime.time)
    const steps = performance.flush(runtime.time)
    const made = now()
    for (const step of steps)
      if (step.kind === 'events') for (const event of step.events) runtime.send({ event })
    worked.push(made - start)
    taken.push(now() - made)
    for (let k = 0; k < 5; k += 1) moving.push(block())
    for (let k = 0; k < 20; k += 1) block()
    for (let k = 0; k < 5; k += 1) still.push(block())
  }
  const length = BLOCK / RATE
  return {
    worked: middle(worked) / length,
    taken: middle(taken) / length,
    moving: Math.max(0, middle(moving) - middle(still)) / length,
  }
}
