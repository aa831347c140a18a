import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('divide', {
  inputs: 'clock reset',
  outputs: 'out',
  params: 'divide multiply offset width',
})

describe('divide', () => {
  it('lets every nth through, offset, and multiplies', () => {
    const clocked = (params: Record<string, number>): number[] =>
      rises(
        hear(
          patchOf(
            [
              ['c', 'clock'],
              ['d', 'divide', params],
            ],
            ['c.beat > d.clock'],
          ),
          6,
          { taps: ['d.out'] },
        ).tap('d.out'),
      )
    expect(clocked({ divide: 3 })).toEqual([0, 72000, 144000, 216000])
    expect(clocked({ divide: 3, offset: 1 })).toEqual([24000, 96000, 168000, 240000])
    expect(clocked({ divide: 1, multiply: 3 }).slice(0, 8)).toEqual([
      0, 24000, 32000, 40000, 48000, 56000, 64000, 72000,
    ])
    expect(clocked({ divide: 4, multiply: 3 }).slice(0, 4)).toEqual([0, 32000, 64000, 96000])
  })
})
