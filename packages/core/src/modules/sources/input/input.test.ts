import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('input', {
  inputs: '',
  outputs: 'out',
  params: 'level from',
})

describe('input', () => {
  it('brings both sides of what comes from outside, at its level', () => {
    const left = Float32Array.from({ length: 4800 }, (_, i) => i / 4800),
      right = left.map((x) => -x)
    const heard = hear(patchOf([['i', 'input', { level: 0.5 }]], []), 0.1, {
      input: { rate: 48000, channels: [left, right] },
      taps: ['i.out'],
    })
    const [a, b] = heard.lanes('i.out')
    expect(a![2400]).toBeCloseTo(0.25, 6)
    expect(b![2400]).toBeCloseTo(-0.25, 6)
  })
})
