import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { centsBetween, db, frequencyOf, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('modes', {
  inputs: 'pitch excite trigger',
  outputs: 'out',
  params: 'model count decay tone spread level',
  data: 'ratios levels decays',
})

describe('modes', () => {
  it('ring at the textbook ratios', () => {
    const ratios: Readonly<Record<string, readonly number[]>> = {
      bar: [1, 2.7565, 5.4039, 8.933],
      membrane: [1, 1.5933, 2.1355, 2.2954, 2.6531],
      bell: [0.5, 1, 1.183, 1.506, 2],
    }
    for (const [model, list] of Object.entries(ratios)) {
      const out = hear(
        patchOf(
          [
            ['n', 'notes'],
            ['m', 'modes', { model, count: 16, decay: 20 }],
          ],
          ['n.pitch > m.pitch', 'n.trigger > m.trigger'],
        ),
        3,
        { play: '60@0+3', taps: ['m.out'] },
      ).tap('m.out')
      for (const ratio of list)
        expect(
          Math.abs(centsBetween(frequencyOf(out, 261.6256 * ratio, 48000, 4800, 120000), 261.6256 * ratio)),
          `${model} ${ratio}`,
        ).toBeLessThan(1)
    }
  })

  it('decay by 60 dB in the time set', () => {
    const out = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['m', 'modes', { count: 1, decay: 0.5 }],
        ],
        ['n.pitch > m.pitch', 'n.trigger > m.trigger'],
      ),
      1,
      { play: '60@0+1', taps: ['m.out'] },
    ).tap('m.out')
    expect(db(rms(out, 2400, 4800) / rms(out, 14400, 16800))).toBeCloseTo(30, 1)
  })
})
