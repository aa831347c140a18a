import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('lfo', {
  inputs: 'reset',
  outputs: 'out sine triangle saw fall square',
  params: 'rate sync shape phase polarity width fade level',
})

const shapes: Record<string, (p: number) => number> = {
  sine: (p) => Math.sin(2 * Math.PI * p),
  triangle: (p) => (p < 0.5 ? 4 * p - 1 : 3 - 4 * p),
  saw: (p) => 2 * p - 1,
  fall: (p) => 1 - 2 * p,
  square: (p) => (p < 0.3 ? 1 : -1),
}

describe('LFO', () => {
  it('draws its shapes from one phase', () => {
    const ports = Object.keys(shapes).map((port) => `l.${port}`)
    const heard = hear(patchOf([['l', 'lfo', { rate: 3, phase: 0.25, width: 0.3 }]], []), 1, { taps: ports })
    for (const [port, shape] of Object.entries(shapes)) {
      const x = heard.tap(`l.${port}`)
      for (let i = 0; i < 48000; i += 101) {
        const p = (0.25 + (3 * i) / 48000) % 1
        if (Math.min(p, 1 - p, Math.abs(p - 0.3), Math.abs(p - 0.5)) > 0.001)
          expect(x[i]!, `${port} ${i}`).toBeCloseTo(shape(p), 3)
      }
    }
  })
  it('keeps its period within 0.01 % down to 0.001 Hz', () => {
    const x = hear(patchOf([['l', 'lfo', { rate: 0.001 }]], []), 20, { taps: ['l.saw'] }).tap('l.saw')
    expect((x[x.length - 1]! + 1) / 2 / ((0.001 * (x.length - 1)) / 48000)).toBeCloseTo(1, 4)
  })
  it('is unipolar, faded and sized when asked', () => {
    const x = hear(
      patchOf([['l', 'lfo', { rate: 5, polarity: 'unipolar', level: 0.5, fade: 0.5, shape: 'square' }]], []),
      1,
      { taps: ['l.out'] },
    ).tap('l.out')
    expect(Math.min(...x)).toBe(0)
    expect(Math.max(...x)).toBeCloseTo(0.5, 6)
    expect(x[4800 / 4]!).toBeCloseTo(0.5 * (1200 / 24000), 4)
  })
  it('starts over at a reset and follows the transport when synced', () => {
    const reset = hear(
      patchOf(
        [
          ['n', 'notes'],
          ['l', 'lfo', { rate: 2 }],
        ],
        ['n.gate > l.reset'],
      ),
      0.6,
      { play: '60@0.4+0.1', taps: ['l.saw'] },
    ).tap('l.saw')
    expect(reset[19200]!).toBeCloseTo(-1, 5)
    const synced = hear(patchOf([['l', 'lfo', { sync: '1/4' }]], [], { tempo: 90 }), 2, {
      taps: ['l.saw'],
    }).tap('l.saw')
    for (let i = 100; i < 96000; i += 977) {
      const p = ((i / 48000) * 1.5) % 1
      if (Math.min(p, 1 - p) > 0.001) expect(synced[i]!).toBeCloseTo(2 * p - 1, 4)
    }
  })
})
