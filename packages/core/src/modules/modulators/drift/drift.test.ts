import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { mean } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('drift', {
  inputs: '',
  outputs: 'out opposite',
  params: 'rate depth smooth per',
})

describe('drift', () => {
  it('drift never repeats, goes where it likes and is opposite to its opposite', () => {
    const heard = hear(patchOf([['d', 'drift', { rate: 10 }]], []), 60, { taps: ['d.out', 'd.opposite'] }),
      x = heard.tap('d.out')
    expect(Math.abs(mean(x))).toBeLessThan(0.1)
    const most = x.reduce((a, b) => Math.max(a, Math.abs(b)), 0)
    expect(most).toBeGreaterThan(0.6)
    expect(most).toBeLessThanOrEqual(1)
    expect(heard.tap('d.opposite')[12345]).toBe(-x[12345]!)
    // No lag at which it looks like itself.
    const coarse = Array.from({ length: 6000 }, (_, i) => x[i * 480]!),
      power = coarse.reduce((sum, v) => sum + v * v, 0)
    for (let lag = 200; lag < 3000; lag += 7) {
      let sum = 0
      for (let i = 0; i + lag < 6000; i += 1) sum += coarse[i]! * coarse[i + lag]!
      expect(Math.abs(sum / power)).toBeLessThan(0.35)
    }
  })

  it('every voice drifts by itself', () => {
    const lanes = hear(
      patchOf(
        [
          ['n', 'notes', { voices: 3, mode: 'poly' }],
          ['m', 'copy', { voices: 3 }],
          ['d', 'drift'],
          ['f', 'fan', { pattern: 'random' }],
        ],
        ['n.gate > f.in'],
      ),
      0.1,
      { taps: ['f.out1'] },
    ).lanes('f.out1')
    expect(new Set(lanes.map((x) => x[100])).size).toBe(3)
  })
})
