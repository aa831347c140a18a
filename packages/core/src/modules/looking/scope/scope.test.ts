import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('scope', {
  inputs: 'in second sync',
  outputs: 'out',
  params: 'window',
})

describe('scope', () => {
  it('lets through what comes in, to the bit', () => {
    const heard = hear(
      patchOf(
        [
          ['o', 'oscillator', { tracking: false, frequency: 333 }],
          ['m', 'scope'],
        ],
        ['o.saw > m.in'],
      ),
      0.1,
      { taps: ['o.saw', 'm.out'] },
    )
    expect(heard.tap('m.out')).toEqual(heard.tap('o.saw'))
  })
})
