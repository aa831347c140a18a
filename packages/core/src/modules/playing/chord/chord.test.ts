import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('chord', {
  inputs: 'pitch',
  outputs: 'pitch scatter',
  params: 'notes interval2 interval3 interval4 interval5 interval6 interval7 interval8 inversion spread',
})

describe('chord', () => {
  const outOf = (
    type: string,
    params: Record<string, number | string>,
    input: number,
    data: object = {},
    port = 'out',
  ): number[] =>
    hear(
      patchOf(
        [
          ['v', 'value', { value: input }],
          ['m', type, params, { data }],
        ],
        [type === 'chord' ? 'v.out > m.pitch' : 'v.out > m.in'],
      ),
      0.01,
      { taps: [`m.${port}`] },
    )
      .lanes(`m.${port}`)
      .map((x) => Math.round(x.at(-1)! * 1200) / 100)

  it('chords have their intervals, inversion and spread', () => {
    expect(outOf('chord', { notes: 4 }, 0, {}, 'pitch')).toEqual([0, 4, 7, 11])
    expect(outOf('chord', { notes: 3, interval2: 3, inversion: 1 }, 0, {}, 'pitch')).toEqual([12, 3, 7])
    expect(outOf('chord', { notes: 3, spread: 2 }, 0, {}, 'pitch')).toEqual([0, 16, 31])
  })
})
