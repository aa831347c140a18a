/** The engine as a whole: voices, loops, silence, watching, compiling. */
import { CATALOGUE } from '../catalogue.ts'
import { compile } from '../compile/compile.ts'
import { Engine } from '../engine/engine.ts'
import type { Patch } from '../patch/types.ts'
import { BLOCK, middle, patchFrom, RATE, timeOf, timesRealTime } from './measure.ts'
import { V16 } from './v16.ts'

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
