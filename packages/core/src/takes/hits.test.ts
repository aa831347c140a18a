/** Hits: where they begin (truth known, as our own patches played them), what they measure, their order, cut apart. */
import { describe, expect, it } from 'vitest'
import type { Sound } from '../formats/wav.ts'
import { parsePlay } from '../notes/events.ts'
import type { Patch } from '../patch/types.ts'
import { render } from '../render/render.ts'
import { patchOf } from '../testing/bench.ts'
import { pink, sine } from '../testing/effects.ts'
import { demoPatch as demo } from '../testing/patches.ts'
import { testKernels } from '../testing/kernels.ts'
import { largest } from '../testing/measure.ts'
import { planChain, runChain } from './chain.ts'
import { chopped, type Hit, hitsOf, ranked } from './hits.ts'
import { onsetsOf } from './onsets.ts'
import { MemorySpool, soundOf, tapeOf } from './tape.ts'

const RATE = 48000
const played = (patch: Patch, play: string, seconds: number): Sound => {
  const events = parsePlay(play)
  if (!events.ok) throw new Error(events.faults[0]!.message)
  const result = render(testKernels(), patch, { events: events.value, seconds })
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result.value.sound
}
/** Onsets found against times at which something was played: as many, and how far off in ms. */
const errorsOf = async (sound: Sound, times: readonly number[]): Promise<readonly number[]> => {
  const onsets = await onsetsOf(tapeOf(sound))
  expect(onsets.map((at) => (at / RATE).toFixed(2))).toEqual(times.map((t) => t.toFixed(2)))
  return onsets.map((at, n) => 1000 * (at / RATE - times[n]!))
}
const worst = (errors: readonly number[]): number => Math.max(...errors.map(Math.abs))

const BOWED = patchOf(
  [
    ['n', 'notes', { voices: 4, mode: 'poly' }],
    ['e', 'envelope', { attack: 0.09, decay: 0.3, sustain: 0.8, release: 0.15 }],
    ['h', 'noise', {}],
    ['a', 'amplifier', {}],
    ['s', 'string', { pluck: 0, decay: 1.5, damping: 0.4 }],
    ['o', 'output', {}],
  ],
  [
    'n.gate > e.gate',
    'h.pink > a.in * 0.1',
    'e.env > a.cv',
    'a.out > s.excite',
    'n.pitch > s.pitch',
    's.out > o.in',
  ],
)

describe('onsets', () => {
  it('of drums are met within a millisecond, soft ones between loud ones too', async () => {
    const slate = [0.13, 0.5, 0.71, 0.95, 1.22, 1.6, 1.93, 2.4]
    const play = slate
      .map((t, n) => `${45 + ((n * 7) % 19)}@${t}+0.1:${[1, 0.4, 0.7, 0.25][n % 4]!}`)
      .join(' ')
    expect(worst(await errorsOf(played(demo('slate-drum'), play, 3), slate))).toBeLessThan(1)
    const snare = [0.2, 0.61, 1.07, 1.5, 2.03]
    const strokes = snare.map((t, n) => `60@${t}+0.1:${[0.9, 0.5][n % 2]!}`).join(' ')
    expect(worst(await errorsOf(played(demo('snare-at-the-slip'), strokes, 3), snare))).toBeLessThan(1)
  })

  it('of plucked and of bowed sounds are met within five', async () => {
    const pluck = [0.1, 0.62, 1.3, 1.71, 2.5]
    const plucks = pluck.map((t, n) => `${40 + 5 * n}@${t}+0.4:0.8`).join(' ')
    expect(worst(await errorsOf(played(demo('mooring-line'), plucks, 4), pluck))).toBeLessThan(5)
    const bow = [0.15, 1.05, 2.1, 3.05]
    const bows = bow.map((t, n) => `${52 + 4 * n}@${t}+0.6:0.8`).join(' ')
    expect(worst(await errorsOf(played(BOWED, bows, 4.2), bow))).toBeLessThan(5)
  })

  it('are none in silence, in a steady tone but its beginning, and in steady noise', async () => {
    expect(await onsetsOf(tapeOf({ rate: RATE, channels: [new Float32Array(2 * RATE)] }))).toEqual([])
    const tone = await onsetsOf(tapeOf({ rate: RATE, channels: [sine(330, 3, 0.3)] }))
    expect(tone.length).toBeLessThanOrEqual(1)
    const noise = await onsetsOf(tapeOf({ rate: RATE, channels: [pink(3)] }))
    expect(noise.length).toBeLessThanOrEqual(1)
    expect(await onsetsOf(tapeOf({ rate: RATE, channels: [new Float32Array(10)] }))).toEqual([])
  })
})

describe('hits', () => {
  /** Decaying tones of known level, attack, frequency and length. */
  const blips = (
    list: readonly { at: number; hz: number; level: number; rise: number; fall: number }[],
  ): Sound => {
    const x = new Float32Array(6 * RATE)
    for (const { at, hz, level, rise, fall } of list)
      for (let n = 0; n < 1.2 * RATE; n += 1) {
        const t = n / RATE,
          shape = t < rise ? t / rise : Math.exp(-(t - rise) / fall)
        x[Math.round(at * RATE) + n]! += level * shape * Math.sin(2 * Math.PI * hz * t)
      }
    return { rate: RATE, channels: [x, x.slice()] }
  }
  const LIST = [
    { at: 0.3, hz: 800, level: 0.5, rise: 0.002, fall: 0.1 },
    { at: 1.5, hz: 820, level: 0.45, rise: 0.002, fall: 0.1 },
    { at: 2.7, hz: 3000, level: 0.5, rise: 0.05, fall: 0.03 },
    { at: 4, hz: 790, level: 0.1, rise: 0.002, fall: 0.11 },
  ]

  it('measure level, attack, centroid and length', async () => {
    const hits = await hitsOf(tapeOf(blips(LIST)))
    expect(hits).toHaveLength(4)
    hits.forEach((hit, n) => {
      const { at, hz, level, rise, fall } = LIST[n]!
      expect(Math.abs(hit.at / RATE - at)).toBeLessThan(0.005)
      expect(Math.abs(hit.peakDb - 20 * Math.log10(level))).toBeLessThan(0.6)
      expect(Math.abs(hit.attackSeconds - 0.8 * rise)).toBeLessThan(0.3 * rise + 0.001)
      expect(Math.abs(hit.centroidHz / hz - 1)).toBeLessThan(0.05)
      // −50 dB are 5.76 time constants.
      expect(Math.abs(hit.seconds - (rise + 5.76 * fall))).toBeLessThan(0.03)
      expect(hit.clips).toBe(false)
    })
    expect(hits[0]!.lufs - hits[3]!.lufs).toBeGreaterThan(12)
  })

  it('stand in order from the most usual to the oddest, what clips last', async () => {
    const hits = await hitsOf(tapeOf(blips(LIST)))
    // Two of a kind, one that is soft, one that is altogether another.
    const order = ranked(hits).map((hit) => hits.indexOf(hit))
    expect(order.slice(0, 2).sort()).toEqual([0, 1])
    expect(order.slice(2)).toEqual([3, 2])
    const clipped = hits.map((hit, n): Hit => (n === 1 ? { ...hit, clips: true } : hit))
    expect(ranked(clipped).at(-1)).toBe(clipped[1])
    expect(ranked([])).toEqual([])
  })

  it('are cut apart, each faded, none in another', async () => {
    const sound = blips(LIST),
      tape = tapeOf(sound),
      hits = await hitsOf(tape)
    const chains = chopped(hits, tape)
    expect(chains).toHaveLength(4)
    let before = 0
    for (const [n, chain] of chains.entries()) {
      const [{ from, to }] = chain as unknown as [{ from: number; to: number }]
      expect(from).toBeGreaterThanOrEqual(before)
      expect(from).toBeLessThanOrEqual(hits[n]!.at)
      before = to
      const plan = planChain(chain, tape)
      if (!plan.ok) throw new Error(plan.faults[0]!.message)
      const running = runChain(plan.value, tape, {
        kernels: testKernels(),
        patch: () => undefined,
        spool: (rate, channels) => new MemorySpool(rate, channels),
      })
      let next = await running.next()
      while (!next.done) next = await running.next()
      const cut = await soundOf(next.value)
      expect(Math.abs(largest(cut.channels[0]!) - 10 ** (hits[n]!.peakDb / 20))).toBeLessThan(0.01)
      expect(Math.abs(cut.channels[0]!.at(-1)!)).toBe(0)
    }
  })
})
