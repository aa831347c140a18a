import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { click, pink, RATE, sine, through } from '../../../testing/effects.ts'
import { db, largest, largestStep, magnitudeAt, rms, worstAlias } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('delay', {
  inputs: 'in clear',
  outputs: 'out',
  params:
    'left right sync leftNote rightNote link feedback pingpong low high drive motion motionRate duck change smoothing hold mix per',
})

/** Samples of a side that are not silent, with their sizes. */
const echoesIn = (x: Float32Array): (readonly [number, number])[] =>
  [...x].flatMap((size, at) => (Math.abs(size) > 1e-6 ? [[at, Math.round(size * 1e6) / 1e6] as const] : []))

/** How many samples a tone is late, within half its period, and how many times as loud. */
const lagOf = (
  out: Float32Array,
  sound: Float32Array,
  hz: number,
): readonly [samples: number, level: number] => {
  const part = (x: Float32Array): readonly [number, number] => {
    let cosine = 0,
      side = 0
    for (let n = 8000; n < 8000 + (80 * RATE) / hz; n += 1) {
      const phase = (2 * Math.PI * hz * n) / RATE
      cosine += x[n]! * Math.cos(phase)
      side += x[n]! * Math.sin(phase)
    }
    return [cosine, side]
  }
  const [a, b] = part(out),
    [c, d] = part(sound)
  const turned = Math.atan2(c * b - d * a, c * a + d * b)
  return [(turned / (2 * Math.PI * hz)) * RATE, Math.hypot(a, b) / Math.hypot(c, d)]
}

const moved = (
  params: Record<string, number | string | boolean>,
  cable: string,
  sound: Float32Array,
  rate = 1,
) =>
  hear(
    patchOf(
      [
        ['i', 'input'],
        ['s', 'lfo', { shape: 'square', rate, polarity: 'unipolar' }],
        ['d', 'delay', { mix: 1, feedback: 0, ...params }],
      ],
      ['i.out > d.in', cable],
    ),
    sound.length / RATE,
    { input: { rate: RATE, channels: [sound, sound] }, taps: ['d.out'] },
  ).tap('d.out')

/** Hertz from each rising zero crossing to the next. */
const pitches = (x: Float32Array, from: number): number[] => {
  const at: number[] = []
  for (let n = from; n < x.length - 1; n += 1)
    if (x[n]! < 0 && x[n + 1]! >= 0) at.push(n + x[n]! / (x[n]! - x[n + 1]!))
  return at.slice(1).map((place, n) => RATE / (place - at[n]!))
}

describe('delay', () => {
  it('plays ping-pong to the sample: left first, then to and fro', () => {
    const [left, right] = through(
      'delay',
      { left: 10, right: 15, link: false, pingpong: true, feedback: 0.5, mix: 1 },
      [click(0.12), new Float32Array(click(0.12).length)],
    )()
    expect(echoesIn(left!)).toEqual([
      [480, 0.5],
      [1680, 0.125],
      [2880, 0.03125],
      [4080, 0.007813],
      [5280, 0.001953],
    ])
    expect(echoesIn(right!)).toEqual([
      [1200, 0.25],
      [2400, 0.0625],
      [3600, 0.015625],
      [4800, 0.003906],
    ])
  })

  it('leaves every echo as it was: filters and drive are out of circuit at their ends', () => {
    const sound = pink(0.5)
    const [left] = through('delay', { left: 100, feedback: 0, mix: 1 }, sound)()
    expect(left!.subarray(4800)).toEqual(sound.subarray(0, sound.length - 4800))
    const [cut] = through('delay', { left: 100, feedback: 0, mix: 1, low: 300, high: 3000 }, click(1))()
    const onePole = (hz: number, at: number): number =>
      Math.tan((Math.PI * hz) / RATE) / Math.tan((Math.PI * at) / RATE)
    for (const hz of [60, 300, 1000, 3000, 12000]) {
      const a = onePole(hz, 300),
        b = onePole(hz, 3000)
      const wanted = (a / Math.hypot(1, a)) * (1 / Math.hypot(1, b))
      expect(Math.abs(db(magnitudeAt(cut!, hz) / wanted)), `${hz} Hz`).toBeLessThan(0.05)
    }
  })

  it.each([
    [120, '1/8.', 18000],
    [90, '1/4', 32000],
    [47, '1/16t', 10213],
    [20, '1/1', 144000],
  ])(
    'at %d bpm %s is %d samples, whatever is set by hand; what is too long is halved',
    (tempo, leftNote, samples) => {
      const patch = patchOf(
        [
          ['i', 'input'],
          ['d', 'delay', { sync: true, leftNote, feedback: 0, mix: 1, left: 77 }],
        ],
        ['i.out > d.in'],
        { tempo },
      )
      const x = click(3.2)
      const out = hear(patch, 3.2, { input: { rate: RATE, channels: [x, x] }, taps: ['d.out'] }).tap('d.out')
      const [first] = [...out].flatMap((size, at) => (Math.abs(size) > 0.3 ? [at] : []))
      expect(Math.abs(first! - samples)).toBeLessThanOrEqual(1)
    },
  )

  it('changes a time as a tape does: the pitch glides and never steps', () => {
    const out = moved({ left: 100, smoothing: 200 }, 's.out > d.left * 0.3', sine(500, 2))
    const found = pitches(out, 9600)
    const steps = found.slice(1).map((hz, n) => Math.abs(hz / found[n]! - 1))
    // A way without corners: a law of one pole would step by two thirds here.
    expect(Math.max(...steps)).toBeLessThan(0.05)
    // It does bend on the way, and is in tune when it is there.
    expect(Math.max(...found)).toBeGreaterThan(530)
    expect(Math.min(...found)).toBeLessThan(470)
    expect(found.at(-1)).toBeCloseTo(500, 1)
    expect(largestStep(out, 9600)).toBeLessThan(1.6 * 0.5 * ((2 * Math.PI * 500) / RATE))
  })

  it('fades to another time without a change of pitch and without a click', () => {
    // Both times hold whole periods of 500 Hz: the fade is between equals.
    const out = moved({ left: 100, smoothing: 100, change: 'fade' }, 's.out > d.left * 1', sine(500, 2))
    const found = pitches(out, 12000)
    expect(Math.max(...found.map((hz) => Math.abs(hz / 500 - 1)))).toBeLessThan(0.01)
    const noise = pink(2)
    const other = moved({ left: 100, smoothing: 60, change: 'fade' }, 's.out > d.left * 0.37', noise)
    expect(largestStep(other, 12000)).toBeLessThan(1.5 * largestStep(noise))
  })

  it('holds what is in it for a minute within half a decibel, whatever feedback says', () => {
    for (const pingpong of [false, true]) {
      const sound = Float32Array.from(pink(62), (x, n) => (n < 2 * RATE ? x : 0.5 * Math.sin(n)))
      const patch = patchOf(
        [
          ['i', 'input'],
          ['d', 'delay', { left: 333.3, feedback: 0.9, mix: 1, low: 200, high: 4000, drive: 12, pingpong }],
          ['n', 'notes'],
        ],
        ['i.out > d.in', 'n.gate > d.hold'],
      )
      const out = hear(patch, 62, {
        input: { rate: RATE, channels: [sound, sound] },
        taps: ['d.out'],
        play: '60@1.5+60',
      }).tap('d.out')
      const at = (seconds: number): number => rms(out, seconds * RATE, (seconds + 1) * RATE)
      expect(at(3)).toBeGreaterThan(0.01)
      for (const second of [10, 30, 60]) expect(Math.abs(db(at(second) / at(3)))).toBeLessThan(0.5)
    }
  })

  it('stays bounded at a feedback of 110 %, and sounds for ever', () => {
    const sound = Float32Array.from({ length: 20 * RATE }, (_, n) => (n < RATE ? Math.sin(n * 0.05) : 0))
    const [left] = through('delay', { left: 120, feedback: 1.1, mix: 1 }, sound)()
    expect(largest(left!)).toBeLessThan(4)
    expect(rms(left!, 19 * RATE)).toBeGreaterThan(0.1)
  })

  describe('drive', () => {
    it('bends the echo towards its ceiling and folds nothing back', () => {
      for (const [hz, level, drive] of [
        [5000, 1, 12],
        [5000, 1, 36],
        [2300, 0.5, 24],
        [900, 1, 36],
      ] as const) {
        const sound = sine(hz, 2, level)
        const [out] = through('delay', { left: 10, feedback: 0, mix: 1, drive }, sound)()
        expect(worstAlias(out!, hz, { start: 12000 }), `${hz} Hz, ${drive} dB`).toBeLessThan(-80)
        // Its ceiling falls with the drive; a square without its highest overtones reaches 4 / π of it and a little more.
        const bend = 2 ** (drive * 0.0830482) - 1
        expect(largest(out!, 12000) * bend).toBeLessThan(1.35)
      }
    })

    it('leaves soft sounds as they are and echoes where they were, within half a sample', () => {
      for (const drive of [1, 12, 30]) {
        const sound = sine(300, 0.5, 1e-4)
        const [out] = through('delay', { left: 10, feedback: 0, mix: 1, drive }, sound)()
        // A period is 160 samples, so the echo of 480 stands where the sound does.
        const [late, level] = lagOf(out!, sound, 300)
        expect(Math.abs(late), `${drive} dB`).toBeLessThan(0.5)
        expect(Math.abs(db(level))).toBeLessThan(0.01)
      }
    })

    it('comes in and goes out without a click', () => {
      const sound = sine(300, 1, 0.4)
      const patch = patchOf(
        [
          ['i', 'input'],
          ['n', 'notes'],
          ['d', 'delay', { left: 20, feedback: 0.3, mix: 1 }],
        ],
        ['i.out > d.in', 'n.gate > d.drive * 24'],
      )
      const out = hear(patch, 1, {
        input: { rate: RATE, channels: [sound, sound] },
        taps: ['d.out'],
        play: '60@0.3+0.3',
      }).tap('d.out')
      expect(largestStep(out, 0.1 * RATE)).toBeLessThan(2.5 * largestStep(out, 0.1 * RATE, 0.29 * RATE))
    })
  })

  it('gives way to what comes in, and comes back', () => {
    const sound = Float32Array.from(sine(400, 3, 0.4), (x, n) => (n > RATE && n < 2 * RATE ? 0 : x))
    const heard = (duck: number): Float32Array =>
      through('delay', { left: 300, feedback: 0.6, duck, mix: 1 }, sound)()[0]!
    const [plain, ducked] = [heard(0), heard(1)]
    expect(rms(ducked, 0.6 * RATE, 0.9 * RATE) / rms(plain, 0.6 * RATE, 0.9 * RATE)).toBeLessThan(0.05)
    expect(rms(ducked, 1.7 * RATE, 1.95 * RATE) / rms(plain, 1.7 * RATE, 1.95 * RATE)).toBeGreaterThan(0.9)
  })

  it('is cleared within 10 ms, without a click, and takes what comes after', () => {
    const sound = sine(300, 2, 0.4)
    const patch = patchOf(
      [
        ['i', 'input'],
        ['n', 'notes'],
        ['d', 'delay', { left: 200, feedback: 0.8, mix: 1 }],
      ],
      ['i.out > d.in', 'n.gate > d.clear'],
    )
    const out = hear(patch, 2, {
      input: { rate: RATE, channels: [sound, sound] },
      taps: ['d.out'],
      play: '60@1+0.1',
    }).tap('d.out')
    expect(rms(out, 0.9 * RATE, 0.99 * RATE)).toBeGreaterThan(0.3)
    expect(largest(out, 1.01 * RATE, 1.195 * RATE)).toBe(0)
    expect(rms(out, 1.25 * RATE, 1.35 * RATE)).toBeGreaterThan(0.25)
    expect(largestStep(out, 0.95 * RATE, 1.3 * RATE)).toBeLessThan(0.06)
  })
})
