import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { mean } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('hold', {
  inputs: 'in clock',
  outputs: 'out',
  params: 'mode rate polarity level glide per',
})

describe('hold', () => {
  it('holds what stood there at the clock, or tracks', () => {
    const heard = hear(
      patchOf(
        [
          ['l', 'lfo', { rate: 1, shape: 'saw' }],
          ['c', 'clock', { source: 'own', tempo: 120 }],
          ['h', 'hold'],
          ['t', 'hold', { mode: 'track' }],
        ],
        ['l.out > h.in', 'c.beat > h.clock', 'l.out > t.in', 'c.beat > t.clock'],
      ),
      2,
      { taps: ['h.out', 't.out', 'l.out'] },
    )
    expect(heard.tap('h.out')[30000]).toBeCloseTo(heard.tap('l.out')[24000]!, 6)
    expect(heard.tap('t.out')[6000]).toBeCloseTo(heard.tap('l.out')[6000]!, 6)
    expect(heard.tap('t.out')[20000]).toBeCloseTo(heard.tap('l.out')[11999]!, 3)
  })

  it('its own noise is even', () => {
    const x = hear(patchOf([['h', 'hold', { rate: 1000 }]], []), 20, { taps: ['h.out'] }).tap('h.out'),
      values = Array.from({ length: 19000 }, (_, i) => x[i * 48 + 24]!)
    expect(Math.abs(mean(values))).toBeLessThan(0.02)
    expect(values.filter((v) => v > 0.5).length / values.length).toBeCloseTo(0.25, 1)
    expect(mean(values.map((v) => v * v))).toBeCloseTo(1 / 3, 1)
  })
})
