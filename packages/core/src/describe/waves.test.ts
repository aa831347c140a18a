import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  brightnessOf,
  drawnOver,
  FRAME_SIZE,
  frameOf,
  framesOf,
  normalised,
  partialsOf,
  samplesOf,
  smoothedFrames,
  sortedFrames,
  stretchedFrames,
  waveOfPartials,
  withPartial,
} from './waves.ts'

const amplitudes = fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 1, maxLength: 20 })
const close = (a: ArrayLike<number>, b: ArrayLike<number>, digits = 4): void => {
  for (let i = 0; i < a.length; i += 37) expect(a[i]).toBeCloseTo(b[i]!, digits)
}

describe('a frame', () => {
  it('has the partials it was made of, to one scale', () => {
    fc.assert(
      fc.property(amplitudes, (wanted) => {
        fc.pre(Math.max(...wanted) > 0.01)
        const found = partialsOf(waveOfPartials(wanted), wanted.length)
        const scale = Math.max(...found) / Math.max(...wanted)
        found.forEach((each, n) => {
          expect(each).toBeCloseTo(wanted[n]! * scale, 4)
        })
      }),
      { numRuns: 40 },
    )
  })

  it('has one partial changed and no other, in the phase it had', () => {
    const wave = Float32Array.from({ length: FRAME_SIZE }, (_, i) => {
      const t = (2 * Math.PI * i) / FRAME_SIZE
      return 0.4 * Math.cos(t + 0.7) + 0.2 * Math.sin(3 * t)
    })
    const next = withPartial(wave, 3, 0.05),
      partials = partialsOf(next)
    expect(partials[0]).toBeCloseTo(0.4, 5)
    expect(partials[2]).toBeCloseTo(0.05, 5)
    expect(partials[4]).toBeCloseTo(0, 5)
    // One it did not have comes as a sine.
    close(
      withPartial(wave, 5, 0.1),
      wave.map((x, i) => x + 0.1 * Math.sin((2 * Math.PI * 5 * i) / FRAME_SIZE)),
    )
    // Beyond full scale the whole is brought back.
    expect(Math.max(...withPartial(wave, 1, 3).map(Math.abs))).toBeCloseTo(1, 5)
  })

  it('is drawn over between two places, either way, and nowhere else', () => {
    const flat = new Float32Array(FRAME_SIZE)
    const right = drawnOver(flat, [0.25, -0.5], [0.5, 0.5]),
      left = drawnOver(flat, [0.5, 0.5], [0.25, -0.5])
    expect(left).toEqual(right)
    expect(
      [right[511], right[512], right[768], right[1024], right[1025]].map((x) => Math.round(100 * x!)),
    ).toEqual([0, -50, 0, 50, 0])
    expect(drawnOver(flat, [-1, 5], [2, 5]).every((x) => x === 1)).toBe(true)
  })
})

describe('frames', () => {
  const [dark, bright] = [waveOfPartials([1, 0.1]), waveOfPartials([0.1, 0, 0, 0, 0, 1])]

  it('go into a file and come out of it', () => {
    const samples = samplesOf([dark, bright])
    expect(framesOf(samples, FRAME_SIZE)).toEqual([dark, bright])
    // A shorter cycle is the same wave.
    const short = Float32Array.from({ length: 256 }, (_, i) => dark[i * 8]!)
    close(frameOf(short), dark, 2)
  })

  it('are sorted by how bright they are', () => {
    expect(sortedFrames([bright, dark, bright])).toEqual([dark, bright, bright])
    expect(brightnessOf(dark)).toBeLessThan(brightnessOf(bright))
  })

  it('are smooth between two: every partial goes straight from one to the other, the ends stay', () => {
    const frames = [dark, dark, dark, dark, bright]
    const smooth = smoothedFrames(frames, 0, 4)
    expect([smooth[0], smooth[4]]).toEqual([dark, bright])
    const [from, to, middle] = [dark, bright, smooth[2]!].map((frame) => partialsOf(frame, 8)) as [
      readonly number[],
      readonly number[],
      readonly number[],
    ]
    middle.forEach((each, n) => {
      expect(each).toBeCloseTo((from[n]! + to[n]!) / 2, 3)
    })
    expect(smoothedFrames(frames, 1, 2)).toBe(frames)
  })

  it('are as many as wanted, with the same ends, and as they were where they lie', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 40 }), (count) => {
        const next = stretchedFrames([dark, bright], count)
        expect(next).toHaveLength(count)
        expect([next[0], next.at(-1)]).toEqual([dark, bright])
      }),
      { numRuns: 10 },
    )
    const three = [dark, bright, dark]
    const five = stretchedFrames(three, 5)
    close(five[2]!, bright, 3)
    expect(stretchedFrames([dark], 3)).toHaveLength(3)
    expect(normalised(new Float32Array(FRAME_SIZE))[0]).toBe(0)
  })
})
