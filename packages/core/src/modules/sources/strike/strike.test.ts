import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('strike', {
  inputs: 'trigger velocity',
  outputs: 'out',
  params: 'kind length tone level',
})

describe('strike', () => {
  it('a mallet is softer when struck softly, and every hit is over after its length', () => {
    const heard = (velocity: number): Float32Array =>
      hear(
        patchOf(
          [
            ['n', 'notes'],
            ['s', 'strike', { kind: 'mallet', length: 10 }],
          ],
          ['n.trigger > s.trigger', 'n.velocity > s.velocity'],
        ),
        0.2,
        { play: `60@0.05+0.1:${velocity}`, taps: ['s.out'] },
      ).tap('s.out')
    expect(Math.max(...heard(1))).toBeCloseTo(1, 2)
    expect(Math.max(...heard(0.3))).toBeCloseTo(0.3, 2)
    expect(
      heard(1)
        .subarray(2400 + 481)
        .every((x) => Math.abs(x) < 1e-5),
    ).toBe(true)
  })
})
