import { describe, expect, it } from 'vitest'
import { given } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('amplifier', {
  inputs: 'in cv',
  outputs: 'out',
  params: 'level response',
})

describe('amplifier', () => {
  it('is open without a cable, closed at 0 and below, and has its level and response', () => {
    expect(given('amplifier', {}, { in: 0.5 }, ['out'])).toEqual([0.5])
    expect(given('amplifier', {}, { in: 0.5, cv: 0 }, ['out'])).toEqual([0])
    expect(given('amplifier', {}, { in: 0.5, cv: -1 }, ['out'])).toEqual([0])
    expect(given('amplifier', { level: -20 }, { in: 0.5, cv: 1 }, ['out'])[0]).toBeCloseTo(0.05, 5)
    expect(given('amplifier', { level: -60 }, { in: 0.5 }, ['out'])).toEqual([0])
    expect(given('amplifier', { response: 'exponential' }, { in: 1, cv: 0.5 }, ['out'])[0]).toBeCloseTo(
      31 / 1023,
      5,
    )
  })
})
