import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('lowpassgate', {
  inputs: 'in cv trigger',
  outputs: 'out',
  params: 'decay resonance mode',
})

describe('lowpassgate', () => {
  it('opens at once and closes by its decay, darker on the way', () => {
    const out = hear(
      patchOf(
        [
          ['w', 'noise'],
          ['n', 'notes'],
          ['l', 'lowpassgate', { decay: 0.4 }],
        ],
        ['w.white > l.in', 'n.trigger > l.trigger'],
      ),
      1.5,
      { play: '60@0+1', taps: ['l.out'] },
    ).tap('l.out')
    const share = (from: number): number => {
      const a = amplitudes(out, 2048, from)
      const sum = (low: number, high: number): number =>
        a.subarray(low, high).reduce((total, x) => total + x * x, 0)
      return sum(200, 900) / sum(1, 900)
    }
    expect(rms(out, 200, 1000)).toBeGreaterThan(0.2)
    expect(rms(out, 60000)).toBeLessThan(0.001)
    expect(share(9600)).toBeLessThan(share(300) * 0.7)
  })
})
