import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { centsBetween, frequencyOf, largest, magnitudeAt } from '../../../testing/measure.ts'
import type { Sound } from '../../../formats/wav.ts'

const click = (frames: number, at = 0): Sound => {
  const x = new Float32Array(frames)
  x[at] = 1
  return { rate: 48000, channels: [x, x] }
}

describe('delay line', () => {
  it.each([1, 2, 3, 37, 100, 127, 128, 129, 777])(
    'in a patched loop repeats after exactly %i samples',
    (delay) => {
      for (const interpolation of ['none', 'linear', 'cubic', 'spline', 'allpass']) {
        const patch = patchOf(
          [
            ['i', 'input'],
            ['m', 'mix'],
            ['d', 'delayline', { unit: 'samples', time: delay, interpolation }],
            ['out', 'output'],
          ],
          ['i.out > m.in1', 'd.out > m.in2 * 0.5', 'm.out > d.in', 'm.out > out.in'],
        )
        const x = hear(patch, 0.1, { input: click(4800), taps: ['m.out'] }).tap('m.out')
        const expected = new Float32Array(4800)
        for (let n = 0, level = 1; n < 4800 && level > 0.5e-15; n += delay, level *= 0.5) expected[n] = level
        expect([...x], interpolation).toEqual([...expected])
      }
    },
  )

  it('delays by its own feedback just the same', () => {
    const patch = patchOf(
      [
        ['i', 'input'],
        ['d', 'delayline', { unit: 'samples', time: 50, feedback: -0.5 }],
      ],
      ['i.out > d.in'],
    )
    const x = hear(patch, 0.01, { input: click(480), taps: ['d.out'] }).tap('d.out')
    expect([x[0], x[49], x[50], x[51], x[100], x[150]]).toEqual([0, 0, 1, 0, -0.5, 0.25])
  })

  it('reads taps at shares of its time, ms and trim', () => {
    const patch = patchOf(
      [
        ['i', 'input'],
        ['d', 'delayline', { time: 10, trim: 4 }],
      ],
      ['i.out > d.in'],
    )
    const heard = hear(patch, 0.02, { input: click(960), taps: ['d.out', 'd.tap1', 'd.tap2'] })
    expect(heard.tap('d.out').indexOf(1)).toBe(476)
    expect(heard.tap('d.tap1').indexOf(1)).toBe(119)
    expect(heard.tap('d.tap2').indexOf(1)).toBe(238)
  })

  it('makes strings in tune from A0 to C7', () => {
    for (const note of [21, 33, 45, 60, 72, 84, 96]) {
      for (const interpolation of ['cubic', 'spline', 'allpass']) {
        const patch = patchOf(
          [
            ['n', 'notes'],
            ['w', 'noise'],
            ['e', 'envelope', { attack: 0, decay: 0.006, sustain: 0, release: 0.001 }],
            ['m', 'mix'],
            ['d', 'delayline', { unit: 'pitch', interpolation, smoothing: 0 }],
          ],
          [
            'n.gate > e.gate',
            'w.white > e.in',
            'e.out > m.in1',
            'n.pitch > d.pitch',
            'm.out > d.in',
            'd.out > m.in2 * 0.999',
          ],
        )
        const x = hear(patch, 3, { play: `${note}@0+3`, taps: ['m.out'] }).tap('m.out')
        const expected = 440 * 2 ** ((note - 69) / 12)
        const measured = frequencyOf(x, expected, 48000, 12000, Math.min(96000, x.length - 12000))
        expect(Math.abs(centsBetween(measured, expected)), `${note} ${interpolation}`).toBeLessThan(0.5)
      }
    }
  })

  it('interpolates between samples as well as its order allows', () => {
    // Half a sample is the hardest place; the six-point form is flattest, then four, then two.
    const lossAt = (interpolation: string, hz: number): number => {
      const patch = patchOf(
        [
          ['i', 'input'],
          ['d', 'delayline', { unit: 'samples', time: 40.5, interpolation }],
        ],
        ['i.out > d.in'],
      )
      return Math.abs(
        1 - magnitudeAt(hear(patch, 0.02, { input: click(960), taps: ['d.out'] }).tap('d.out'), hz),
      )
    }
    expect(lossAt('linear', 4000)).toBeCloseTo(1 - Math.cos((Math.PI * 4000) / 48000), 3)
    expect(lossAt('cubic', 4000)).toBeLessThan(lossAt('linear', 4000) / 10)
    expect(lossAt('spline', 4000)).toBeLessThan(lossAt('cubic', 4000) / 10)
    expect(lossAt('allpass', 10000)).toBeLessThan(1e-4)
  })

  it('stays within bounds when its feedback is above 1', () => {
    const patch = patchOf(
      [
        ['i', 'input'],
        ['d', 'delayline', { unit: 'samples', time: 20, feedback: 1.2 }],
        ['out', 'output'],
      ],
      ['i.out > d.in', 'd.out > out.in'],
    )
    const x = hear(patch, 1, { input: click(48000) })
    expect(x.out.every(Number.isFinite)).toBe(true)
    expect(largest(x.out)).toBeLessThan(1)
  })

  it('moves its time smoothly while it plays', () => {
    const patch = patchOf(
      [
        ['o', 'oscillator', { frequency: 200 }],
        ['d', 'delayline', { time: 20, smoothing: 200 }],
        ['out', 'output'],
      ],
      ['o.sine > d.in', 'd.out > out.in'],
    )
    const x = hear(patch, 1, {
      taps: ['d.out'],
      events: [{ t: 0.5, type: 'param', target: 'd.time', value: 12 }],
    }).tap('d.out')
    let step = 0
    for (let i = 20000; i < x.length; i += 1) step = Math.max(step, Math.abs(x[i]! - x[i - 1]!))
    expect(step).toBeLessThan(0.06) // the sine's own largest step is 0.026, its glide at most doubles it
  })
})
