import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('gate', {
  inputs: 'in',
  outputs: 'gate start end',
  params: 'delay length',
})

describe('gate', () => {
  it('a gate is delayed and has its length, or that of what comes in', () => {
    const heard = (params: Record<string, number>): Float32Array =>
      hear(
        patchOf(
          [
            ['n', 'notes'],
            ['g', 'gate', params],
          ],
          ['n.gate > g.in'],
        ),
        1,
        { play: '60@0.1+0.2', taps: ['g.gate'] },
      ).tap('g.gate')
    const length = (x: Float32Array): number => {
      const [at] = rises(x)
      let n = 0
      while (x[at! + n]! > 0.5) n += 1
      return n
    }
    expect([rises(heard({})), length(heard({}))]).toEqual([[4800], 9600])
    expect([rises(heard({ delay: 0.05 })), length(heard({ delay: 0.05 }))]).toEqual([[7200], 9600])
    expect([rises(heard({ delay: 0.05, length: 0.5 })), length(heard({ delay: 0.05, length: 0.5 }))]).toEqual(
      [[7200], 24000],
    )
  })
})
