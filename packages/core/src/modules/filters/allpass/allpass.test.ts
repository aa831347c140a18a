import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('allpass', {
  inputs: 'in pitch return',
  outputs: 'out send',
  params: 'unit time gain interpolation',
})

const click = (patch: Parameters<typeof patchOf>[0], cables: readonly string[], out: string): Float32Array =>
  hear(patchOf([['v', 'value', { value: 0 }], ...patch], cables), 0.6, {
    events: [
      { t: 0.01, type: 'param', target: 'v.value', value: 1 },
      { t: 0.01 + 1 / 48000, type: 'param', target: 'v.value', value: 0 },
    ],
    taps: [out],
  }).tap(out)

describe('all-pass', () => {
  it('answers a click as the formula says', () => {
    const h = click(
      [['a', 'allpass', { unit: 'samples', time: 100, gain: 0.6, interpolation: 'none' }]],
      ['v.out > a.in'],
      'a.out',
    )
    expect(h[480]).toBeCloseTo(0.6, 6)
    for (let n = 1; n < 8; n += 1) expect(h[480 + 100 * n]).toBeCloseTo((1 - 0.36) * (-0.6) ** (n - 1), 6)
  })
  it('passes everything: the energy of a click comes out whole', () => {
    const single = click(
      [['a', 'allpass', { unit: 'samples', time: 97, gain: 0.7 }]],
      ['v.out > a.in'],
      'a.out',
    )
    expect(single.reduce((sum, x) => sum + x * x, 0)).toBeCloseTo(1, 3)
  })
  it('stays an all-pass with others nested in it, at any order of the file', () => {
    for (const order of [0, 1]) {
      const modules = [
        ['a', 'allpass', { unit: 'samples', time: 211, gain: 0.6 }],
        ['b', 'allpass', { unit: 'samples', time: 67, gain: -0.5 }],
        ['c', 'allpass', { unit: 'samples', time: 41, gain: 0.4 }],
      ] as const
      const h = click(
        order === 0 ? [...modules] : [...modules].reverse(),
        ['v.out > a.in', 'a.send > b.in', 'b.send > c.in', 'c.out > b.return', 'b.out > a.return'],
        'a.out',
      )
      expect(h.reduce((sum, x) => sum + x * x, 0)).toBeCloseTo(1, 3)
      // The nested ones are reached after the outer delay, without a hidden sample: −0.5 · 0.4 … of them at once.
      const inner = -0.5 + (1 - 0.25) * 0
      expect(h[480 + 211]).toBeCloseTo((1 - 0.36) * inner, 5)
    }
  })
})
