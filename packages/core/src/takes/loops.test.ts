/** Loops: found where a sound repeats, refused where it does not, and what is heard when they go round. */
import { describe, expect, it } from 'vitest'
import { hear } from '../testing/bench.ts'
import { pink, sine } from '../testing/effects.ts'
import { amplitudes, db, largest, rms } from '../testing/measure.ts'
import { demoPatch, steadyVoice } from '../testing/patches.ts'
import { attackEnd, crossfaded, type Loop, loopOf, loopQuality, withCrossfade } from './crossfade.ts'
import { loopMatches } from './loops.ts'

const RATE = 48000
const HELD = 2 * RATE
const played = (patch: Parameters<typeof hear>[0], note: number): Float32Array[] => {
  const { out, right } = hear(patch, 3, { play: `${note}@0+2:0.8` })
  return [out, right]
}

/** A loop as it is heard going round. */
const round = (channels: readonly Float32Array[], loop: Loop, frames: number): Float32Array => {
  const made = crossfaded(channels, loop)[0]!,
    length = loop.end - loop.start
  return Float32Array.from({ length: frames }, (_, n) => made[loop.start + (n % length)]!)
}

/** By how much the level of any tenth of a period's multiple falls below the mean of all, in dB. */
const dip = (x: Float32Array, window: number): number => {
  const levels: number[] = []
  for (let at = 0; at + window <= x.length; at += Math.round(window / 3)) levels.push(rms(x, at, at + window))
  const sorted = [...levels].sort((a, b) => a - b)
  return db(sorted[sorted.length >> 1]!) - db(sorted[0]!)
}

/** The highest line a loop's rate away from a partial, or at the rate itself, in dB below the loudest partial. */
const linesOf = (x: Float32Array, hz: number, rate: number): number => {
  // A line of its own is ten bins away from a partial at least.
  const size = 2 ** Math.ceil(Math.log2((10 * RATE) / rate)),
    spectrum = amplitudes(x, size),
    bin = RATE / size
  const near = (at: number): number =>
    largest(spectrum, Math.max(0, Math.round(at / bin) - 1), Math.round(at / bin) + 2)
  const top = largest(spectrum)
  const lines = [rate, 2 * rate, ...[1, 2, 3, 4, 5].flatMap((n) => [n * hz - rate, n * hz + rate])]
  return Math.max(...lines.map((at) => db(near(at) / top)))
}

describe('a loop of a steady sound', () => {
  it.each([
    [40, 0],
    [57, 0],
    [71, 0],
    [84, 0],
    [64, 1],
  ])('at note %d, with %d more oscillators, goes round without a dip and without a line', (note, other) => {
    const patch = steadyVoice(
      other ? [['p', 'oscillator', { octave: 1, width: 0.3 }]] : [],
      other ? ['n.pitch > p.pitch', 'p.pulse > f.in * 0.5'] : [],
    )
    const channels = played(patch, note),
      loop = loopOf(channels, RATE, HELD)!
    expect(loop.matchDb).toBeLessThan(-30)
    expect(loop.start).toBeGreaterThanOrEqual(attackEnd(channels, RATE, HELD))
    expect(loop.end).toBeLessThanOrEqual(HELD)
    expect(loop.end - loop.start).toBeGreaterThanOrEqual(0.1 * RATE)
    const hz = 261.6256 * 2 ** ((note - 60) / 12)
    const heard = round(channels, loop, 2 ** 20)
    expect(dip(heard, Math.round((8 * RATE) / hz))).toBeLessThan(0.5)
    expect(linesOf(heard, hz, RATE / (loop.end - loop.start))).toBeLessThan(-50)
    expect(loop.dipDb).toBeLessThan(0.5)
    expect(loop.lineDb).toBeLessThan(-50)
  })

  it('lies where two that beat against each other meet again', () => {
    const patch = steadyVoice([['p', 'oscillator', { fine: 7 }]], ['n.pitch > p.pitch', 'p.saw > f.in'])
    const loop = loopOf(played(patch, 57), RATE, HELD)!
    const beat = 220 * (2 ** (7 / 1200) - 1)
    expect((loop.end - loop.start) / RATE).toBeCloseTo(1 / beat, 2)
  })

  it('is the same whatever else is in memory, and of a mono sound as of both sides', () => {
    const channels = played(steadyVoice(), 60)
    const one = loopOf(channels, RATE, HELD),
      again = loopOf(
        channels.map((channel) => channel.slice()),
        RATE,
        HELD,
      )
    expect(again).toEqual(one)
    expect(loopOf([channels[0]!], RATE, HELD)).toMatchObject({ start: one!.start, end: one!.end })
  })
})

describe('no loop', () => {
  it.each(['harbour-bell', 'storm-wire', 'engine-room'])('is found in %s, which never repeats', (name) => {
    expect(loopOf(played(demoPatch(name), 57), RATE, HELD)).toBeUndefined()
  })
  it('is found in noise, in silence, in what is too short, and in what fades away', () => {
    expect(loopOf([pink(2)], RATE, HELD)).toBeUndefined()
    expect(loopOf([new Float32Array(HELD)], RATE, HELD)).toBeUndefined()
    expect(loopOf([sine(440, 0.05)], RATE, 2400)).toBeUndefined()
    expect(loopOf([new Float32Array()], RATE, 0)).toBeUndefined()
    const fading = sine(440, 2).map((x, n) => x * Math.exp((-3 * n) / RATE))
    expect(loopOf([fading], RATE, HELD)).toBeUndefined()
  })
})

describe('matches', () => {
  it('come in the order of their rank, inside the stretch that was asked for', () => {
    const channels = played(steadyVoice(), 50)
    const matches = loopMatches(channels, RATE, { from: 30000, to: 80000, count: 5 })
    expect(matches).toHaveLength(5)
    for (const { start, end, spectrumDb } of matches) {
      expect(start).toBeGreaterThanOrEqual(30000)
      expect(end).toBeLessThanOrEqual(80000)
      expect(spectrumDb).toBeLessThan(0.5)
    }
    expect(new Set(matches.map(({ start, end }) => `${start} ${end}`)).size).toBe(5)
  })
})

describe('a crossfade', () => {
  it('keeps the level of what has nothing in common, and leaves what is the same as it is', () => {
    const noise = [pink(2)],
      loop = { start: 40000, end: 90000, crossfade: 9600 }
    expect(loopQuality(noise, RATE, loop).dipDb).toBeLessThan(1)
    const tone = [sine(480, 2)]
    const made = crossfaded(tone, { start: 40000, end: 90000, crossfade: 4800 })[0]!
    const apart = made.map((x, n) => x - tone[0]![n]!)
    expect(largest(apart)).toBeLessThan(1e-6)
  })
  it('changes nothing but the frames before the end, and ends on what comes before the start', () => {
    const [channel] = [pink(2)],
      loop = { start: 40000, end: 90000, crossfade: 2400 }
    const made = crossfaded([channel!], loop)[0]!
    expect(made.every((x, n) => (n >= 87600 && n < 90000) || x === channel![n])).toBe(true)
    // The frame before the end is, but for a millionth, the one before the start: no step when it goes round.
    expect(Math.abs(made[89999]! - channel![39999]!)).toBeLessThan(1e-4)
  })
  it('is never longer than what there is before the start, or half the loop', () => {
    const early = withCrossfade([sine(440, 1)], RATE, { start: 1500, end: 9000 })
    expect(early.crossfade).toBeLessThanOrEqual(1500)
    expect(early.crossfade).toBeLessThanOrEqual(3750)
  })
})
