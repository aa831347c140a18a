import { describe, expect, it } from 'vitest'
import { given } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('map', {
  inputs: 'in',
  outputs: 'out',
  params: 'inLow inHigh outLow outHigh curve clamp',
})

describe('map', () => {
  it('maps ranges, either way round, beyond them or not', () => {
    expect(given('map', { outLow: 10, outHigh: 20 }, { in: 0.25 }, ['out'])).toEqual([12.5])
    expect(given('map', { inLow: 20000, inHigh: 200 }, { in: 0.25 }, ['out'])).toEqual([1])
    expect(given('map', { outLow: 10, outHigh: 20 }, { in: 3 }, ['out'])).toEqual([20])
    expect(given('map', { outLow: 10, outHigh: 20, clamp: false }, { in: 3 }, ['out'])).toEqual([40])
    expect(given('map', { inLow: 1, inHigh: -1, curve: 0.5 }, { in: 0 }, ['out'])[0]).toBeCloseTo(
      (1 - Math.exp(-1.5)) / (1 - Math.exp(-3)),
      4,
    )
  })
})
