import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { amplitudes, db, largest, magnitudeAt, worstAlias } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('filter', {
  inputs: 'in pitch',
  outputs: 'low band high notch peak morph',
  params: 'cutoff resonance slope drive tracking morph',
})

const impulse = (frames: number) => {
  const x = new Float32Array(frames)
  x[0] = 1
  return { rate: 48000, channels: [x, x] }
}

const response = (params: Record<string, number | string>, port: string): Float32Array => {
  const patch = patchOf(
    [
      ['i', 'input'],
      ['f', 'filter', params],
    ],
    [`i.out > f.in`],
  )
  return hear(patch, 1, { input: impulse(48000), taps: [`f.${port}`] }).tap(`f.${port}`)
}

/** Analogue prototype at the frequency the bilinear transform maps `hz` to. */
const analogue = (port: string, cutoff: number, resonance: number, hz: number): number => {
  const ratio = Math.tan((Math.PI * hz) / 48000) / Math.tan((Math.PI * cutoff) / 48000)
  const k = 2 * (1 - resonance)
  const size = Math.hypot(1 - ratio ** 2, k * ratio)
  const over = {
    low: 1,
    band: k * ratio,
    high: ratio ** 2,
    notch: Math.abs(1 - ratio ** 2),
    peak: 1 + ratio ** 2,
  }[port]!
  return over / size
}

describe('filter', () => {
  it.each([
    [100, 0],
    [640, 0.2],
    [1000, 0.8],
    [5000, 0.5],
    [12000, 0.3],
  ])('matches the analogue prototype at cutoff %d Hz, resonance %d', (cutoff, resonance) => {
    for (const port of ['low', 'band', 'high', 'notch', 'peak']) {
      const ir = response({ cutoff, resonance }, port)
      for (const hz of [50, 100, 300, 640, 1000, 2500, 5000, 10000]) {
        const expected = analogue(port, cutoff, resonance, hz)
        if (expected > 1e-3)
          expect(Math.abs(db(magnitudeAt(ir, hz) / expected)), `${port} ${hz}`).toBeLessThan(0.1)
      }
    }
  })

  it('doubles its slope with a second section', () => {
    for (const port of ['low', 'band', 'high']) {
      const ir = response({ cutoff: 1000, resonance: 0.4, slope: '24' }, port)
      for (const hz of [200, 1000, 4000])
        expect(db(magnitudeAt(ir, hz) / analogue(port, 1000, 0.4, hz) ** 2), `${port} ${hz}`).toBeCloseTo(
          0,
          1,
        )
    }
  })

  it('morphs from low over band to high', () => {
    for (const [morph, port] of [
      [0, 'low'],
      [0.5, 'band'],
      [1, 'high'],
    ] as const) {
      const ir = response({ cutoff: 1000, resonance: 0.4, morph }, 'morph')
      for (const hz of [200, 1000, 4000])
        expect(magnitudeAt(ir, hz)).toBeCloseTo(analogue(port, 1000, 0.4, hz), 2)
    }
  })

  it('is exactly linear without drive and saturates with it', () => {
    const patch = (drive: number) =>
      patchOf(
        [
          ['o', 'oscillator', { frequency: 187.5 }],
          ['f', 'filter', { cutoff: 20000, drive }],
        ],
        ['o.sine > f.in'],
      )
    const third = (drive: number): number => {
      const spectrum = amplitudes(hear(patch(drive), 2, { taps: ['f.low'] }).tap('f.low'), 65536, 9000)
      return db(spectrum[768]! / spectrum[256]!)
    }
    expect(third(0)).toBeLessThan(-120)
    expect(third(12)).toBeGreaterThan(-30)
  })

  it('stays stable under audio-rate modulation of cutoff and resonance', () => {
    const patch = patchOf(
      [
        ['o', 'oscillator', { frequency: 110 }],
        ['m', 'oscillator', { frequency: 3100 }],
        ['q', 'oscillator', { frequency: 777 }],
        ['f', 'filter', { cutoff: 1000, resonance: 0.9 }],
      ],
      ['o.saw > f.in', 'm.sine > f.cutoff * 5', 'q.sine > f.resonance * 0.5'],
    )
    const x = hear(patch, 2, { taps: ['f.low'] }).tap('f.low')
    expect(x.every(Number.isFinite)).toBe(true)
    expect(largest(x)).toBeLessThan(60)
  })

  it('tracks pitch around C4', () => {
    const patch = patchOf(
      [
        ['n', 'notes'],
        ['i', 'input'],
        ['f', 'filter', { cutoff: 500, resonance: 0.95, tracking: 1 }],
      ],
      ['n.pitch > f.pitch', 'i.out > f.in'],
    )
    const ir = hear(patch, 1, { play: '72@0+1', input: impulse(48000), taps: ['f.band'] }).tap('f.band')
    expect(magnitudeAt(ir, 1000)).toBeCloseTo(1, 2)
  })

  describe.each(['filter', 'ladder'])('drive of the %s', (type) => {
    const port = type === 'filter' ? 'f.low' : 'f.out'
    const driven = (drive: number, hz: number, best = false): Float32Array =>
      hear(
        patchOf(
          [
            ['o', 'oscillator', { frequency: hz }],
            ['f', type, { cutoff: 20000, resonance: 0, drive }],
          ],
          ['o.sine > f.in'],
        ),
        2,
        { taps: [port], best },
      ).tap(port)

    it('keeps aliases of 5 kHz down, further down at best quality', () => {
      expect(worstAlias(driven(12, 5000.3), 5000.3)).toBeLessThan(-90)
      expect(worstAlias(driven(12, 5000.3, true), 5000.3)).toBeLessThan(-95)
      expect(worstAlias(driven(24, 5000.3), 5000.3)).toBeLessThan(-60)
      expect(worstAlias(driven(24, 5000.3, true), 5000.3)).toBeLessThan(-80)
    })

    it('begins at nothing', () => {
      const plain = driven(0, 500.3),
        barely = driven(0.001, 500.3)
      let most = 0
      for (let i = 0; i < plain.length; i += 1) most = Math.max(most, Math.abs(plain[i]! - barely[i]!))
      expect(most).toBeLessThan(2e-4)
    })

    it('takes no time, drive or not', () => {
      const click = (drive: number): Float32Array =>
        hear(
          patchOf(
            [
              ['i', 'input'],
              ['f', type, { cutoff: 5000, resonance: 0, drive }],
            ],
            ['i.out > f.in'],
          ),
          0.1,
          { input: impulse(4800), taps: [port] },
        ).tap(port)
      // The linear path: what a drive adds comes later.
      expect(click(12)[0]!).toBeCloseTo(click(0)[0]!, 5)
    })
  })
})
