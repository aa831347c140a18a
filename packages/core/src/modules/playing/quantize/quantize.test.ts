import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('quantize', {
  inputs: 'in trigger shift',
  outputs: 'out changed',
  params: 'root direction',
  data: 'scale',
})

describe('quantize', () => {
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

  it('the quantiser finds the notes of its scale', () => {
    const major = { scale: [1, 0, 1, 0, 1, 1, 0, 1, 0, 1, 0, 1].map((x) => x === 1) }
    expect(outOf('quantize', {}, 1.2 / 12, major)).toEqual([2])
    expect(outOf('quantize', {}, 0.9 / 12, major)).toEqual([0])
    expect(outOf('quantize', { direction: 'down' }, 6.9 / 12, major)).toEqual([5])
    expect(outOf('quantize', { direction: 'down' }, Math.fround(7 / 12), major)).toEqual([7])
    expect(outOf('quantize', { direction: 'up' }, 5.1 / 12, major)).toEqual([7])
    expect(outOf('quantize', { root: 2 }, -0.1 / 12, major)).toEqual([-1])
    expect(outOf('quantize', { root: 2 }, 0, major)).toEqual([1])
    expect(outOf('quantize', {}, -13.2 / 12, major)).toEqual([-13])
  })
})
