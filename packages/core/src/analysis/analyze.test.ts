import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../testing/bench.ts'
import { analyze } from './analyze.ts'
import { measureLoudness } from './loudness.ts'
import { truePeakOf } from './truepeak.ts'

const RATE = 48000
const sine = (db: number, hz: number, seconds: number, rate = RATE, phase = 0): Float32Array =>
  Float32Array.from(
    { length: Math.round(seconds * rate) },
    (_, i) => 10 ** (db / 20) * Math.sin((2 * Math.PI * hz * i) / rate + phase),
  )
const joined = (...parts: Float32Array[]): Float32Array => {
  const whole = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0))
  let at = 0
  for (const part of parts) {
    whole.set(part, at)
    at += part.length
  }
  return whole
}
const stereo = (x: Float32Array, rate = RATE) => ({ rate, channels: [x, x] })
/** Numbers of a fixed sequence within ±1. */
const noise = (length: number, seed = 1): Float32Array => {
  let h = seed
  return Float32Array.from({ length }, () => {
    h = (Math.imul(h, 1664525) + 1013904223) >>> 0
    return h / 2147483648 - 1
  })
}
/** Gaussian by twelve of those. */
const gaussian = (length: number): Float32Array => {
  const x = noise(12 * length)
  return Float32Array.from({ length }, (_, i) => {
    let sum = 0
    for (let k = 0; k < 12; k += 1) sum += x[12 * i + k]!
    return sum / 2
  })
}

describe('loudness against EBU Tech 3341 and 3342, made by ourselves', () => {
  const tone = (...parts: [db: number, seconds: number][]): Float32Array =>
    joined(...parts.map(([db, seconds]) => sine(db, 1000, seconds)))
  it.each([
    ['3341 case 1', [[-23, 20]], -23],
    ['3341 case 2', [[-33, 20]], -33],
    [
      '3341 case 3',
      [
        [-36, 10],
        [-23, 60],
        [-36, 10],
      ],
      -23,
    ],
    [
      '3341 case 4',
      [
        [-72, 10],
        [-36, 10],
        [-23, 60],
        [-36, 10],
        [-72, 10],
      ],
      -23,
    ],
    [
      '3341 case 5',
      [
        [-26, 20],
        [-20, 20.1],
        [-26, 20],
      ],
      -23,
    ],
  ] as [string, [number, number][], number][])('%s', (_name, parts, expected) => {
    expect(Math.abs(measureLoudness(stereo(tone(...parts))).integrated - expected)).toBeLessThan(0.1)
  })

  it.each([
    ['3342 case 1', [-20, -30], 10],
    ['3342 case 2', [-20, -15], 5],
    ['3342 case 3', [-40, -20], 20],
    ['3342 case 4', [-50, -35, -20, -35, -50], 15],
  ] as [string, number[], number][])('%s', (_name, levels, expected) => {
    const x = tone(...levels.map((db): [number, number] => [db, 20]))
    expect(Math.abs(measureLoudness(stereo(x)).range - expected)).toBeLessThan(1)
  })

  it('reads momentary and short-term loudness of short tones', () => {
    // Tech 3341 cases 9 and 12 in their steady parts: 1.34 s at −20 and 1.66 s at −30 average to −23 over 3 s.
    const round = tone([-20, 1.34], [-30, 1.66])
    expect(
      Math.abs(measureLoudness(stereo(joined(round, round, round, round, round))).shortTerm + 23),
    ).toBeLessThan(0.1)
    const blink = tone([-20, 0.18], [-30, 0.22])
    const many = joined(...Array.from({ length: 25 }, () => blink))
    expect(Math.abs(measureLoudness(stereo(many)).momentary + 23)).toBeLessThan(0.1)
  })

  it('says nothing of silence', () => {
    const report = analyze(stereo(new Float32Array(RATE)))
    expect(report.lufs).toBeNull()
    expect(report.peakDb).toBeNull()
    expect(report.pitchHz).toBeNull()
    expect(report.decaySeconds).toBeNull()
    expect(report.peaks).toEqual([])
    expect(report.echoDensity).toEqual([])
    expect(analyze({ rate: RATE, channels: [new Float32Array(0)] }).seconds).toBe(0)
  })
})

describe('true peak', () => {
  // Tech 3341 cases 15 to 19: a quarter of the rate at 0, 45, 60 and 67.5 degrees, half of full scale (−6 dBTP).
  it.each([0, 45, 60, 67.5])('of a quarter of the rate at %f degrees', (degrees) => {
    const x = sine(20 * Math.log10(0.5), RATE / 4, 0.5, RATE, (degrees * Math.PI) / 180)
    // Faded in and out: the edges of a cut tone have peaks of their own.
    for (let i = 0; i < 2000; i += 1) {
      x[i]! *= i / 2000
      x[x.length - 1 - i]! *= i / 2000
    }
    const level = 20 * Math.log10(truePeakOf([x]))
    expect(level).toBeGreaterThan(-6.4)
    expect(level).toBeLessThan(-5.8)
  })
})

describe('pitch', () => {
  it.each(['sine', 'triangle', 'saw', 'pulse'])('of a %s within 0.1 cent', (wave) => {
    for (const hz of [27.5, 65.41, 261.63, 987.7, 3520]) {
      const x = hear(patchOf([['o', 'oscillator', { frequency: hz, width: 0.3, startPhase: 0.13 }]], []), 2, {
        taps: [`o.${wave}`],
      }).tap(`o.${wave}`)
      const { pitchHz } = analyze({ rate: RATE, channels: [x] })
      expect(Math.abs(1200 * Math.log2(pitchHz! / hz)), `${hz}`).toBeLessThan(0.1)
    }
  })

  it('of a missing fundamental, and none of noise', () => {
    const x = Float32Array.from({ length: 2 * RATE }, (_, i) =>
      [3, 4, 5].reduce((sum, n) => sum + 0.2 * Math.sin((2 * Math.PI * n * 110 * i) / RATE), 0),
    )
    expect(Math.abs(analyze(stereo(x)).pitchHz! - 110)).toBeLessThan(0.1)
    expect(analyze(stereo(noise(2 * RATE))).pitchHz).toBeNull()
  })
})

describe('spectrum peaks', () => {
  it('stand where the partials are, at their levels', () => {
    const parts: [number, number][] = [
      [440.3, -6],
      [1234.5, -20],
      [9876.5, -40],
    ]
    const x = new Float32Array(3 * RATE)
    for (const [hz, db] of parts) sine(db, hz, 3).forEach((y, i) => (x[i]! += y))
    const { peaks } = analyze({ rate: RATE, channels: [x] })
    expect(peaks.length).toBe(3)
    peaks.forEach((peak, index) => {
      expect(Math.abs(peak.hz - parts[index]![0])).toBeLessThan(0.1)
      expect(Math.abs(peak.db - parts[index]![1])).toBeLessThan(0.1)
    })
  })
})

describe('decay', () => {
  it.each([0.1, 0.5, 2, 6])('of noise that dies in %f s', (seconds) => {
    const x = noise(Math.round((1.5 * seconds + 0.2) * RATE)).map(
      (y, i) => y * 10 ** ((-3 * Math.max(0, i - 2000)) / RATE / seconds),
    )
    const report = analyze(stereo(x))
    expect(Math.abs(report.decaySeconds! / seconds - 1)).toBeLessThan(0.05)
    for (const octave of report.decayOctaves.filter(({ hz }) => hz >= 500))
      expect(Math.abs(octave.seconds / seconds - 1), `${octave.hz}`).toBeLessThan(0.12)
  })

  it('is read above a floor of noise, by octave, and not found where nothing decays', () => {
    const floor = noise(4 * RATE, 7)
    const x = noise(4 * RATE).map((y, i) => y * 10 ** ((-3 * i) / RATE / 1) + floor[i]! * 1e-3)
    expect(Math.abs(analyze(stereo(x)).decaySeconds! - 1)).toBeLessThan(0.06)
    const two = new Float32Array(3 * RATE).map(
      (_, i) =>
        Math.sin((2 * Math.PI * 250 * i) / RATE) * 10 ** ((-3 * i) / RATE / 2) +
        Math.sin((2 * Math.PI * 4000 * i) / RATE) * 10 ** ((-3 * i) / RATE / 0.5),
    )
    const octaves = new Map(
      analyze(stereo(two)).decayOctaves.map(({ hz, seconds }) => [hz, seconds] as const),
    )
    expect(Math.abs(octaves.get(250)! - 2)).toBeLessThan(0.1)
    expect(Math.abs(octaves.get(4000)! - 0.5)).toBeLessThan(0.03)
    expect(analyze(stereo(sine(-6, 440, 2))).decaySeconds).toBeNull()
  })
})

describe('echo density', () => {
  it('is 1 for Gaussian noise and nearly 0 for single echoes', () => {
    const dense = analyze({ rate: RATE, channels: [gaussian(RATE).map((x) => 0.1 * x)] }).echoDensity
    const mean = dense.reduce((sum, value) => sum + value, 0) / dense.length
    expect(Math.abs(mean - 1)).toBeLessThan(0.03)
    const sparse = new Float32Array(RATE)
    for (let i = 0; i < RATE; i += 400) sparse[i] = 1
    for (const value of analyze({ rate: RATE, channels: [sparse] }).echoDensity)
      expect(value).toBeLessThan(0.05)
  })
})
