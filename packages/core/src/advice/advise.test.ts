import { describe, expect, it } from 'vitest'
import { compile } from '../compile/compile.ts'
import { moduleLoads } from '../engine/load.ts'
import type { Patch } from '../patch/types.ts'
import { patchOf } from '../testing/bench.ts'
import { testKernels } from '../testing/kernels.ts'
import { type Advice, adviseOn } from './advise.ts'

const advice = (patch: Patch): Advice => {
  const result = compile(patch)
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return adviseOn(patch, result.plan)
}
const words = (list: readonly { readonly place: string; readonly message: string }[]): string[] =>
  list.map(({ place, message }) => `${place} ${message}`)

describe('advice on what is connected', () => {
  it('names clocked modules without a clock, and whatever else waits for a cable', () => {
    const found = words(
      advice(
        patchOf(
          [
            ['s', 'steps'],
            ['e', 'euclid'],
            ['v', 'divide'],
            ['a', 'arp'],
            ['w', 'switch'],
            ['f', 'filter'],
            ['env', 'envelope'],
            ['k', 'strike'],
            ['m', 'modes'],
            ['h', 'hold'],
            ['r', 'random'],
          ],
          [],
        ),
      ).unconnected,
    )
    for (const start of [
      's.clock never moves',
      'e.clock never moves',
      'v.clock never moves',
      'a.clock never moves',
      'w.clock stays where it is',
      'f.in nothing comes in',
      'env.gate never opens',
      'k.trigger never hits',
      'm.trigger is never struck',
    ])
      expect(
        found.some((text) => text.startsWith(start)),
        start,
      ).toBe(true)
    // These have clocks of their own.
    expect(found.some((text) => text.startsWith('h.') || text.startsWith('r.'))).toBe(false)
  })

  it('is quiet where one of several inputs is enough', () => {
    const { unconnected } = advice(
      patchOf(
        [
          ['n', 'notes'],
          ['m', 'modes'],
          ['w', 'switch'],
          ['l', 'lfo'],
          ['out', 'output'],
        ],
        ['n.trigger > m.trigger', 'l.out > w.select', 'm.out > out.in'],
      ),
    )
    expect(words(unconnected)).toEqual([])
  })
})

describe('advice on what is probably not meant', () => {
  const hints = (
    modules: Parameters<typeof patchOf>[0],
    cables: readonly string[] = [],
    more: object = {},
  ): string[] => words(advice(patchOf(modules, cables, more)).hints)

  it('finds amplifiers that drone, but not those of a closed voice or of a patch without keys', () => {
    const voice = (cables: string[], notes = true): string[] =>
      hints(
        [
          ...(notes ? ([['n', 'notes']] as const) : []),
          ['o', 'oscillator'],
          ['f', 'filter'],
          ['e', 'envelope'],
          ['a', 'amplifier'],
          ['b', 'amplifier'],
          ['out', 'output'],
        ],
        ['o.saw > f.in', 'f.low > a.in', 'a.out > b.in', 'b.out > out.in', ...cables],
      )
    expect(voice([])).toEqual([
      'a.cv nothing closes it: o sounds all the time, keys or not. Connect an envelope',
      'b.cv nothing closes it: o sounds all the time, keys or not. Connect an envelope',
    ])
    expect(voice(['n.gate > e.gate', 'e.env > a.cv'])).toEqual([])
    expect(voice([], false)).toEqual([])
  })

  it('finds formulas without an output, buses without a writer, missing tables, delays beyond their memory, growing loops', () => {
    const found = hints(
      [
        ['f', 'formula', {}, { data: { text: 'k = a * 2' } }],
        ['g', 'formula', {}, { data: { text: 'a * 2' } }],
        ['r', 'busout', { bus: 'echo' }],
        ['w', 'wavetable', {}, { data: { table: 'no such table' } }],
        ['v', 'wavetable', {}, { data: { table: 'mine' } }],
        ['d', 'delayline', { time: 900, max: 0.5 }],
        ['d2', 'delayline', { feedback: 1.1 }],
        ['d3', 'delayline', { time: 900 }],
      ],
      [],
      { assets: { mine: { kind: 'table', file: 'assets/mine.wav' } } },
    )
    expect(found).toEqual([
      'f.data.text assigns k, but neither x nor y: both outputs are 0',
      expect.stringContaining('w.data.table there is no table "no such table"'),
      'd.time 900 ms is above its max of 0.5 s: it delays by no more than that',
      'd2.feedback 1.1 is above 1: what goes round grows until it is bent at +12 dBFS',
      'r reads the bus "echo", which nothing writes. Add a bus input of that name',
    ])
  })

  it('finds macros at odds with their targets, in the target’s own unit of modulation', () => {
    const macro = (value: number, to = 6400): object => ({
      macros: [{ id: 'b', name: 'B', value, targets: [{ param: 'f.cutoff', from: 100, to }] }],
    })
    const modules = [['f', 'filter', { cutoff: 800 }]] as const
    // Half of six octaves above 100 Hz is 800 Hz.
    expect(hints(modules, [], macro(0.5))).toEqual([])
    expect(hints(modules, [], macro(0.25))[0]).toContain(
      'at 0.25 it gives f.cutoff 282.8, which is set to 800',
    )
    expect(hints(modules, [], macro(0.5, 90000))[0]).toContain('leaves 16…20000')
  })
})

describe('advice on loops', () => {
  it('names modules in signal order and what they add to the delay', () => {
    const { loops } = advice(
      patchOf(
        [
          ['out', 'output'],
          ['f', 'filter', { cutoff: 4000, resonance: 0.5 }],
          ['g', 'amplifier'],
          ['d', 'delayline', { unit: 'samples', time: 100 }],
        ],
        ['g.out > d.in', 'd.out > f.in', 'f.low > g.in', 'g.out > out.in'],
      ),
    )
    expect(loops.length).toBe(1)
    expect(loops[0]!.modules).toEqual(['d', 'f', 'g'])
    const added = 0.5 / Math.tan((Math.PI * 4000) / 48000)
    expect(loops[0]!.added).toBeCloseTo(added, 6)
    expect(loops[0]!.samples).toBeCloseTo(100 + added, 6)
    expect(loops[0]!.delay).toBe(
      '100 samples at 48 kHz, and about 1.87 samples more in f: a trim of 1.87 takes them off',
    )
  })

  it('tells a fixed loop from one that follows a pitch or a cable', () => {
    const loop = (params: Record<string, number | string>, cables: string[] = []): string =>
      advice(
        patchOf(
          [
            ['n', 'notes'],
            ['p', 'allpass', { unit: 'samples', time: 10, gain: 0.5 }],
            ['d', 'delayline', params],
          ],
          ['d.out > p.in', 'p.out > d.in', ...cables],
        ),
      ).loops[0]!.delay
    expect(loop({ unit: 'samples', time: 50 })).toContain('53.33 samples at 48 kHz')
    expect(loop({ unit: 'pitch' }, ['n.pitch > d.pitch'])).toContain('one period of the pitch of d')
    expect(loop({}, ['n.velocity > d.time'])).toContain('follows what is connected to d')
  })
})

describe('the estimate of the load', () => {
  it('tells cheap patches from dear ones in the right order of size', () => {
    const patch = (voices: number, type: string, params: object): Patch =>
      patchOf(
        [
          ['n', 'notes', { voices, mode: 'poly' }],
          ['m', type, params as Record<string, number>],
          ['out', 'output'],
        ],
        ['n.pitch > m.pitch', 'm.out > out.in'],
      )
    // Counted, not timed: what is measured beside it belongs to the bench.
    const of = (voices: number, type: string, params: object): number =>
      advice(patch(voices, type, params)).loadPercent
    expect(of(16, 'unison', { copies: 16 })).toBeGreaterThan(4 * of(4, 'unison', { copies: 7 }))
    expect(of(4, 'partials', {})).toBeGreaterThan(2 * of(4, 'unison', { copies: 1 }))
    const measured = moduleLoads(testKernels(), patch(4, 'unison', {}), {
      now: () => performance.now() / 1000,
      seconds: 0.05,
    })
    expect(measured.some(({ ids }) => ids.includes('m'))).toBe(true)
  })
})
