import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('glide', {
  inputs: 'in gate',
  outputs: 'out',
  params: 'rise fall curve link',
})

describe('glide', () => {
  it('a glide takes the time it says, straight or bent, and ends exactly', () => {
    const glide = (params: Record<string, number | string | boolean>): Float32Array =>
      hear(
        patchOf(
          [
            ['v', 'value'],
            ['g', 'glide', params],
          ],
          ['v.out > g.in'],
        ),
        1,
        { events: [{ t: 0.1, type: 'param', target: 'v.value', value: 1 }], taps: ['g.out'] },
      ).tap('g.out')
    const straight = glide({ rise: 0.2 })
    expect(straight[4800 + 4799]).toBeCloseTo(0.5, 3)
    expect(straight[4800 + 9600]).toBe(1)
    const bent = glide({ rise: 0.2, curve: 'exponential' })
    expect(bent[4800 + 9600]).toBeCloseTo(0.99, 3)
    expect(bent[47999]).toBe(1)
    expect(glide({ rise: 0 })[4801]).toBe(1)
  })
})
