import { describe, expect, it } from 'vitest'
import { given } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('curve', {
  inputs: 'in',
  outputs: 'out',
  params: '',
  data: 'points',
})

describe('curve', () => {
  it('is looked up between its points, and level beyond them', () => {
    const points = [
      { x: -1, y: 0 },
      { x: 0, y: 1 },
      { x: 1, y: 0 },
    ]
    expect(given('curve', {}, { in: 0.5 }, ['out'], { points })).toEqual([0.5])
    expect(given('curve', {}, { in: 4 }, ['out'], { points })).toEqual([0])
    expect(given('curve', {}, { in: -0.25 }, ['out'])).toEqual([-0.25])
  })
})
