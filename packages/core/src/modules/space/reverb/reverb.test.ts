import { describe, expect, it } from 'vitest'
import { decayByOctave } from '../../../analysis/decay.ts'
import { echoDensityOf } from '../../../analysis/density.ts'
import { hear, patchOf } from '../../../testing/bench.ts'
import { click, pink, RATE, sine, through } from '../../../testing/effects.ts'
import { amplitudes, db, largest, largestStep, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'
import { MODELS } from './models.ts'

promises('reverb', {
  inputs: 'in',
  outputs: 'out',
  params:
    'model decay size predelay early diffusion damping highDecay lowDecay lowcut motion width freeze mix per',
})

const OFF = { damping: 20000, mix: 1 }
/** Clicks one after another, each with its tail for itself: motion makes no two of them alike. */
const clicks = (
  params: Record<string, number | string | boolean>,
  count: number,
  each: number,
): Float32Array[] => {
  const x = new Float32Array(Math.round(count * each * RATE))
  for (let n = 0; n < count; n += 1) x[Math.round(n * each * RATE)] = 1
  const [left] = through('reverb', params, x)()
  return Array.from({ length: count }, (_, n) =>
    left!.slice(Math.round(n * each * RATE), Math.round((n + 1) * each * RATE)),
  )
}
/** Mean decay of an octave over some clicks, as a share of what was set. */
const meanDecay = (tails: readonly Float32Array[], decay: number): Map<number, number> => {
  const found = new Map<number, number[]>()
  for (const tail of tails)
    for (const { hz, seconds } of decayByOctave([tail], RATE))
      found.set(hz, [...(found.get(hz) ?? []), seconds / decay])
  return new Map([...found].map(([hz, list]) => [hz, list.reduce((sum, x) => sum + x, 0) / list.length]))
}

describe.each(MODELS)('reverb, %s', (model) => {
  it.each([
    [0.1, 0.5],
    [1, 1],
    [3, 0.5],
  ])('decays in %s s at size %s in every octave', (decay, size) => {
    const count = decay > 2 ? 4 : 16
    const shares = meanDecay(clicks({ ...OFF, model, decay, size }, count, Math.max(0.4, 1.3 * decay)), decay)
    for (const [hz, share] of shares) {
      const within = hz >= 500 && decay >= 1 ? 0.05 : 0.1
      if (hz >= 250) expect(Math.abs(share - 1), `${hz} Hz: ${share}`).toBeLessThan(within)
    }
  })

  it('decays faster above the damping and slower below 250 Hz, and nowhere else', () => {
    const decay = 1.5
    const shares = meanDecay(
      clicks({ mix: 1, model, decay, damping: 3000, highDecay: 0.3, lowDecay: 1.6 }, 8, 3),
      decay,
    )
    expect(shares.get(125)!).toBeGreaterThan(1.25)
    for (const hz of [500, 1000]) expect(Math.abs(shares.get(hz)! - 1), `${hz}`).toBeLessThan(0.06)
    expect(shares.get(8000)!).toBeLessThan(0.45)
    expect(shares.get(8000)!).toBeGreaterThan(0.25)
  })

  it('loses what its decay says to a hundredth, from second to second', () => {
    const [left] = through('reverb', { ...OFF, model, decay: 6, motion: 0 }, click(9))()
    const level = (second: number): number => db(rms(left!, second * RATE, (second + 1) * RATE))
    expect(Math.abs((level(2) - level(8)) / 60 - 1)).toBeLessThan(0.02)
  })

  it('is dense, smooth and wide', () => {
    const [left, right] = through(
      'reverb',
      { mix: 1, model, motion: 0, decay: 4, damping: 20000 },
      click(2),
    )()
    const density = echoDensityOf([left!], RATE)
    const by = model === 'room' ? 3 : 8
    expect(Math.max(...density.slice(0, by + 1))).toBeGreaterThan(0.9)
    for (const value of density.slice(by, 60)) expect(value).toBeGreaterThan(0.85)
    const bins = amplitudes(left!, 16384, 12000)
    let worst = 0
    for (let n = 100; n < 5000; n += 1) {
      const around = [...bins.subarray(n - 25, n + 26)].sort((a, b) => a - b)
      worst = Math.max(worst, db(bins[n]! / around[25]!))
    }
    expect(worst).toBeLessThan(16)
    const tail = 4800
    let both = 0
    for (let n = tail; n < left!.length; n += 1) both += left![n]! * right![n]!
    const frames = left!.length - tail
    expect(Math.abs(both / frames / (rms(left!, tail) * rms(right!, tail)))).toBeLessThan(0.2)
  })

  it('is as loud as what comes in', () => {
    const [left, right] = through('reverb', { mix: 1, model }, [pink(4), pink(4, 9)])()
    const dry = rms(pink(4), RATE)
    for (const side of [left!, right!]) expect(Math.abs(db(rms(side, RATE) / dry))).toBeLessThan(1.5)
  })
})

describe('reverb', () => {
  it('freezes for five minutes within half a decibel, deaf to what comes in, and lets go', () => {
    const sound = pink(301)
    sound.fill(0, 2 * RATE, 4 * RATE)
    const heard = hear(
      patchOf(
        [
          ['i', 'input'],
          ['e', 'reverb', { mix: 1, decay: 1 }],
          ['o', 'output'],
        ],
        ['i.out > e.in', 'e.out > o.in'],
      ),
      301,
      {
        input: { rate: RATE, channels: [sound, sound] },
        taps: ['e.out'],
        events: [{ t: 1.5, type: 'param', target: 'e.freeze', value: true }],
      },
    ).tap('e.out')
    // Broad enough that beats of single lines even out.
    const level = (second: number): number => db(rms(heard, second * RATE, (second + 4) * RATE))
    const first = level(4)
    for (const second of [20, 60, 120, 200, 296])
      expect(Math.abs(level(second) - first), `${second} s`).toBeLessThan(0.5)
    // A second without input sounds like one with it.
    expect(Math.abs(db(rms(heard, 110_000, 182_000) / rms(heard, 240_000, 336_000)))).toBeLessThan(1)
  })

  it('waits for its predelay to the sample', () => {
    const at = (predelay: number): number => {
      const [left] = through('reverb', { mix: 1, model: 'plate', predelay }, click(0.7))()
      return left!.findIndex((x) => Math.abs(x) > 1e-5)
    }
    const none = at(0)
    expect(at(100) - none).toBe(4800)
    expect(at(500) - none).toBe(24000)
    expect(at(12.34) - none).toBe(592)
  })

  it('takes out its early reflections, its sides and its lows', () => {
    const energy = (params: Record<string, number | string | boolean>, from: number, to: number): number =>
      rms(
        through('reverb', { mix: 1, ...params }, click(0.5))()[0]!,
        Math.round(from * RATE),
        Math.round(to * RATE),
      )
    expect(energy({ early: 1 }, 0, 0.06)).toBeGreaterThan(1.2 * energy({ early: 0 }, 0, 0.06))
    expect(Math.abs(energy({ early: 1 }, 0.2, 0.5) / energy({ early: 0 }, 0.2, 0.5) - 1)).toBeLessThan(0.05)
    const [left, right] = through('reverb', { mix: 1, width: 0 }, [pink(1), pink(1, 3)])()
    expect(left).toEqual(right)
    const low = (lowcut: number): number =>
      rms(through('reverb', { mix: 1, lowcut }, sine(60, 2))()[0]!, RATE)
    expect(db(low(600) / low(20))).toBeLessThan(-30)
  })

  it.each([
    ['size', 's.out > e.size * 0.5'],
    ['decay', 's.out > e.decay * 4'],
    ['predelay', 's.out > e.predelay * 2'],
    ['diffusion', 's.out > e.diffusion * 0.5'],
    ['damping', 's.out > e.damping * 4'],
    ['early', 's.out > e.early * 0.5'],
    ['motion', 's.out > e.motion * 0.8'],
    ['freeze', 's.out > e.freeze'],
  ])('makes no step of its own where %s jumps and sweeps', (name, cable) => {
    const wave = sine(220, 3)
    const heard = (shape: string, cables: string[]): Float32Array =>
      hear(
        patchOf(
          [
            ['i', 'input'],
            ['s', 'lfo', { shape, rate: shape === 'square' ? 3 : 1.7 }],
            ['e', 'reverb', { mix: 1, predelay: name === 'predelay' ? 20 : 0 }],
          ],
          ['i.out > e.in', ...cables],
        ),
        3,
        { input: { rate: RATE, channels: [wave, wave] }, taps: ['e.out'] },
      ).tap('e.out')
    const own = largestStep(heard('sine', []))
    for (const shape of ['sine', 'square'])
      expect(largestStep(heard(shape, [cable])), shape).toBeLessThan(3 * own)
  })

  it('changes models without a click', () => {
    const wave = sine(220, 3)
    const heard = (events: { t: number; type: 'param'; target: string; value: string }[]): Float32Array =>
      hear(
        patchOf(
          [
            ['i', 'input'],
            ['e', 'reverb', { mix: 1 }],
          ],
          ['i.out > e.in'],
        ),
        3,
        { input: { rate: RATE, channels: [wave, wave] }, taps: ['e.out'], events },
      ).tap('e.out')
    const own = largestStep(heard([]))
    const changed = heard(
      MODELS.map((value, n) => ({ t: 0.5 + 0.6 * n, type: 'param', target: 'e.model', value })),
    )
    expect(largestStep(changed)).toBeLessThan(2.5 * own)
    expect(largest(changed)).toBeGreaterThan(0.05)
  })
})
