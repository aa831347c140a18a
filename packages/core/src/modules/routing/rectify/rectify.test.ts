import { describe, expect, it } from 'vitest'
import { given } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('rectify', {
  inputs: 'in',
  outputs: 'full positive negative',
  params: '',
})

describe('rectify', () => {
  it('folds to either side', () => {
    expect(given('rectify', {}, { in: -0.4 }, ['full', 'positive', 'negative'])).toEqual([0.4, 0, -0.4])
    expect(given('rectify', {}, { in: 0.7 }, ['full', 'positive', 'negative'])).toEqual([0.7, 0.7, 0])
  })
})
