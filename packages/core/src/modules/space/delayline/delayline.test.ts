import { compile } from '../../../compile/compile.ts'
import { faultText } from '../../../patch/types.ts'
import { checkPatch } from '../../../patch/validate.ts'
import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { centsBetween, frequencyOf, largest, magnitudeAt } from '../../../testing/measure.ts'
import type { Sound } from '../../../formats/wav.ts'
import { promises } from '../../../testing/promises.ts'

promises('delayline', {
  inputs: 'in pitch offset',
  outputs: 'out tap1 tap2 tap3 tap4',
  params: 'unit time trim max interpolation feedback at1 at2 at3 at4 smoothing',
})

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

  it('follows a pitch on the very sample, whatever the smoothing', () => {
    const patch = patchOf(
      [
        ['w', 'noise'],
        ['v', 'value', { value: 0 }],
        ['d', 'delayline', { unit: 'pitch', interpolation: 'none', smoothing: 500 }],
      ],
      ['w.white > d.in', 'v.out > d.pitch'],
    )
    const heard = hear(patch, 0.2, {
      taps: ['w.white', 'd.out'],
      events: [{ t: 0.1, type: 'param', target: 'v.value', value: 1 }],
    })
    const [x, y] = [heard.tap('w.white'), heard.tap('d.out')]
    for (let i = 4000; i < 9000; i += 1) {
      const period = 48000 / 261.6256 / (i < 4800 ? 1 : 2)
      expect(y[i], `${i}`).toBe(x[i - Math.round(period)])
    }
  })

  it('lets its offset move at audio rate', () => {
    const patch = patchOf(
      [
        ['o', 'oscillator', { frequency: 1000 }],
        ['l', 'oscillator', { frequency: 500 }],
        ['d', 'delayline', { time: 2, interpolation: 'spline' }],
      ],
      ['o.sine > d.in', 'l.sine > d.offset * 0.2'],
    )
    const y = hear(patch, 0.2, { taps: ['d.out'] }).tap('d.out')
    for (let i = 2000; i < 9000; i += 1) {
      const t = i / 48000,
        delay = 0.002 + 0.0002 * Math.sin(2 * Math.PI * 500 * t)
      expect(Math.abs(y[i]! - Math.sin(2 * Math.PI * 1000 * (t - delay))), `${i}`).toBeLessThan(2e-3)
    }
  })

  it('has a range for each unit', () => {
    const place = (params: object): string => {
      const result = checkPatch({
        format: 'ypsilon/patch',
        version: 1,
        name: '',
        modules: [{ id: 'd', type: 'delayline', params }],
        cables: [],
      })
      return result.ok ? '' : faultText(result.faults[0]!)
    }
    expect(place({ time: 10000 })).toBe('')
    expect(place({ time: 400000 })).toContain('modules[0].params.time: 400000 is above 10000 ms')
    expect(place({ unit: 'samples', time: 400000 })).toBe('')
    expect(place({ unit: 'samples', time: 0.5 })).toContain('0.5 is below 1 samples')
  })

  const bytes = (params: Record<string, number | string>, cables: string[] = []): number => {
    const result = compile(
      patchOf(
        [
          ['l', 'lfo'],
          ['f', 'formula', {}, { data: { text: 'x = 900' } }],
          ['d', 'delayline', params],
        ],
        cables,
      ),
    )
    if (!result.ok) throw new Error(result.faults[0]!.message)
    return result.plan.memoryBytes
  }

  it('takes the memory that the patch can reach', () => {
    expect(bytes({ time: 1.3 })).toBeLessThan(200_000)
    expect(bytes({ unit: 'pitch' })).toBeLessThan(300_000)
    expect(bytes({ time: 1.3 }, ['l.sine > d.offset * 5'])).toBeLessThan(200_000)
    // Eight octaves above 20 ms are 5 s.
    expect(bytes({ time: 20 }, ['l.sine > d.time * 8'])).toBeGreaterThan(16 * 48000 * 5)
    // What a formula gives cannot be known, what is set is kept.
    expect(bytes({ time: 1.3 }, ['f.x > d.offset'])).toBeGreaterThan(16 * 480_000)
    expect(bytes({ time: 1.3, max: 10 })).toBeGreaterThan(16 * 480_000)
  })

  it('has room for what events will set', () => {
    const patch = patchOf(
      [
        ['w', 'noise'],
        ['d', 'delayline', { time: 1, smoothing: 0, interpolation: 'none' }],
      ],
      ['w.white > d.in'],
    )
    const heard = hear(patch, 3, {
      taps: ['w.white', 'd.out'],
      events: [{ t: 0.5, type: 'param', target: 'd.time', value: 2000 }],
    })
    expect(heard.tap('d.out')[140_000]).toBe(heard.tap('w.white')[44_000])
  })

  it.each([1.2, -1.2])('stays bounded with a feedback of %f', (feedback) => {
    const patch = patchOf(
      [
        ['w', 'noise'],
        ['d', 'delayline', { time: 2, feedback }],
      ],
      ['w.white > d.in'],
    )
    const y = hear(patch, 5, { taps: ['d.out'] }).tap('d.out')
    expect(largest(y)).toBeLessThan(8)
    expect(largest(y, 200_000)).toBeGreaterThan(3)
  })
})
