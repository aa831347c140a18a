import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../testing/bench.ts'
import { checkPatch } from '../patch/validate.ts'
import type { Patch } from '../patch/types.ts'
import { compile } from './compile.ts'
import type { Plan } from './plan.ts'
import { closingCables, components, topological } from '../patch/graph.ts'
import { adviseOn } from '../advice/advise.ts'

const planOf = (patch: Patch): Plan => {
  const result = compile(patch)
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result.plan
}
const shapeOf = (plan: Plan, key: string): [number, number] => {
  const signal = plan.signals.find((item) => item?.key === key)!
  return [signal.voices, signal.sides]
}

describe('compile', () => {
  it('infers shapes: voices from the note source, sides from the widest input, sums at the output', () => {
    const plan = planOf(
      patchOf(
        [
          ['n', 'notes', { voices: 5, mode: 'poly' }],
          ['l', 'lfo'],
          ['o', 'oscillator'],
          ['i', 'input'],
          ['m', 'mix'],
          ['out', 'output'],
        ],
        ['n.pitch > o.pitch', 'l.out > o.fine * 5', 'o.saw > m.in1', 'i.out > m.in2', 'm.out > out.in'],
      ),
    )
    expect(shapeOf(plan, 'l.out')).toEqual([1, 1])
    expect(shapeOf(plan, 'o.saw')).toEqual([5, 1])
    expect(shapeOf(plan, 'm.out')).toEqual([5, 2])
    expect(shapeOf(plan, '>out.in')).toEqual([1, 2])
    expect(shapeOf(plan, 'n.held')).toEqual([1, 1])
  })
  it('adds cables in file order, in modulation units', () => {
    const value = (cables: string[], param: Record<string, number>): number => {
      const patch = patchOf(
        [
          ['k', 'mix', { offset: 1 }],
          ['o', 'oscillator', { frequency: 100, tracking: false, ...param }],
        ],
        cables,
      )
      return hear(patch, 0.01, { taps: ['o.saw'] }).tap('o.saw').length && planOf(patch).params.length
    }
    expect(value(['k.out > o.frequency * 1'], {})).toBeGreaterThan(0)
    // One octave up by the logarithmic parameter, a fifth by semitones: 300 Hz from 100.
    const patch = patchOf(
      [
        ['k', 'mix', { offset: 1 }],
        ['o', 'oscillator', { frequency: 100, tracking: false }],
      ],
      ['k.out > o.frequency * 1', 'k.out > o.semitones * 7', 'k.out > o.fine * 1.955'],
    )
    const x = hear(patch, 0.1, { taps: ['o.sine'] }).tap('o.sine')
    for (let i = 0; i < 1000; i += 17) expect(x[i]!).toBeCloseTo(Math.sin((2 * Math.PI * 300 * i) / 48000), 3)
  })
  it('copies a mono cable into every voice and leaves missing voices silent', () => {
    const patch = patchOf(
      [
        ['n', 'notes', { voices: 3, mode: 'poly' }],
        ['i', 'input'],
        ['o', 'oscillator', { frequency: 500 }],
        ['m', 'mix'],
      ],
      ['o.sine > m.in1', 'n.gate > m.in2 * 0'],
    )
    const heard = hear(patch, 0.05, { taps: ['m.out', 'o.sine'] })
    for (const lane of heard.lanes('m.out')) expect(lane).toEqual(heard.tap('o.sine').map((x) => x + 0)) // no −0
  })
  it('cuts a loop without a delay on the last cable in file order that closes it, by one sample', () => {
    const patch = patchOf(
      [
        ['a', 'mix', { offset: 1 }],
        ['b', 'mix'],
        ['c', 'mix'],
      ],
      ['a.out > b.in1', 'b.out > c.in1', 'c.out > a.in1 * 0.5', 'b.out > a.in2 * 0'],
    )
    const plan = planOf(patch)
    expect(plan.loops).toHaveLength(1)
    expect(plan.loops[0]!.cut).toEqual(['c.out > a.in1', 'b.out > a.in2'])
    const x = hear(patch, 0.01, { taps: ['a.out'] }).tap('a.out')
    let level = 0
    for (let n = 0; n < 30; n += 1) {
      level = 1 + 0.5 * level
      expect(x[n]!).toBeCloseTo(level, 6)
    }
    expect(adviseOn(patch, plan).loops[0]!.delay).toBe('1 sample of delay on c.out > a.in1, b.out > a.in2')
  })
  it('tells the delay of a loop in samples', () => {
    const patch = patchOf(
      [
        ['m', 'mix'],
        ['d', 'delayline', { unit: 'samples', time: 100 }],
      ],
      ['m.out > d.in', 'd.out > m.in1 * 0.5'],
    )
    expect(adviseOn(patch, planOf(patch)).loops).toEqual([
      { modules: ['d', 'm'], samples: 100, added: 0, delay: '100 samples at 48 kHz' },
    ])
    expect(
      planOf(
        patchOf(
          [
            ['o', 'oscillator'],
            ['d', 'delayline'],
          ],
          ['o.saw > d.in'],
        ),
      ).loops,
    ).toEqual([])
  })
  it('runs nested and crossing loops exactly', () => {
    // Two delays that share a mixer: y[n] = x[n] + 0.5 y[n-3] - 0.25 y[n-7]
    const patch = patchOf(
      [
        ['i', 'input'],
        ['m', 'mix', { amount2: 0.5, amount3: -0.25 }],
        ['a', 'delayline', { unit: 'samples', time: 3 }],
        ['b', 'delayline', { unit: 'samples', time: 7 }],
      ],
      ['i.out > m.in1', 'a.out > m.in2', 'b.out > m.in3', 'm.out > a.in', 'm.out > b.in'],
    )
    const x = new Float32Array(480)
    x[5] = 1
    const y = hear(patch, 0.01, { input: { rate: 48000, channels: [x, x] }, taps: ['m.out'] }).tap('m.out')
    const expected = new Float64Array(480)
    for (let n = 0; n < 480; n += 1)
      expected[n] = x[n]! + 0.5 * (expected[n - 3] ?? 0) - 0.25 * (expected[n - 7] ?? 0)
    for (let n = 0; n < 480; n += 1) expect(y[n]!).toBeCloseTo(expected[n]!, 6)
  })
  it('dissolves groups, buses, bypassed and unknown modules', () => {
    const value = {
      format: 'ypsilon/patch',
      version: 1,
      cables: [
        { from: 'osc.sine', to: 'g.sound' },
        { from: 'g.result', to: 'bi.in' },
        { from: 'bo.out', to: 'end.in1' },
        { from: 'ghost.x', to: 'end.in2' },
      ],
      modules: [
        { id: 'osc', type: 'oscillator', params: { frequency: 300 } },
        { id: 'bi', type: 'busin', params: { bus: 'b' } },
        { id: 'bo', type: 'busout', params: { bus: 'b' } },
        { id: 'end', type: 'mix' },
        { id: 'ghost', type: 'unknown' },
        {
          id: 'g',
          type: 'group',
          inside: {
            modules: [
              { id: 'pi', type: 'portin', params: { name: 'sound' } },
              { id: 'inner', type: 'amplifier', params: { level: -6 } },
              { id: 'skip', type: 'filter', bypass: true, params: { cutoff: 20 } },
              { id: 'po', type: 'portout', params: { name: 'result' } },
            ],
            cables: [
              { from: 'pi.out', to: 'inner.in' },
              { from: 'inner.out', to: 'skip.in' },
              { from: 'skip.low', to: 'po.in', amount: 0.5 },
            ],
          },
        },
      ],
    }
    const result = checkPatch(value)
    if (!result.ok) throw new Error(JSON.stringify(result.faults))
    const heard = hear(result.value, 0.05, { taps: ['end.out', 'osc.sine'] })
    const source = heard.tap('osc.sine'),
      out = heard.tap('end.out')
    for (let i = 0; i < 2000; i += 9) expect(out[i]!).toBeCloseTo(source[i]! * 0.5 * 10 ** (-6 / 20), 5)
    expect(planOf(result.value).modules.map((module) => module.id)).toEqual(['osc', 'end', 'inner'])
  })
  it('refuses more memory than there is, naming the largest', () => {
    const patch = patchOf(
      Array.from({ length: 20 }, (_, n) => [`d${n}`, 'delayline', { max: 60 }] as const),
      [],
    )
    const stereo = {
      ...patch,
      modules: [{ id: 'n', type: 'notes', params: { voices: 16, mode: 'poly' } }, ...patch.modules],
      cables: patch.modules.map((module) => ({ from: 'n.pitch', to: `${module.id}.in` })),
    }
    const result = compile(stereo as Patch)
    expect(result.ok).toBe(false)
    if (!result.ok) expect(result.faults[0]!.message).toContain('more than 1024 MiB')
  })
  it('smooths a parameter over 15 ms, a cable amount too, and starts settled', () => {
    const patch = patchOf(
      [
        ['k', 'mix', { offset: 0 }],
        ['c', 'mix', { offset: 1 }],
        ['e', 'mix'],
      ],
      [],
      { cables: [] },
    )
    const wired = { ...patch, cables: [{ id: 'x', from: 'c.out', to: 'e.in1', amount: 0 }] } as Patch
    const heard = hear(wired, 0.1, {
      taps: ['k.out', 'e.out'],
      events: [
        { t: 0.02, type: 'param', target: 'k.offset', value: 1 },
        { t: 0.02, type: 'param', target: 'cable:x', value: 1 },
      ],
    })
    for (const key of ['k.out', 'e.out']) {
      const x = heard.tap(key)
      expect(x[959]).toBe(0)
      expect(x[960 + 359]!).toBeCloseTo(0.5, 3)
      expect(x[960 + 719]!).toBeCloseTo(1, 5)
      expect(x[960 + 720]).toBe(1)
    }
  })
})

describe('order', () => {
  it('finds components and orders them, sources first', () => {
    const edges = [[1], [2], [0, 3], [4], []]
    const { members } = components(5, edges)
    expect(members.map((list) => [...list].sort())).toEqual([[0, 1, 2], [3], [4]])
    expect(topological([3, 4], edges)).toEqual([3, 4])
    expect(() => topological([0, 1, 2], edges)).toThrow('circle')
  })
  it('cuts in file order whatever order it is given in', () => {
    const fixed = [[], [], []]
    const cables = [
      { from: 2, to: 0, order: 2 },
      { from: 0, to: 1, order: 0 },
      { from: 1, to: 2, order: 1 },
    ]
    expect(closingCables(fixed, cables)).toEqual([cables[0]])
  })
})
