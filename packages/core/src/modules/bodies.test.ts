import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../testing/bench.ts'
import { db } from '../testing/measure.ts'

describe('struck and driven bodies keep to their level', () => {
  const peakOf = (x: Float32Array): number => db(x.reduce((most, y) => Math.max(most, Math.abs(y)), 0))

  it.each(['modes', 'string'])('a strike into %s peaks between −12 and +3 dBFS', (body) => {
    for (const kind of ['click', 'noise', 'mallet'])
      for (let note = 24; note <= 96; note += 6) {
        const patch = patchOf(
          [
            ['n', 'notes'],
            ['s', 'strike', { kind }],
            ['m', body],
          ],
          ['n.trigger > s.trigger', 'n.pitch > m.pitch', 's.out > m.excite'],
        )
        const peak = peakOf(hear(patch, 1, { play: `${note}@0.01+0.9`, taps: ['m.out'] }).tap('m.out'))
        expect(peak, `${kind} ${note}`).toBeGreaterThan(-12)
        expect(peak, `${kind} ${note}`).toBeLessThan(3)
      }
  })

  it.each([
    ['modes', 'excite', {}],
    ['string', 'excite', {}],
    ['string', 'excite', { coupled: 3, coupling1: 1, coupling2: 1, coupling3: 1, decay: 60 }],
    ['comb', 'in', {}],
    ['comb', 'in', { feedback: 1, feedforward: 1, damping: 0 }],
  ])('white noise at −12 dBFS into %s stays below +12 dBFS', (body, port, params) => {
    for (const note of [24, 60, 96]) {
      const patch = patchOf(
        [
          ['n', 'notes'],
          ['w', 'noise'],
          ['m', body, params],
        ],
        ['n.pitch > m.pitch', `w.white > m.${port} * 0.2512`],
      )
      expect(
        peakOf(hear(patch, 4, { play: `${note}@0+4`, taps: ['m.out'] }).tap('m.out')),
        `${note}`,
      ).toBeLessThan(12)
    }
  })
})
