import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../testing/bench.ts'
import { amplitudes, db } from '../testing/measure.ts'

const SIZE = 65536
/** Bessel function of the first kind, by its integral. */
const bessel = (n: number, x: number): number => {
  let sum = 0
  for (let k = 0; k < 4000; k += 1) {
    const t = (Math.PI * (k + 0.5)) / 4000
    sum += Math.cos(n * t - x * Math.sin(t))
  }
  return sum / 4000
}

describe('frequency and phase modulation', () => {
  it.each([
    ['phase', 'oscillator'],
    ['hz', 'oscillator'],
    ['fm', 'oscillator'],
    ['phase', 'operator'],
    ['hz', 'operator'],
  ])('%s of %s gives the sidebands of theory', (how, type) => {
    for (const index of [0.5, 2, 5]) {
      const bin = Math.round((4000 * SIZE) / 48000),
        side = Math.round((200 * SIZE) / 48000),
        carrier = (bin * 48000) / SIZE,
        modulator = (side * 48000) / SIZE
      const amount =
        how === 'phase'
          ? index / (2 * Math.PI)
          : how === 'hz'
            ? index * modulator
            : (index * modulator) / carrier
      const port = type === 'operator' ? 'out' : 'sine'
      const a = amplitudes(
        hear(
          patchOf(
            [
              [
                'c',
                type,
                type === 'operator'
                  ? { fixed: true, frequency: carrier, envelope: false }
                  : { tracking: false, frequency: carrier },
              ],
              ['m', 'oscillator', { tracking: false, frequency: modulator }],
            ],
            [`m.sine > c.${how} * ${amount}`],
          ),
          2.5,
          { taps: [`c.${port}`] },
        ).tap(`c.${port}`),
        SIZE,
        24000,
      )
      for (let n = 0; n <= 6; n += 1) {
        const expected = Math.abs(bessel(n, index))
        if (expected < 0.01) continue
        for (const sign of [1, -1])
          expect(
            Math.abs(db(a[bin + sign * n * side]!) - db(expected)),
            `${how} ${type} index ${index} sideband ${sign * n}`,
          ).toBeLessThan(0.5)
      }
    }
  })
})
