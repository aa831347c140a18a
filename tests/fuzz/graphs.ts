/** Valid patches at random over the whole catalogue, and what every one of them must keep when it is rendered. */
import {
  checkPatch,
  faultText,
  isSignalParam,
  type ModuleDescription,
  type ParamDescription,
  type ParamValue,
  paramAt,
  parsePlay,
  type Patch,
  PUBLIC_MODULES,
  render,
  type RenderOptions,
  type Sound,
} from '@ypsilon/core'
import { truePeakDb } from '../../packages/core/src/testing/truepeak.ts'
import { Dice } from '../../packages/core/src/units/dice.ts'

const TYPES = PUBLIC_MODULES.filter((module) => !module.flattened)
const RATES = [8000, 11025, 22050, 44100, 48000, 96000, 192000]
/** Delay memory is real memory: kept small here. */
const LONGEST_DELAY = 0.2

const valueOf = (param: ParamDescription, dice: Dice): ParamValue => {
  switch (param.kind) {
    case 'switch':
      return dice.chance(0.5)
    case 'choice':
      return dice.of(param.choices)
    case 'text':
      return dice.of(['a', 'b'])
    case 'number': {
      const high = param.name === 'max' ? Math.min(LONGEST_DELAY, param.max) : param.max
      const value = dice.chance(0.3) ? dice.of([param.min, high]) : dice.between(param.min, high)
      return param.whole ? Math.round(value) : value
    }
  }
}

/** Lists and formulas for a module's data. */
const dataOf = (module: ModuleDescription, dice: Dice): Record<string, unknown> =>
  Object.fromEntries(
    (module.data ?? []).flatMap((data): [string, unknown][] => {
      if (dice.chance(0.5)) return []
      const length = 1 + dice.below(Math.min(16, data.length ?? 16))
      switch (data.kind) {
        case 'numbers':
          return [[data.name, Array.from({ length }, () => dice.between(data.min ?? -10, data.max ?? 10))]]
        case 'booleans':
          return [[data.name, Array.from({ length }, () => dice.chance(0.5))]]
        case 'text':
          return [[data.name, dice.of(['x = a * b; y = prev(x)', 'x = a / b', 'y = tan(a ^ 3); x = log(y)'])]]
        default:
          return []
      }
    }),
  )

const moduleOf = (description: ModuleDescription, id: string, dice: Dice): Record<string, unknown> => {
  const params: Record<string, ParamValue> = {}
  for (const param of description.params) {
    if (!dice.chance(0.4) && param.name !== 'max') continue
    params[param.name] = valueOf(paramAt(param, params), dice)
  }
  // Each buffer has a name of its own.
  if (description.shares?.as === 'keeper') params[description.shares.name] = id
  return {
    id,
    type: description.type,
    params,
    data: dataOf(description, dice),
    ...(description.bypass && dice.chance(0.05) ? { bypass: true } : {}),
  }
}

const endsOf = (description: ModuleDescription): string[] => [
  ...description.inputs.map(({ name }) => name),
  ...description.params.filter(isSignalParam).map(({ name }) => name),
]

/** A patch of 3…24 modules of any type, joined at random, loops and extreme amounts included. */
export const randomGraph = (seed: number): Patch => {
  const dice = new Dice(seed)
  const count = 3 + dice.below(22)
  const types = [
    ...Array.from({ length: count }, () => dice.of(TYPES)),
    ...['notes', 'output'].map((type) => TYPES.find((module) => module.type === type)!),
  ]
  const sources = types.flatMap((module, n) => module.outputs.map(({ name }) => `m${n}.${name}`)),
    ends = types.flatMap((module, n) => endsOf(module).map((name) => `m${n}.${name}`))
  const cables = Array.from({ length: dice.below(3 * count) }, (_, n) => ({
    id: `c${n}`,
    from: dice.of(sources),
    to: dice.of(ends),
    amount: dice.chance(0.6) ? dice.between(-1, 1) : dice.extreme(1e6),
  }))
  cables.push({ id: 'out', from: dice.of(sources), to: `m${types.length - 1}.in`, amount: dice.extreme(100) })
  // Not every random value is valid beside every other: what is refused goes back to its default.
  let patch: unknown = {
    format: 'ypsilon/patch',
    version: 1,
    name: `Graph ${seed}`,
    seed,
    modules: types.map((module, n) => moduleOf(module, `m${n}`, dice)),
    cables,
  }
  for (let round = 0; round < 4; round += 1) {
    const result = checkPatch(patch)
    if (result.ok) return result.value
    patch = withoutFaulty(
      patch as Patch,
      result.faults.map(({ place }) => place),
    )
  }
  throw new Error(`graph ${seed} is not valid`)
}

const withoutFaulty = (patch: Patch, places: readonly string[]): Patch => {
  const bad = new Set(places.map((place) => Number(/^modules\[(\d+)\]/.exec(place)?.[1] ?? -1)))
  return {
    ...patch,
    modules: patch.modules.map((module, n) => (bad.has(n) ? { id: module.id, type: module.type } : module)),
  }
}

const FRAMES = 9600
const PLAY = '40@0+0.05 47.3@0.01+0.04:0.3 52@0.02+1 64@0.03+0.01'
const MOST_TAPS = 48

/** The options a graph is rendered with: a rate and ports to watch, by its seed. */
export const optionsFor = (patch: Patch, seed: number): RenderOptions & { rate: number } => {
  const dice = new Dice(seed ^ 0x5f5f)
  const rate = dice.of(RATES)
  const events = parsePlay(PLAY)
  const taps = patch.modules.flatMap((module) =>
    (TYPES.find(({ type }) => type === module.type)?.outputs ?? []).map(({ name }) => `${module.id}.${name}`),
  )
  return {
    rate,
    best: dice.chance(0.2),
    seconds: FRAMES / rate,
    taps: taps.slice(0, MOST_TAPS),
    ...(events.ok ? { events: events.value } : {}),
  }
}

/** Taps a place of the filter that the output is measured by; the cut at the end is left out. */
const TAPS = 48

const sameStart = (a: Float32Array, b: Float32Array): number => {
  const length = Math.min(a.length, b.length)
  for (let i = 0; i < length; i += 1) if (!Object.is(a[i], b[i])) return i
  return -1
}

/** What is wrong with how a graph renders; undefined when it keeps every promise. */
export const graphFault = (kernels: WebAssembly.Module, seed: number): string | undefined => {
  const patch = randomGraph(seed),
    options = optionsFor(patch, seed)
  const rendered = (seconds: number) => {
    const result = render(kernels, patch, { ...options, seconds })
    if (!result.ok) throw new Error(result.faults.map(faultText).join('; '))
    return result.value
  }
  const whole = rendered(FRAMES / options.rate)
  const every: [string, Sound][] = [['output', whole.sound], ...whole.taps]
  for (const [name, { channels }] of every)
    for (const [lane, x] of channels.entries()) {
      const at = x.findIndex((value) => !Number.isFinite(value))
      if (at >= 0) return `${name}, lane ${lane}, frame ${at} is ${x[at]} at ${options.rate} Hz`
    }
  for (const x of whole.sound.channels) {
    const db = truePeakDb(x, TAPS, x.length - TAPS)
    if (db > -0.9) return `the output reaches ${db.toFixed(2)} dBTP at ${options.rate} Hz`
  }
  const again = rendered(FRAMES / options.rate),
    part = rendered(FRAMES / 3 / options.rate)
  for (const other of [again, part])
    for (const [name, { channels }] of [['output', other.sound], ...other.taps] as [string, Sound][]) {
      const first = name === 'output' ? whole.sound : whole.taps.get(name)!
      for (const [lane, x] of channels.entries()) {
        const at = sameStart(first.channels[lane]!, x)
        if (at >= 0)
          return `${name}, lane ${lane} differs from frame ${at} on ${other === again ? 'when rendered again' : 'in a shorter render'}`
      }
    }
  return undefined
}
