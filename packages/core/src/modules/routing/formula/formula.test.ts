import { describe, expect, it } from 'vitest'
import { given } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('formula', {
  inputs: 'a b c d',
  outputs: 'x y',
  params: 'p1 p2 p3 p4',
  data: 'text',
})

describe('formula', () => {
  it('works out x and y of its inputs', () => {
    expect(
      given('formula', { p1: 3 }, { a: 2, b: 0.5 }, ['x', 'y'], { text: 'x = a * p1 + b; y = a > b' }),
    ).toEqual([6.5, 1])
    expect(given('formula', {}, { a: 0 }, ['x'], { text: 'x = 1 / a' })).toEqual([0])
  })
})
