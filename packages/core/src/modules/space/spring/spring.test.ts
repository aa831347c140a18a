import { describe, expect, it } from 'vitest'
import { decayByOctave } from '../../../analysis/decay.ts'
import { hear, patchOf } from '../../../testing/bench.ts'
import { click, pink, RATE, sine, through } from '../../../testing/effects.ts'
import { db, largest, largestStep, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'
import { chainDelay, LOOSEST, spreadOf, stretchOf, WAYS } from './tank.ts'

promises('spring', { inputs: 'in', outputs: 'out', params: 'decay tension springs mix per' })

/** A burst of a tone, its middle at 20 ms, and where the middles of what comes of it are. */
const burst = (hz: number, seconds: number): Float32Array =>
  Float32Array.from({ length: Math.round(seconds * RATE) }, (_, n) => {
    const t = n / RATE - 0.02
    return Math.exp(-0.5 * (t / 0.004) ** 2) * Math.cos(2 * Math.PI * hz * t)
  })
const middleOf = (x: Float32Array, hz: number, from: number, to: number): number => {
  // Envelope by the quadrature components over 3 ms.
  let best = 0,
    at = 0
  for (let n = Math.round(from * RATE); n < to * RATE; n += 12) {
    let re = 0,
      im = 0
    for (let k = -72; k < 72; k += 1) {
      const turn = (2 * Math.PI * hz * (n + k)) / RATE,
        weight = 1 + Math.cos((Math.PI * k) / 72)
      re += weight * (x[n + k] ?? 0) * Math.cos(turn)
      im += weight * (x[n + k] ?? 0) * Math.sin(turn)
    }
    const size = re * re + im * im
    if (size > best) {
      best = size
      at = n
    }
  }
  return at / RATE
}

describe('spring', () => {
  it.each([0, 0.5, 1])(
    'delays each frequency as the model says, at tension %s: every echo is a chirp',
    (tension) => {
      const stretch = stretchOf(RATE),
        way = Math.round((WAYS[0]![0] / 1000) * LOOSEST ** (1 - 2 * tension) * RATE)
      for (const hz of [300, 1000, 2000, 3000, 3500]) {
        const after =
          (way + chainDelay(Math.cos((2 * Math.PI * hz * stretch) / RATE), stretch, spreadOf(tension))) / RATE
        const [left] = through('spring', { mix: 1, springs: 1, tension, decay: 0.3 }, burst(hz, 0.4))()
        const first = middleOf(left!, hz, 0.02 + 0.5 * after, 0.02 + 1.5 * after)
        expect(Math.abs(first - 0.02 - after), `${hz} Hz: ${first - 0.02} for ${after}`).toBeLessThan(0.0012)
      }
    },
  )

  it('turns what is there and back over, and loses what its decay says', () => {
    const [left] = through('spring', { mix: 1, springs: 1, decay: 2, tension: 0.5 }, click(4))()
    const lows = decayByOctave([left!], RATE).filter(({ hz }) => hz >= 125 && hz <= 500)
    for (const { hz, seconds } of lows) expect(Math.abs(seconds / 2 - 1), `${hz}`).toBeLessThan(0.05)
    expect(decayByOctave([left!], RATE).find(({ hz }) => hz === 4000)!.seconds).toBeLessThan(1.7)
  })

  it('gives nothing before its first way, and nothing far above its chirp', () => {
    const [left] = through('spring', { mix: 1, springs: 1 }, click(1))()
    expect(left!.subarray(0, Math.floor((WAYS[0]![1] / 1000) * RATE)).every((x) => x === 0)).toBe(true)
    const level = (hz: number): number => rms(through('spring', { mix: 1 }, sine(hz, 1.5))()[0]!, RATE)
    expect(db(level(9000) / level(1500))).toBeLessThan(-18)
  })

  it('is as loud as what comes in, with any number of springs and at any tension', () => {
    for (const springs of [1, 2, 3])
      for (const tension of [0, 0.5, 1]) {
        const [left] = through('spring', { mix: 1, springs, tension }, pink(3))()
        expect(Math.abs(db(rms(left!, RATE) / rms(pink(3), RATE))), `${springs}, ${tension}`).toBeLessThan(3)
      }
  })

  it('bends and changes its springs without a click', () => {
    const wave = sine(300, 3)
    const heard = (cables: string[], shape: string): Float32Array =>
      hear(
        patchOf(
          [
            ['i', 'input'],
            ['s', 'lfo', { shape, rate: 2.3 }],
            ['e', 'spring', { mix: 1, decay: 0.3 }],
          ],
          ['i.out > e.in', ...cables],
        ),
        3,
        { input: { rate: RATE, channels: [wave, wave] }, taps: ['e.out'] },
      ).tap('e.out')
    const own = largestStep(heard([], 'sine'))
    for (const [cable, shape] of [
      ['s.out > e.tension * 0.5', 'sine'],
      ['s.out > e.tension * 0.5', 'square'],
      ['s.out > e.decay * 3', 'square'],
      ['s.out > e.springs * 2', 'square'],
    ] as const)
      expect(largestStep(heard([cable], shape)), cable).toBeLessThan(3 * own)
    expect(largest(heard([], 'sine'))).toBeGreaterThan(0.1)
  })

  it('begins a further spring with nothing in it', () => {
    // Two bursts an age apart; the third spring is there for the first and after the second.
    const x = pink(6).map((y, n) => (n < 0.3 * RATE ? y : 0))
    const left = hear(
      patchOf(
        [
          ['i', 'input'],
          ['e', 'spring', { mix: 1, springs: 3, decay: 8 }],
          ['o', 'output'],
        ],
        ['i.out > e.in', 'e.out > o.in'],
      ),
      6,
      {
        input: { rate: RATE, channels: [x, x] },
        taps: ['e.out'],
        events: [
          { t: 0.4, type: 'param', target: 'e.springs', value: 2 },
          { t: 5, type: 'param', target: 'e.springs', value: 3 },
        ],
      },
    ).tap('e.out')
    // What was in it half way through the first decay does not come back five seconds later.
    expect(rms(left, Math.round(5.1 * RATE), 6 * RATE)).toBeLessThan(
      1.2 * rms(left, Math.round(4.5 * RATE), Math.round(4.9 * RATE)),
    )
  })
})
