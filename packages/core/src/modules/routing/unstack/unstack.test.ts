import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('unstack', {
  inputs: 'in',
  outputs: 'out1 out2 out3 out4 out5 out6 out7 out8',
  params: '',
})

describe('unstack', () => {
  it('takes voices apart; those that are not there are 0', () => {
    const heard = hear(
      patchOf(
        [
          ['a', 'value', { value: 1 }],
          ['b', 'value', { value: 2 }],
          ['d', 'value', { value: 3 }],
          ['s', 'stack', { voices: 3 }],
          ['u', 'unstack'],
        ],
        ['a.out > s.in1', 'b.out > s.in2', 'd.out > s.in3', 's.out > u.in'],
      ),
      0.01,
      { taps: ['u.out1', 'u.out3', 'u.out4'] },
    )
    expect([heard.tap('u.out1')[100], heard.tap('u.out3')[100], heard.tap('u.out4')[100]]).toEqual([1, 3, 0])
  })
})
