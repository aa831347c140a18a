import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { worstAlias } from '../../../testing/measure.ts'

const heard = (params: Record<string, number | string | boolean>, seconds = 2): Float32Array =>
  hear(patchOf([['o', 'operator', { fixed: true, envelope: false, ...params }]], []), seconds, {
    taps: ['o.out'],
  }).tap('o.out')

describe('operator', () => {
  it.each(['half', 'full', 'pulse', 'saw'])('%s keeps aliases down', (shape) => {
    for (const hz of [65.4, 261.7, 1000.3])
      // A full wave repeats twice a cycle.
      expect(
        worstAlias(heard({ frequency: hz, shape }), shape === 'full' ? 2 * hz : hz),
        `${hz}`,
      ).toBeLessThan(-85)
  })

  it('stays a tone up to full feedback', () => {
    for (const [hz, most] of [
      [27.5, -90],
      [55, -80],
      [220.3, -70],
      [440.7, -60],
    ] as const)
      for (const feedback of [0.3, 0.7, 1])
        expect(
          worstAlias(heard({ frequency: hz, feedback }, 4), hz, { loudest: true, size: 131072 }),
          `${hz} ${feedback}`,
        ).toBeLessThan(most)
  })
})
