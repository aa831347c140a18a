import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('fan', {
  inputs: 'in',
  outputs: 'out1 out2 out3 out4 out5 out6 out7 out8',
  params: 'centre width pattern smooth polarity',
})

describe('fan', () => {
  it('spreads its places', () => {
    const at = (params: Record<string, number | string>): number[] => {
      const taps = [1, 2, 3, 4, 5, 6, 7, 8].map((n) => `f.out${n}`)
      const heard = hear(
        patchOf(
          [
            ['v', 'value', { value: 0.1 }],
            ['f', 'fan', params],
          ],
          ['v.out > f.in'],
        ),
        0.01,
        { taps },
      )
      return taps.map((tap) => Math.round(heard.tap(tap)[100]! * 1000) / 1000)
    }
    expect(at({ width: 0.7 })).toEqual([-0.6, -0.4, -0.2, 0, 0.2, 0.4, 0.6, 0.8])
    expect(at({ width: 0.7, polarity: 'unipolar', centre: 0.2 })).toEqual([
      0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1,
    ])
  })

  it('smooths', () => {
    const x = hear(
      patchOf(
        [
          ['v', 'value'],
          ['f', 'fan', { width: 0, smooth: 0.2 }],
        ],
        ['v.out > f.in'],
      ),
      0.5,
      { taps: ['f.out1'], events: [{ t: 0.1, type: 'param', target: 'v.value', value: 1 }] },
    ).tap('f.out1')
    expect(x[4800 + 9600]).toBeCloseTo(0.99, 2)
    expect(x[4800 + 960]).toBeLessThan(0.5)
  })
})
