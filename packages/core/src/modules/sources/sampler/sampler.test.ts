import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { pink, RATE, sine } from '../../../testing/effects.ts'
import { amplitudes, db, hzBetween, largest, largestStep, rms, worstAlias } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'
import type { AssetSound } from '../../../describe/types.ts'

promises('sampler', {
  inputs: 'pitch gate velocity',
  outputs: 'out done',
  params:
    'velocityAmount start end loop loopStart loopEnd crossfade tune fine mode attack decay sustain release level',
  data: 'zones',
})

type Params = Record<string, number | string | boolean>

/** Notes on a sampler with zones. */
const played = (
  zones: readonly Record<string, unknown>[],
  sounds: Record<string, AssetSound>,
  params: Params,
  play: string,
  seconds: number,
  voices = 1,
) =>
  hear(
    patchOf(
      [
        ['n', 'notes', { voices, mode: voices > 1 ? 'poly' : 'mono' }],
        ['s', 'sampler', params, { data: { zones } }],
        ['o', 'output'],
      ],
      ['n.pitch > s.pitch', 'n.gate > s.gate', 'n.velocity > s.velocity', 's.out > o.in'],
    ),
    seconds,
    { assets: new Map(Object.entries(sounds)), taps: ['s.out', 's.done'], play },
  )
const soundOf = (...channels: Float32Array[]): AssetSound => ({ rate: RATE, channels })
const flat = (level: number, seconds = 1): AssetSound =>
  soundOf(new Float32Array(Math.round(seconds * RATE)).fill(level))
const OPEN = { attack: 0, sustain: 1 }
/** Level a while after a note begins. */
const levelAt = (x: Float32Array, seconds: number): number =>
  Math.round(x[Math.round(seconds * RATE)]! * 1000) / 1000

describe('sampler', () => {
  it('plays a recording as it is at its root, sides apart, and an octave up twice as fast', () => {
    const left = pink(1),
      right = pink(1, 5)
    const heard = played([{ asset: 'a', root: 60 }], { a: soundOf(left, right) }, OPEN, '60@0+2', 0.8).lanes(
      's.out',
    )
    expect(largest(heard[0]!.subarray(100, 30000).map((x, n) => x - left[n + 100]!))).toBeLessThan(1e-6)
    expect(largest(heard[1]!.subarray(100, 30000).map((x, n) => x - right[n + 100]!))).toBeLessThan(1e-6)
    const tone = { a: soundOf(sine(1000, 3, 0.5)) }
    for (const [note, hz] of [
      [60, 1000],
      [72, 2000],
      [36, 250],
      [67, 1000 * 2 ** (7 / 12)],
    ] as const) {
      const [x] = played([{ asset: 'a' }], tone, OPEN, `${note}@0+2`, 1.3).lanes('s.out')
      expect(Math.abs(hzBetween(x!, 0.1, 1.2) / hz - 1), `${note}`).toBeLessThan(1e-5)
    }
  })

  it.each([-36, -0.05, 4.9, 5.1, 9.5, 9.8, 19.3])(
    'folds nothing of content up to 18 kHz %s semitones off its root',
    (semitones) => {
      const ratio = 2 ** (semitones / 12),
        low = sine(997, 7, 0.4)
      for (const hz of [15000, 17900]) {
        const high = sine(hz, 7, 0.4),
          both = low.map((x, n) => x + high[n]!)
        const tone = { a: { rate: RATE, channels: [both, both.slice()] } }
        const [x] = played([{ asset: 'a' }], tone, { ...OPEN, tune: semitones }, '60@0+3', 1.6).lanes('s.out')
        const size = 65536,
          bin = RATE / size,
          spectrum = amplitudes(x!, size, 4096),
          loudest = Math.max(...spectrum)
        const isOurs = (at: number): boolean => [997, hz].some((one) => Math.abs(one * ratio - at) < 12 * bin)
        const others = spectrum.filter((_, n) => n >= 20 && n * bin < 18000 && !isOurs(n * bin))
        expect(db(Math.max(...others) / loudest), `${hz} Hz`).toBeLessThan(-90)
      }
    },
  )

  it('goes on in its loop beyond the end of the recording, forward and back', () => {
    // A hundred samples a period; the last sample is a crest, so that it is the same backwards.
    const frames = 12001,
      tone = Float32Array.from({ length: frames }, (_, n) => 0.5 * Math.cos((2 * Math.PI * n) / 100))
    const around = tone.subarray(0, 12000)
    for (const semitones of [-7.3, 0.4, 3.2, 13, 20]) {
      const cases = [
        ['forward', around, 6000 / 12000],
        ['pingpong', tone, 6000 / 12001],
      ] as const
      for (const [loop, sound, loopStart] of cases) {
        const [x] = played(
          [{ asset: 'a', loop, loopStart, loopEnd: 1 }],
          { a: { rate: RATE, channels: [sound, sound.slice()] } },
          { ...OPEN, tune: semitones },
          '60@0+3',
          1.6,
        ).lanes('s.out')
        const hz = 480 * 2 ** (semitones / 12)
        // Half-rate copies are made with silence behind the recording's end.
        expect(worstAlias(x!, hz), `${loop} ${semitones}`).toBeLessThan(semitones > 9 ? -75 : -90)
      }
    }
  })

  it('chooses zones by key and velocity, all that overlap at once', () => {
    const sounds = { low: flat(0.1), high: flat(0.2), loud: flat(0.4) }
    const zones = [
      { asset: 'low', highKey: 59 },
      { asset: 'high', lowKey: 60 },
      { asset: 'loud', lowVelocity: 0.7, root: 48 },
    ]
    const at = (play: string): number =>
      levelAt(played(zones, sounds, { ...OPEN, velocityAmount: 0 }, play, 0.3).tap('s.out'), 0.1)
    expect(at('50@0+1:0.5')).toBe(0.1)
    expect(at('60@0+1:0.5')).toBe(0.2)
    expect(at('60@0+1:0.9')).toBe(0.6)
    expect(at('59.6@0+1:0.5')).toBe(0.2)
  })

  it('lets zones of one turn take turns, in the order of time over all voices', () => {
    const sounds = { a: flat(0.1, 0.05), b: flat(0.2, 0.05), c: flat(0.4, 0.05) }
    const zones = ['a', 'b', 'c'].map((asset) => ({ asset, turn: 'hat' }))
    const out = played(
      zones,
      sounds,
      { ...OPEN, velocityAmount: 0, release: 0.01 },
      '60@0+0.04 61@0.1+0.04 60@0.2+0.04 62@0.3+0.04',
      0.5,
      4,
    )
    const sum = out
      .lanes('s.out')
      .reduce(
        (all, lane, n) => (n % 2 === 0 ? all.map((x, k) => x + lane[k]!) : all),
        new Float32Array(24000),
      )
    expect([0.02, 0.12, 0.22, 0.32].map((t) => levelAt(sum, t))).toEqual([0.1, 0.2, 0.4, 0.1])
  })

  it('follows velocity, gain, pan and tune', () => {
    const sounds = { a: flat(0.5) }
    const level = (zone: object, params: Params, play: string, side = 0): number =>
      levelAt(
        played([{ asset: 'a', ...zone }], sounds, { ...OPEN, ...params }, play, 0.3).lanes('s.out')[side]!,
        0.1,
      )
    expect(level({}, {}, '60@0+1:0.4')).toBe(0.2)
    expect(level({}, { velocityAmount: 0.5 }, '60@0+1:0.4')).toBe(0.35)
    expect(level({ gain: -6.0206 }, {}, '60@0+1')).toBe(0.25)
    expect(level({ pan: -1 }, {}, '60@0+1', 1)).toBe(0)
    const tone = { a: soundOf(sine(500, 2, 0.5)) }
    const [x] = played([{ asset: 'a', tune: 12 }], tone, { ...OPEN, tune: -5 }, '60@0+1', 1).lanes('s.out')
    expect(Math.abs(hzBetween(x!, 0.1, 0.9) / (500 * 2 ** (7 / 12)) - 1)).toBeLessThan(1e-5)
  })

  it('loops forward, to and fro, and with a crossfade, by the module, the zone or the file', () => {
    // A tone whose loop holds a whole number of periods goes on as if it were endless.
    const tone = sine(500, 1, 0.5)
    const endless = (zone: object, params: Params, file: Partial<AssetSound> = {}): Float32Array =>
      played(
        [{ asset: 'a', ...zone }],
        { a: { ...soundOf(tone), ...file } },
        { ...OPEN, ...params },
        '60@0+4',
        2.5,
      ).lanes('s.out')[0]!
    const own = largestStep(tone)
    for (const [zone, params, file] of [
      [{}, { loop: 'forward' }, {}],
      [{ loop: 'forward', loopStart: 0.25, loopEnd: 0.75 }, {}, {}],
      [{}, {}, { loop: { start: 9600, end: 38400 } }],
      [{}, { loop: 'forward', loopStart: 0.3, loopEnd: 0.731, crossfade: 0.3 }, {}],
    ] as const) {
      const x = endless(zone, params, file)
      expect(largestStep(x, 100), JSON.stringify([zone, params])).toBeLessThan(1.4 * own)
      expect(rms(x, 2 * RATE, 2.4 * RATE)).toBeGreaterThan(0.2)
      expect(Math.abs(hzBetween(x, 1.2, 2.4) / 500 - 1)).toBeLessThan(0.005)
    }
    // There and back: a slope becomes a triangle.
    const slope = soundOf(Float32Array.from({ length: 4800 }, (_, n) => n / 4800))
    const fro = played([{ asset: 'a' }], { a: slope }, { ...OPEN, loop: 'pingpong' }, '60@0+1', 0.5).lanes(
      's.out',
    )[0]!
    expect(levelAt(fro, 0.15)).toBeCloseTo(0.5, 2)
    expect(levelAt(fro, 0.25)).toBeCloseTo(0.5, 2)
    expect(levelAt(fro, 0.19)).toBeLessThan(0.15)
    expect(largestStep(fro, 100)).toBeLessThan(0.001)
  })

  it('begins where start is when the gate rises, ends where end is, and says when it is done', () => {
    const slope = soundOf(Float32Array.from({ length: RATE }, (_, n) => n / RATE))
    const heard = played([{ asset: 'a' }], { a: slope }, { ...OPEN, start: 0.5, end: 0.75 }, '60@0+1', 0.6)
    const out = heard.tap('s.out')
    expect(levelAt(out, 0.1)).toBeCloseTo(0.6, 3)
    expect(out.subarray(0.25 * RATE + 1).every((x) => x === 0)).toBe(true)
    const done = heard.tap('s.done')
    expect(done.findIndex((x) => x > 0.5)).toBe(0.25 * RATE)
  })

  it('goes with its envelope: attack, decay to sustain, release, or to the end as one shot', () => {
    const sounds = { a: flat(1, 3) }
    const out = played(
      [{ asset: 'a' }],
      sounds,
      { attack: 0.1, decay: 0.2, sustain: 0.5, release: 0.3 },
      '60@0+1',
      2,
    ).tap('s.out')
    expect(levelAt(out, 0.05)).toBeCloseTo(0.5, 2)
    expect(levelAt(out, 0.9)).toBeCloseTo(0.5, 2)
    expect(db(out[Math.round(1.3 * RATE)]! / 0.5)).toBeCloseTo(-60, 0)
    expect(out.subarray(1.6 * RATE).every((x) => x === 0)).toBe(true)
    const whole = played([{ asset: 'a' }], sounds, { ...OPEN, mode: 'oneshot' }, '60@0+0.1', 3.2).tap('s.out')
    expect(levelAt(whole, 2.9)).toBe(1)
  })

  it('fades what sounded when a note comes again', () => {
    const out = played(
      [{ asset: 'a' }],
      { a: soundOf(sine(100, 2, 0.5)) },
      { attack: 0.01 },
      '60@0+0.303 60@0.303+1',
      1,
    ).tap('s.out')
    expect(largestStep(out)).toBeLessThan(0.5 / 96 + largestStep(sine(100, 1, 0.5)) + 0.001)
  })

  it.each([
    ['no zones', []],
    ['a recording that is not there', [{ asset: 'none' }]],
    ['an empty one', [{ asset: 'empty' }]],
    ['nonsense', [null, { asset: 7 }, { asset: 'a', loop: 'x', loopStart: 9, loopEnd: -3, root: 1e9 }]],
  ])('is silent or sane with %s', (_, zones) => {
    const patch = patchOf(
      [
        ['n', 'notes'],
        ['s', 'sampler', { loop: 'forward' }],
        ['o', 'output'],
      ],
      ['n.pitch > s.pitch', 'n.gate > s.gate', 's.out > o.in'],
    )
    const broken = {
      ...patch,
      modules: patch.modules.map((item) => (item.id === 's' ? { ...item, data: { zones } } : item)),
    }
    const out = hear(broken, 0.3, {
      assets: new Map([
        ['empty', soundOf(new Float32Array(0))],
        ['a', flat(0.3)],
      ]),
      taps: ['s.out'],
      play: '60@0+1',
    }).tap('s.out')
    expect(out.every((x) => Math.abs(x) <= 0.3001)).toBe(true)
  })
})
