import { describe, expect, it } from 'vitest'
import { given } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('crossfade', {
  inputs: 'a b',
  outputs: 'out',
  params: 'position law',
})

describe('crossfade', () => {
  it('is equally loud in the middle, and one of the two alone at its ends', () => {
    expect(given('crossfade', { position: 0 }, { a: 1, b: 0 }, ['out'])[0]).toBeCloseTo(Math.SQRT1_2, 4)
    expect(given('crossfade', { position: 1 }, { a: 1, b: 0.3 }, ['out'])).toEqual([0.3])
    expect(given('crossfade', { position: -1 }, { a: 1, b: 0.3 }, ['out'])).toEqual([1])
    expect(given('crossfade', { position: 0, law: 'full' }, { a: 0.5, b: 0.25 }, ['out'])).toEqual([0.75])
  })
})
