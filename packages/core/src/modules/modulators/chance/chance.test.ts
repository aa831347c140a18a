import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('chance', {
  inputs: 'in',
  outputs: 'hit miss',
  params: 'probability mode',
})

describe('chance', () => {
  it('hits as often as its probability says, each voice for itself, by its seed', () => {
    const hits = (probability: number, seed: number): readonly Float32Array[] =>
      hear(
        patchOf(
          [
            ['c', 'clock', { source: 'own', tempo: 300, division1: '1/64' }],
            ['m', 'copy', { voices: 4 }],
            ['h', 'chance', { probability }],
          ],
          ['c.div1 > m.in', 'm.out > h.in'],
          { seed },
        ),
        25,
        { taps: ['h.hit'] },
      ).lanes('h.hit')
    for (const probability of [0.2, 0.5, 0.9]) {
      const counts = hits(probability, 1).map((x) => rises(x).length)
      // 2,000 throws a voice: five standard deviations.
      for (const count of counts)
        expect(Math.abs(count / 2000 - probability)).toBeLessThan(
          5 * Math.sqrt((probability * (1 - probability)) / 2000),
        )
      expect(new Set(counts.map(String)).size).toBeGreaterThan(1)
    }
    expect(rises(hits(0.5, 1)[0]!)).toEqual(rises(hits(0.5, 1)[0]!))
    expect(rises(hits(0.5, 1)[0]!)).not.toEqual(rises(hits(0.5, 2)[0]!))
  })

  it('toggle changes over at every lucky throw', () => {
    const heard = hear(
      patchOf(
        [
          ['c', 'clock', { source: 'own', tempo: 300 }],
          ['h', 'chance', { probability: 1, mode: 'toggle' }],
        ],
        ['c.beat > h.in'],
      ),
      4,
      { taps: ['h.hit', 'h.miss'] },
    )
    expect(rises(heard.tap('h.hit'))).toEqual([
      0, 19200, 38400, 57600, 76800, 96000, 115200, 134400, 153600, 172800,
    ])
    expect(rises(heard.tap('h.miss')).length).toBe(10)
  })
})
