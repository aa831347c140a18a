import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('copy', {
  inputs: 'in',
  outputs: 'out',
  params: 'voices',
})

describe('copy', () => {
  it('gives one signal to as many voices as it says', () => {
    const heard = hear(
      patchOf(
        [
          ['v', 'value', { value: 0.3 }],
          ['c', 'copy', { voices: 5 }],
        ],
        ['v.out > c.in'],
      ),
      0.01,
      { taps: ['c.out'] },
    )
    expect(heard.lanes('c.out').map((x) => x[100])).toEqual(Array(5).fill(Math.fround(0.3)))
  })
})
