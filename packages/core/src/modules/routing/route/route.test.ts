import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('route', {
  inputs: 'in clock reset select',
  outputs: 'out1 out2 out3 out4 out5 out6 out7 out8',
  params: 'steps order fade',
})

describe('route', () => {
  it('sends on to the next output at the clock', () => {
    const heard = hear(
      patchOf(
        [
          ['c', 'clock', { source: 'own', tempo: 60 }],
          ['a', 'value', { value: 1 }],
          ['m', 'route', { steps: 2 }],
        ],
        ['c.beat > m.clock', 'a.out > m.in'],
      ),
      5,
      { taps: ['m.out1', 'm.out2'] },
    )
    const at = (port: string): number[] =>
      [0, 1, 2, 3, 4].map((second) => heard.tap(port)[second * 48000 + 100]!)
    expect(at('m.out1')).toEqual([1, 0, 1, 0, 1])
    expect(at('m.out2')).toEqual([0, 1, 0, 1, 0])
  })
})
