import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../testing/bench.ts'
import { centsBetween, frequencyOf } from '../testing/measure.ts'
import { hzOf } from '../testing/signals.ts'

describe('every pitched source is in tune', () => {
  it.each<[string, string, Record<string, number | string | boolean>]>([
    ['operator', 'out', { envelope: false }],
    ['wavetable', 'a', {}],
    ['partials', 'out', { count: 8 }],
    ['unison', 'out', { copies: 1 }],
    ['modes', 'out', { model: 'bar', count: 1, decay: 30 }],
  ])('%s', (type, port, params) => {
    for (const note of [0, 24, 60, 96, 120]) {
      const out = hear(
        patchOf(
          [
            ['n', 'notes'],
            ['m', type, params],
          ],
          ['n.pitch > m.pitch', ...(type === 'modes' ? ['n.trigger > m.trigger'] : [])],
        ),
        4,
        { play: `${note}@0+4`, taps: [`m.${port}`] },
      ).lanes(`m.${port}`)[0]!
      expect(
        Math.abs(centsBetween(frequencyOf(out, hzOf(note), 48000, 9600, 144000), hzOf(note))),
      ).toBeLessThan(0.05)
    }
  })
})
