import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('follower', {
  inputs: 'in',
  outputs: 'env gate',
  params: 'attack release threshold gain',
})

describe('follower', () => {
  it('follows the level with its time constants and opens its gate', () => {
    const heard = hear(
        patchOf(
          [
            ['n', 'notes'],
            ['f', 'follower', { attack: 10, release: 100, threshold: -12 }],
          ],
          ['n.gate > f.in'],
        ),
        1,
        { play: '60@0.1+0.4', taps: ['f.env', 'f.gate'] },
      ),
      env = heard.tap('f.env')
    expect(env[4800 + 480]).toBeCloseTo(1 - Math.exp(-1), 2)
    expect(env[24000 + 4800]).toBeCloseTo(Math.exp(-1), 2)
    expect(rises(heard.tap('f.gate'))).toHaveLength(1)
  })
})
