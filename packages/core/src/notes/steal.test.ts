import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../testing/bench.ts'

describe('a stolen voice', () => {
  // Two voices, each its own constant level: the oldest is taken by the third note, whose level is far away.
  const patch = patchOf(
    [
      ['n', 'notes', { voices: 2, mode: 'poly' }],
      ['s', 'sum'],
    ],
    ['n.velocity > s.in'],
  )
  const heard = hear(patch, 0.3, {
    play: '60@0+1:0.1 64@0.05+1:0.2 67@0.1+1:0.9',
    taps: ['s.out', 'n.gate', 'n.velocity'],
  })
  it('drops its gate for one sample', () => {
    const gates = heard.lanes('n.gate').map((lane) => lane.subarray(4700, 4900)),
      dropped = gates.flatMap((gate, voice) =>
        [...gate.keys()].filter((i) => gate[i]! < 0.5).map((i) => [voice, i + 4700]),
      )
    expect(dropped).toEqual([[0, 4800]])
  })
  it('hands its share in the sum over within 2 ms, without a step', () => {
    const out = heard.tap('s.out')
    expect(out[4799]).toBeCloseTo(0.3, 6)
    let most = 0
    for (let i = 4790; i < 4910; i += 1) most = Math.max(most, Math.abs(out[i]! - out[i - 1]!))
    expect(most).toBeLessThan(0.8 / 96 + 1e-4)
    expect(out[4848]).toBeCloseTo(0.7, 2)
    expect(out[4800 + 96]).toBeCloseTo(1.1, 6)
  })
})
