import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('lfobank', {
  inputs: 'reset',
  outputs: 'out1 out2 out3 out4 out5 out6 out7 out8',
  params: 'rate ratio spread shape polarity level',
})

describe('lfobank', () => {
  it('each output runs at the rate of the one before times the ratio', () => {
    const heard = hear(patchOf([['b', 'lfobank', { rate: 4, ratio: 0.5, shape: 'saw' }]], []), 4, {
      taps: ['b.out1', 'b.out2', 'b.out3'],
    })
    const falls = (x: Float32Array): number =>
      rises(x.map((v, i) => (i > 0 && v < x[i - 1]! - 1 ? 1 : 0))).length
    expect([falls(heard.tap('b.out1')), falls(heard.tap('b.out2')), falls(heard.tap('b.out3'))]).toEqual([
      15, 7, 3,
    ])
  })
})
