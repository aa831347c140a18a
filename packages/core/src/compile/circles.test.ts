/** Circles and layers of what is dissolved when a patch is compiled: buses, groups, bypassed modules, formulas, macros. */
import { describe, expect, it } from 'vitest'
import { adviseOn } from '../advice/advise.ts'
import { CATALOGUE } from '../catalogue.ts'
import { macroMoves } from '../patch/macros.ts'
import type { Patch } from '../patch/types.ts'
import { checkPatch } from '../patch/validate.ts'
import * as hard from '../testing/hard.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { Live } from '../testing/live.ts'
import { compile } from './compile.ts'
import { flatten } from './flatten.ts'

const checked = (value: unknown): Patch => {
  const result = checkPatch(value)
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result.value
}
const faultsOf = (value: unknown): string[] => {
  const result = checkPatch(value)
  return result.ok ? [] : result.faults.map(({ place, message }) => `${place}: ${message}`)
}
const loopsOf = (patch: Patch): string[] => {
  const result = compile(patch)
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return adviseOn(patch, result.plan).loops.map(
    ({ modules, delay, samples }) => `${[...modules].sort().join(' ')}: ${delay} (${samples})`,
  )
}

/** y[n] = x[n] + gain · y[n − delay]. */
const fedBack = (x: Float32Array, gain: number, delay: number): number[] => {
  const y: number[] = []
  x.forEach((value, n) => y.push(value + gain * (n < delay ? 0 : y[n - delay]!)))
  return y
}

describe('a circle without any module', () => {
  it.each([
    ['a bus into itself by one cable', hard.circularBus(1, 0.5), 'ai ao', 0.5],
    ['a bus into itself by two cables', hard.circularBus(2, 0.25), 'ai ao', 0.5],
  ] as const)('%s is a loop of one sample', (_name, value, modules, gain) => {
    const patch = checked(value)
    expect(loopsOf(patch)).toEqual([
      expect.stringMatching(new RegExp(`^${modules}: 1 sample of delay on ao.out > ai.in \\(1\\)$`)),
    ])
    const heard = hear(patch, 0.05, { taps: ['osc.saw', 'ao.out'] })
    const wanted = fedBack(
      heard.tap('osc.saw').map((x) => 0.1 * x),
      gain,
      1,
    )
    heard.tap('ao.out').forEach((y, n) => {
      expect(Math.abs(y - wanted[n]!)).toBeLessThan(1e-5)
    })
  })

  it('a group that is a wire, and bypassed modules, are such loops too', () => {
    expect(loopsOf(checked(hard.circularGroup()))).toEqual([expect.stringContaining('1 sample')])
    expect(loopsOf(checked(hard.bypassedRing(3)))).toEqual([expect.stringMatching(/^f0 f1 f2: 1 sample/)])
  })

  it('a ring of buses joined by doubled cables is cut on its last two cables', () => {
    const patch = checked(hard.ringOfBuses(20))
    const result = compile(patch)
    expect(result.ok && result.plan.loops).toEqual([
      expect.objectContaining({ cut: ['b19o.out > b0i.in', 'b19o.out > b0i.in'] }),
    ])
  })

  it('keeps its state while something else is edited', () => {
    const patch = checked(hard.circularBus(1, 0.9))
    const ids = (value: Patch): string[] => [...flatten(value, CATALOGUE).held.keys()]
    const more = checked({ ...patch, modules: [...patch.modules, { id: 'extra', type: 'noise' }] })
    expect(ids(more)).toEqual(ids(patch))
  })
})

describe('layers', () => {
  it('adds up what comes through 22 doubled cables in a row', () => {
    const patch = checked(hard.rowOfBuses(22))
    const [feeds] = [...flatten(patch, CATALOGUE).feeds.values()]
    expect(feeds).toHaveLength(1)
    // 2^21 ways of 2^-22 each.
    expect(feeds![0]).toMatchObject({ module: 'osc', port: 'saw', amount: 0.5 })
  })

  it('refuses more connections than can be played, and says where', () => {
    const into = Array.from({ length: 600 }, (_, n) => ({ from: `m${n}.out`, to: 'ai.in' }))
    const from = Array.from({ length: 600 }, (_, n) => ({ from: 'ao.out', to: `m${n}.in1` }))
    const result = compile(
      checked({
        format: 'ypsilon/patch',
        version: 1,
        modules: [
          { id: 'ai', type: 'busin' },
          { id: 'ao', type: 'busout' },
          ...into.map((_, n) => ({ id: `m${n}`, type: 'mix' })),
        ],
        cables: [...into, ...from],
      }),
    )
    expect(!result.ok && result.faults[0]!.message).toContain('connections meet here')
  })

  it('plays formulas that each name two below, and names a circle of them once', () => {
    expect(hear(checked(hard.layeredFormulas(25)), 0.01).out.some((x) => x !== 0)).toBe(true)
    const faults = faultsOf(hard.layeredFormulas(25, true))
    expect(faults[0]).toContain('a0.value')
    expect(faults[0]!.length).toBeLessThan(300)
  })

  it('takes thousands of chained formulas in any order', () => {
    for (const reversed of [false, true])
      expect(compile(checked(hard.chainedFormulas(3000, reversed))).ok).toBe(true)
  })
})

describe('macros on macros', () => {
  it('moves each macro once, however many ways lead to it', () => {
    const patch = checked(hard.layeredMacros(30))
    const moves = macroMoves(patch, new Map([['m0', 0.75]]))
    expect(new Set(moves.values())).toEqual(new Set([0.75]))
    expect(moves.size).toBeLessThanOrEqual(2 * patch.macros!.length)
  })

  it('refuses a macro on itself and rings of macros', () => {
    expect(faultsOf(hard.ringOfMacros(1))).toEqual(['macros[0].targets: the macro m0 moves itself'])
    expect(faultsOf(hard.ringOfMacros(3))).toEqual([expect.stringContaining('in a ring')])
  })

  it('takes a macro without a list of targets for one without targets', () => {
    const patch = { ...(hard.layeredMacros(1) as object), macros: [{ id: 'm', name: 'm', value: 0 }] }
    expect([...macroMoves(checked(patch), new Map([['m', 1]]))]).toEqual([['macro:m', 1]])
  })
})

describe('amounts on the way through a bus', () => {
  const bus = (): Patch => ({
    ...patchOf(
      [
        ['v', 'value', { value: 1 }],
        ['i', 'busin'],
        ['o', 'busout'],
        ['g', 'mix'],
        ['out', 'output'],
      ],
      [],
    ),
    cables: [
      { id: 'a', from: 'v.out', to: 'i.in', amount: 0.5 },
      { id: 'b', from: 'o.out', to: 'g.in1', amount: 0.5 },
      { id: 'c', from: 'g.out', to: 'out.in' },
    ],
  })

  it.each(['a', 'b'] as const)('cable %s set while it plays is as if set from the start', (id) => {
    const live = new Live(bus())
    live.layout.watchRing('g.out')
    live.run(0.05)
    live.change((draft) => {
      draft.cables.find((cable) => cable.id === id)!.amount = 0.8
    })
    live.run(0.2)
    const { address } = live.runtime.laneOf(live.layout.signal('g.out')!.address, 0)
    expect(live.runtime.f32(address)).toBeCloseTo(0.4, 5)
  })
})
