/**
 * Every special path against the general one, over the whole catalogue: what a module sounds like must not depend on
 * whether a signal stands still or moves, on who reads its other outputs, or on whether a value is set or brought.
 */
import { describe, expect, it } from 'vitest'
import { PUBLIC_MODULES } from '../catalogue.ts'
import { leastOf } from '../describe/params.ts'
import { isSignalParam } from '../describe/slots.ts'
import type { ModuleDescription, NumberParam } from '../describe/types.ts'
import type { Patch } from '../patch/types.ts'
import { play, RATE, surround, type Variant, whole } from '../testing/surround.ts'

const MODULES = PUBLIC_MODULES.filter((module) => !module.flattened && module.role !== 'output')
const SECONDS = 0.04
/** Relative to the loudest sample: octaves are exact to 2e-7, which a phase gathers up. */
const TOLERANCE = 2e-5
const MONO: Variant = { voices: 1, stereo: false }
const VOICES: Variant = { voices: 3, stereo: false }

/** Inputs that a connected cable changes by being there, as their descriptions say. */
const isNormalled = (module: ModuleDescription, name: string): boolean =>
  module.inputs.some((port) => port.name === name && port.normalled !== undefined)

const numberParams = (module: ModuleDescription): NumberParam[] =>
  module.params.filter((param): param is NumberParam => param.kind === 'number' && isSignalParam(param))

/** Only what a module needs to be heard: all else stands still, so that every short cut is taken. */
const bare = (patch: Patch, module: ModuleDescription): Patch => {
  const kept = new Set(
    module.inputs.filter((port) => port.kind !== 'control' || port.name === 'in').map((port) => port.name),
  )
  for (const port of module.inputs) if (port.name === 'sync' || port.name === 'fm') kept.delete(port.name)
  return {
    ...patch,
    cables: patch.cables.filter((cable) => !cable.to.startsWith('m.') || kept.has(cable.to.slice(2))),
  }
}

const without = (patch: Patch, port: string): Patch => ({
  ...patch,
  cables: patch.cables.filter((cable) => cable.to !== `m.${port}`),
})

/** The patch with a source that moves frame by frame and is 0 all the time, on the given inputs or parameters. */
const withMovingZero = (patch: Patch, ports: readonly string[]): Patch => ({
  ...patch,
  modules: [
    ...patch.modules,
    { id: 'zero', type: 'oscillator', params: { level: 0, tracking: false, frequency: 777 } },
  ],
  cables: [...patch.cables, ...ports.map((port) => ({ from: 'zero.sine', to: `m.${port}` }))],
})

const outputsOf = (module: ModuleDescription, patch: Patch, seconds = SECONDS): Map<string, number[]> =>
  play(patch, module, seconds, whole).outputs

/** Where two renders differ first, in words; empty where they agree bit for bit. */
const difference = (
  a: ReadonlyMap<string, number[]>,
  b: ReadonlyMap<string, number[]>,
  tolerance = 0,
): string => {
  const found: string[] = []
  for (const [port, rows] of a) {
    const other = b.get(port)
    if (!other) continue
    const scale = rows.reduce((most, x) => Math.max(most, Math.abs(x)), 1e-9) * tolerance
    const at = rows.findIndex((x, i) => !(Math.abs(x - other[i]!) <= scale))
    if (at >= 0 || rows.length !== other.length)
      found.push(`${port} differs at ${at}: ${rows[at]} / ${other[at]}`)
  }
  return found.join('; ')
}

const withParams = (patch: Patch, params: Readonly<Record<string, number>>): Patch => ({
  ...patch,
  modules: patch.modules.map((item) =>
    item.id === 'm' ? { ...item, params: { ...item.params, ...params } } : item,
  ),
})

/** Every number away from its default: what a zero switches off is on. */
const unusual = (patch: Patch, module: ModuleDescription): Patch => {
  const place = (param: NumberParam): number => {
    if (param.log) return Math.sqrt(param.default * Math.sqrt(param.min * param.max))
    const value = param.min + (param.max - param.min) * (param.time ? 0.002 : 0.625)
    return param.whole ? Math.round(value) : value
  }
  return withParams(
    bare(patch, module),
    Object.fromEntries(numberParams(module).map((p) => [p.name, place(p)])),
  )
}

const REGIMES = [
  ['where all else stands still', bare],
  ['where all is set off its defaults', unusual],
  ['where all else moves', (patch: Patch): Patch => patch],
] as const

/** A base value and a modulation that together give a value exactly, or as exactly as octaves can. */
const sharesOf = (param: NumberParam): { base: number; amount: number; value: number } => {
  if (param.log) {
    const up = param.default * 2 <= param.max
    return { base: param.default, amount: up ? 1 : -1, value: up ? param.default * 2 : param.default / 2 }
  }
  if (param.time) {
    const base = param.default > 0 ? Math.min(param.default, param.max / 4) : 0.003
    // 0.1 ms, in the parameter's own unit.
    return { base, amount: 1, value: 2 * base + leastOf(param, RATE) }
  }
  const amount = 2 ** Math.floor(Math.log2((param.max - param.min) / 4))
  const up = param.default + amount <= param.max
  return {
    base: param.default,
    amount: up ? amount : -amount,
    value: param.default + (up ? amount : -amount),
  }
}

describe.each(MODULES.map((module) => [module.type, module] as const))('%s', (_type, module) => {
  const targets = [
    ...module.inputs.map((port) => port.name).filter((name) => !isNormalled(module, name)),
    ...numberParams(module).map((param) => param.name),
  ]

  for (const [words, regime] of REGIMES) {
    it.runIf(targets.length > 0)(`hears nothing of a moving 0, ${words}`, () => {
      const faults: string[] = []
      const compare = (variant: Variant, which: readonly string[]): void => {
        const patch = which.reduce(without, regime(surround(module, variant), module))
        const found = difference(outputsOf(module, patch), outputsOf(module, withMovingZero(patch, which)))
        if (found !== '')
          faults.push(`${which.length > 1 ? 'all' : which[0]}, ${variant.voices} voices: ${found}`)
      }
      compare(VOICES, targets)
      for (const target of targets) compare(MONO, [target])
      expect(faults).toEqual([])
    })

    it.runIf(module.outputs.length > 1)(`gives each output as if no other were read, ${words}`, () => {
      const patch = regime(surround(module, VOICES), module)
      const all = outputsOf(module, patch)
      const faults = module.outputs.map((port) => {
        const alone = { ...module, outputs: [port] }
        return difference(outputsOf(alone, patch), all)
      })
      expect(faults.filter(Boolean)).toEqual([])
    })
  }

  it.runIf(module.outputs.length > 0 && targets.length > 0)(
    'may feed itself, on any input or parameter',
    () => {
      for (const port of module.outputs.slice(0, 2))
        for (const target of [...module.inputs.map((input) => input.name), ...targets]) {
          const patch = bare(surround(module, MONO), module)
          const fed: Patch = {
            ...patch,
            cables: [...patch.cables, { from: `m.${port.name}`, to: `m.${target}`, amount: 0.1 }],
          }
          for (const rows of outputsOf(module, fed, 0.01).values())
            expect(rows.every(Number.isFinite), `${port.name} > ${target}`).toBe(true)
          // By itself and at full amount: then nothing stands between the two.
          const alone = without(patch, target)
          const direct: Patch = {
            ...alone,
            cables: [...alone.cables, { from: `m.${port.name}`, to: `m.${target}` }],
          }
          for (const rows of outputsOf(module, direct, 0.005).values())
            expect(rows.every(Number.isFinite), `${port.name} > ${target} alone`).toBe(true)
        }
    },
  )

  it.runIf(numberParams(module).length > 0)('takes a value the same by hand and by cable', () => {
    const faults: string[] = []
    for (const param of numberParams(module)) {
      const { base, amount, value } = sharesOf(param)
      const alone = without(bare(surround(module, MONO), module), param.name)
      // A pitch on a cable takes the place of the frequency set.
      const patch = param.factor === true ? without(alone, 'pitch') : alone
      const byHand = outputsOf(module, withParams(patch, { [param.name]: value }))
      const cabled: Patch = {
        ...withParams(patch, { [param.name]: base }),
        modules: [
          ...withParams(patch, { [param.name]: base }).modules,
          { id: 'one', type: 'value', params: { value: 1 } },
        ],
        cables: [...patch.cables, { from: 'one.out', to: `m.${param.name}`, amount }],
      }
      const still = difference(byHand, outputsOf(module, cabled), TOLERANCE)
      if (still !== '') faults.push(`${param.name} = ${value} by a cable that stands: ${still}`)
      const moving = difference(byHand, outputsOf(module, withMovingZero(cabled, [param.name])), TOLERANCE)
      if (moving !== '') faults.push(`${param.name} = ${value} by a cable that moves: ${moving}`)
    }
    expect(faults).toEqual([])
  })
})

/** Puts two equal sides in the place of whatever ends on one port or parameter. */
const onBothSides = (patch: Patch, port: string): Patch => ({
  ...patch,
  modules: [...patch.modules, { id: 'both', type: 'join' }],
  cables: patch.cables.flatMap((cable) =>
    cable.to === `m.${port}`
      ? [
          { ...cable, id: `${cable.id}l`, to: 'both.left', amount: 1 },
          { ...cable, id: `${cable.id}r`, to: 'both.right', amount: 1 },
          { ...cable, from: 'both.out' },
        ]
      : [cable],
  ),
})

/** Frames of lanes as they stand, each side of a stereo output as one of its own. */
const sidesOf = (rows: readonly number[], lanes: number, sides: number): number[][] =>
  Array.from({ length: sides }, (_, side) => rows.filter((__, i) => (i % lanes) % sides === side))

describe('a stereo cable with two equal sides is like a mono one, for 16 voices', () => {
  const SIXTEEN: Variant = { voices: 16, stereo: false }
  const SHORT = 0.015
  // What draws values by itself draws others for the other side.
  const same = MODULES.filter((module) => module.shape?.perVoice === undefined)
  it.each(same.map((module) => [module.type, module] as const))('%s', (_type, module) => {
    const patch = surround(module, SIXTEEN)
    const mono = outputsOf(module, patch, SHORT)
    const wrong: string[] = []
    for (const { name } of [...module.inputs, ...numberParams(module)]) {
      const stereo = outputsOf(module, onBothSides(patch, name), SHORT)
      for (const [port, rows] of mono) {
        const other = stereo.get(port)!,
          sides = other.length / rows.length,
          lanes = other.length / Math.round(SHORT * 48000)
        for (const side of sides === 1 ? [other] : sidesOf(other, lanes, sides)) {
          const text = difference(new Map([[port, rows]]), new Map([[port, side]]), TOLERANCE)
          if (text) wrong.push(`${name}: ${text}`)
        }
      }
    }
    expect(wrong.slice(0, 3)).toEqual([])
  })
})
