import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { largest } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('mix', {
  inputs: 'in1 in2 in3 in4',
  outputs: 'out inverse',
  params: 'amount1 amount2 amount3 amount4 offset',
})

describe('mix, amplifier and output', () => {
  it('adds amounts and an offset, and the inverse', () => {
    const patch = patchOf(
      [
        ['a', 'oscillator', { frequency: 100 }],
        ['b', 'oscillator', { frequency: 170 }],
        ['m', 'mix', { amount1: 0.5, amount3: -2, offset: 0.25 }],
      ],
      ['a.sine > m.in1', 'b.sine > m.in3'],
    )
    const heard = hear(patch, 0.2, { taps: ['a.sine', 'b.sine', 'm.out', 'm.inverse'] })
    const a = heard.tap('a.sine'),
      b = heard.tap('b.sine'),
      out = heard.tap('m.out')
    for (let i = 0; i < out.length; i += 13) expect(out[i]!).toBeCloseTo(0.5 * a[i]! - 2 * b[i]! + 0.25, 5)
    expect(heard.tap('m.inverse')).toEqual(out.map((x) => -x))
  })
  it('amplifies in decibels, opens with cv, is silent at −60 and below zero', () => {
    const gain = (params: Record<string, number | string>, cv?: number): number => {
      const patch = patchOf(
        [
          ['k', 'mix', { offset: 0.5 }],
          ['c', 'mix', { offset: cv ?? 0 }],
          ['a', 'amplifier', params],
        ],
        ['k.out > a.in', ...(cv === undefined ? [] : ['c.out > a.cv'])],
      )
      return hear(patch, 0.01, { taps: ['a.out'] }).tap('a.out')[100]! / 0.5
    }
    expect(gain({})).toBe(1)
    expect(gain({ level: -6 })).toBeCloseTo(10 ** (-6 / 20), 5)
    expect(gain({ level: 12 })).toBeCloseTo(10 ** (12 / 20), 5)
    expect(gain({ level: -60 })).toBe(0)
    expect(gain({}, 0.25)).toBeCloseTo(0.25, 6)
    expect(gain({}, -0.5)).toBe(0)
    expect(gain({ response: 'exponential' }, 0.5)).toBeCloseTo((2 ** 5 - 1) / 1023, 6)
    expect(gain({ response: 'exponential' }, 1)).toBeCloseTo(1, 5)
  })
  it('sums voices at the output, both sides equal when mono', () => {
    const patch = patchOf(
      [
        ['n', 'notes', { voices: 4, mode: 'poly' }],
        ['o', 'oscillator'],
        ['a', 'amplifier', { level: -20 }],
        ['out', 'output', { level: 0 }],
      ],
      ['n.pitch > o.pitch', 'o.sine > a.in', 'n.gate > a.cv', 'a.out > out.in'],
    )
    const heard = hear(patch, 0.3, { play: '60@0+0.3 64@0+0.3 67@0+0.3', taps: ['a.out'] })
    const lanes = heard.lanes('a.out')
    expect(lanes).toHaveLength(4)
    for (let i = 0; i < 4000; i += 7)
      expect(heard.out[i]!).toBeCloseTo(lanes[0]![i]! + lanes[1]![i]! + lanes[2]![i]!, 2)
    expect(heard.right).toEqual(heard.out)
    expect(largest(lanes[3]!)).toBe(0)
  })
})
