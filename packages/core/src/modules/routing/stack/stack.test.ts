import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('stack', {
  inputs: 'in1 in2 in3 in4 in5 in6 in7 in8',
  outputs: 'out',
  params: 'voices',
})

describe('stack', () => {
  it('makes a voice of every cable', () => {
    const heard = hear(
      patchOf(
        [
          ['a', 'value', { value: 1 }],
          ['b', 'value', { value: 2 }],
          ['d', 'value', { value: 3 }],
          ['s', 'stack', { voices: 3 }],
        ],
        ['a.out > s.in1', 'b.out > s.in2', 'd.out > s.in3'],
      ),
      0.01,
      { taps: ['s.out'] },
    )
    expect(heard.lanes('s.out').map((x) => x[100])).toEqual([1, 2, 3])
  })
})
