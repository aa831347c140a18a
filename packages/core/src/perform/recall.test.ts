/* eslint max-lines: ["error", 500] -- one subject: snapshots */
/** Snapshots and blends, heard: by frequency, level and spectrum. */
import { describe, expect, it } from 'vitest'
import type { PlayerEvent } from '../notes/events.ts'
import { render } from '../render/render.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { testKernels } from '../testing/kernels.ts'
import { Live } from '../testing/live.ts'
import { recalledVoice as voice } from '../testing/patches.ts'
import { amplitudes, hzBetween, largest, largestStep, rms } from '../testing/measure.ts'

const recall = (t: number, target = 's', more: object = {}): PlayerEvent => ({
  t,
  type: 'snapshot',
  target,
  ...more,
})
const snapshot = (more: object, id = 's'): object => ({ id, name: id, ...more })

const hz = (out: ArrayLike<number>, from: number): number => hzBetween(out, from, from + 0.1)

describe('a snapshot', () => {
  it('moves exactly the listed numbers, over 15 ms', () => {
    const { out } = hear(voice([snapshot({ params: { 'osc.frequency': 800 } })]), 0.8, {
      events: [recall(0.4)],
    })
    expect(hz(out, 0.1)).toBeCloseTo(400, 2)
    expect(hz(out, 0.42)).toBeCloseTo(800, 1)
  })

  it('morphs over the seconds of the event, or its own, in octaves', () => {
    const patch = voice([snapshot({ params: { 'osc.frequency': 1600 }, over: 2 })])
    const long = hear(patch, 3, { events: [recall(0.5)] }).out
    const short = hear(patch, 3, { events: [recall(0.5, 's', { over: 0.5 })] }).out
    // Half way in time is half way in octaves: around 1.5 s, 800 Hz.
    expect(hzBetween(long, 1.49, 1.51)).toBeGreaterThan(790)
    expect(hzBetween(long, 1.49, 1.51)).toBeLessThan(810)
    expect(hz(long, 2.6)).toBeCloseTo(1600, 1)
    expect(hz(short, 1.1)).toBeCloseTo(1600, 1)
  })

  it('morphs times in octaves too', () => {
    const patch = patchOf(
      [
        ['env', 'decay', { decay: 0.02 }],
        ['t', 'value', { value: '= env.decay' }],
        ['out', 'output'],
      ],
      ['t.out > out.in'],
      { snapshots: [snapshot({ params: { 'env.decay': 2 } })] },
    )
    const time = hear(patch, 1, { events: [recall(0.2, 's', { over: 0.4 })], taps: ['t.out'] }).tap('t.out')
    expect(time[Math.round(0.4 * 48000)]).toBeCloseTo(0.2, 3)
    expect(time[Math.round(0.65 * 48000)]).toBe(2)
  })

  it('moves macros first, and leaves alone what a macro owns', () => {
    const patch = voice(
      [
        snapshot({ params: { 'osc.frequency': 150, 'macro:m': 1, 'amp.level': -20 } }),
        snapshot({ params: { 'osc.frequency': 150 } }, 'owned'),
      ],
      {
        macros: [
          { id: 'm', name: 'M', value: 0, targets: [{ param: 'osc.frequency', from: 250, to: 1000 }] },
        ],
      },
    )
    const { out } = hear(patch, 0.9, { events: [recall(0.3), recall(0.6, 'owned')] })
    expect(hz(out, 0.1)).toBeCloseTo(250, 2)
    expect(hz(out, 0.35)).toBeCloseTo(1000, 1)
    expect(hz(out, 0.65)).toBeCloseTo(1000, 1)
    expect(rms(out, 17000, 26000) / rms(out, 4800, 13800)).toBeCloseTo(0.1, 2)
  })

  it('brings back what its scope speaks for and does not list', () => {
    const patch = voice([
      snapshot({ scope: ['osc', 'cable:loud'], params: { 'osc.fine': 0 } }),
      snapshot({ params: { 'osc.frequency': 900, 'cable:loud': 0.25, 'amp.level': -6 } }, 'away'),
    ])
    const { out } = hear(patch, 0.9, { events: [recall(0.3, 'away'), recall(0.6)] })
    expect(hz(out, 0.35)).toBeCloseTo(900, 1)
    expect(hz(out, 0.65)).toBeCloseTo(400, 1)
    // The amount is back, the level outside its scope is not.
    expect(rms(out, 31000, 40000) / rms(out, 4800, 13800)).toBeCloseTo(10 ** (-6 / 20), 2)
  })

  it('changes words, data and bypass at once, or at the end of a morph', () => {
    const patch = patchOf(
      [
        ['v', 'value', { value: 0.5 }],
        [
          'bend',
          'curve',
          {},
          {
            data: {
              points: [
                { x: -1, y: -1 },
                { x: 1, y: 1 },
              ],
            },
          },
        ],
        ['lfo', 'lfo', { rate: 100, shape: 'sine' }],
        ['amp', 'amplifier', { level: -20 }],
        ['out', 'output'],
      ],
      ['v.out > bend.in', 'bend.out > amp.in', 'amp.out > out.in'],
      {
        snapshots: [
          snapshot({
            params: { 'lfo.shape': 'square' },
            data: {
              'bend.points': [
                { x: -1, y: 1 },
                { x: 1, y: -1 },
              ],
            },
            bypass: { amp: true },
          }),
        ],
      },
    )
    const taps = ['lfo.out', 'lfo.square', 'lfo.sine', 'bend.out', 'amp.out']
    for (const [over, change] of [
      [0, 0.2],
      [0.3, 0.5],
    ] as const) {
      const heard = hear(patch, 0.8, { events: [recall(0.2, 's', { over })], taps })
      const at = (port: string, t: number): number => heard.tap(port)[Math.round(t * 48000)]!
      expect(at('lfo.out', change - 0.004)).toBe(at('lfo.sine', change - 0.004))
      expect(at('lfo.out', change + 0.02)).toBe(at('lfo.square', change + 0.02))
      expect(at('bend.out', change - 0.004)).toBeCloseTo(0.5, 5)
      expect(at('bend.out', change + 0.02)).toBeCloseTo(-0.5, 5)
      expect(at('amp.out', change - 0.004)).toBeCloseTo(0.05, 5)
      expect(at('amp.out', change + 0.02)).toBeCloseTo(-0.5, 5)
    }
  })

  it('plans formulas and what is set only anew, where it holds them', () => {
    const patch = patchOf(
      [
        ['osc', 'oscillator', { tracking: false, frequency: 400 }],
        ['v', 'value', { value: 300 }],
        ['u', 'unison', { copies: 1, detune: 0, level: 0 }],
        ['out', 'output', { level: -12 }],
      ],
      ['osc.sine > out.in', 'u.out > out.in'],
      {
        snapshots: [
          snapshot({ params: { 'osc.frequency': '= v.value * 2', 'u.copies': 3 } }),
          snapshot({ params: { 'osc.frequency': 500 } }, 'plain'),
        ],
      },
    )
    const { out } = hear(patch, 0.9, { events: [recall(0.3), recall(0.6, 'plain')] })
    expect(hz(out, 0.1)).toBeCloseTo(400, 1)
    expect(hz(out, 0.35)).toBeCloseTo(600, 1)
    expect(hz(out, 0.65)).toBeCloseTo(500, 1)
  })

  it('fires its note, at 0.8 for half a second where it says nothing else', () => {
    const patch = patchOf(
      [
        ['notes', 'notes'],
        ['osc', 'oscillator'],
        ['amp', 'amplifier'],
        ['out', 'output', { level: -12 }],
      ],
      ['notes.pitch > osc.pitch', 'osc.sine > amp.in', 'notes.gate > amp.cv', 'amp.out > out.in'],
      {
        snapshots: [
          snapshot({ fire: { note: 57 } }),
          snapshot({ fire: { note: 69, velocity: 0.3, length: 0.1 } }, 'short'),
        ],
      },
    )
    const heard = hear(patch, 1.5, {
      events: [recall(0.2), recall(1, 'short')],
      taps: ['notes.gate', 'notes.velocity'],
    })
    expect(hz(heard.out, 0.3)).toBeCloseTo(220, 2)
    expect(hzBetween(heard.out, 1.01, 1.09)).toBeCloseTo(440, 1)
    const gate = heard.tap('notes.gate')
    expect(gate.findIndex((x) => x === 1)).toBe(9600)
    expect(gate.findIndex((x, at) => at > 9600 && x === 0)).toBe(9600 + 24000)
    expect(gate.findIndex((x, at) => at > 48000 && x === 0)).toBe(48000 + 4800)
    expect(heard.tap('notes.velocity')[10000]).toBeCloseTo(0.8, 6)
    expect(heard.tap('notes.velocity')[49000]).toBeCloseTo(0.3, 6)
    // Without an end given the render waits for the note it fires.
    const whole = hear(patch, 0.9, { events: [recall(0.2)] })
    expect(largest(whole.out, 33000, 33500)).toBeGreaterThan(0.1)
  })

  it.each([
    ['numbers', { params: { 'osc.frequency': 380, 'filter.cutoff': 700, 'amp.level': -9 } }],
    ['an amount', { params: { 'cable:loud': 0.3 } }],
    ['a word', { params: { 'drive.curve': 'hard' } }],
    ['a switch', { params: { 'osc.tracking': true } }],
    ['the slope of a filter', { params: { 'filter.slope': '24' } }],
    ['a bypass', { bypass: { drive: true } }],
    [
      'all of it',
      { params: { 'drive.curve': 'soft', 'filter.cutoff': 600, 'cable:loud': 0.6 }, bypass: { drive: true } },
    ],
  ])('recalls %s without a click', (_what, more) => {
    const patch = patchOf(
      [
        ['osc', 'oscillator', { tracking: false, frequency: 300 }],
        ['filter', 'filter', { cutoff: 1500 }],
        ['drive', 'drive', { gain: 6 }],
        ['amp', 'amplifier'],
        ['out', 'output', { level: -12 }],
      ],
      ['osc.sine > filter.in', 'filter.low > drive.in', 'loud: drive.out > amp.in', 'amp.out > out.in'],
      { snapshots: [snapshot(more)] },
    )
    const at = 0.4037
    const { out } = hear(patch, 0.8, { events: [recall(at)] })
    const frame = Math.round(at * 48000)
    // Energy above 10 kHz in windows of 5 ms: around the recall against both settings at rest.
    const high = (start: number): number => {
      const spectrum = amplitudes(out.slice(start, start + 256), 256)
      return spectrum.slice(Math.ceil(10000 / (48000 / 256))).reduce((sum, x) => sum + x * x, 0)
    }
    const rest = Math.max(
      ...Array.from({ length: 20 }, (_, n) =>
        Math.max(high(frame - 8000 + 211 * n), high(frame + 4000 + 211 * n)),
      ),
    )
    const floor = 1e-12
    for (let start = frame - 240; start <= frame + 1200; start += 16)
      expect(10 * Math.log10((high(start) + floor) / (rest + floor))).toBeLessThan(6)
  })

  it('costs little: five hundred numbers become events, not a plan', () => {
    const ids = Array.from({ length: 500 }, (_, n) => `v${n}`)
    const live = new Live(
      patchOf(
        [...ids.map((id): [string, string] => [id, 'value']), ['out', 'output']],
        ['v499.out > out.in'],
        {
          snapshots: [snapshot({ params: Object.fromEntries(ids.map((id) => [`${id}.value`, 0.5])) })],
        },
      ),
    )
    live.run(0.05)
    const plan = live.planner.plan
    live.play({ type: 'snapshot', target: 's' })
    expect(live.planner.plan).toBe(plan)
    live.run(0.05)
    expect(live.runtime.f32(live.runtime.u32(live.layout.signal('v499.out')!.address))).toBe(0.5)
  })

  it('keeps what is moved while it fades, and does the next one when it has faded', () => {
    const patch = voice([
      snapshot({ params: { 'drive.curve': 'hard' } }),
      snapshot({ params: { 'osc.frequency': 600, 'amp.level': -12 }, bypass: { drive: true } }, 'next'),
    ])
    const { out } = hear(patch, 1, {
      events: [
        recall(0.2),
        { t: 0.202, type: 'param', target: 'osc.frequency', value: 900 },
        recall(0.5),
        recall(0.502, 'next'),
        { t: 0.503, type: 'param', target: 'osc.frequency', value: 700 },
      ],
    })
    expect(hz(out, 0.3)).toBeCloseTo(900, 1)
    // In order, though the second waited: the move after it is the last word.
    expect(hz(out, 0.7)).toBeCloseTo(700, 1)
    expect(largestStep(out)).toBeLessThan(1.2 * largestStep(out, 14400, 23000))
  })

  it('gives the memory of what has faded back', () => {
    const live = new Live(
      voice([
        snapshot({ params: { 'drive.curve': 'hard', 'filter.slope': '24' }, bypass: { amp: true } }),
        snapshot({ params: { 'drive.curve': 'soft', 'filter.slope': '12' }, bypass: { amp: false } }, 'back'),
      ]),
    )
    const round = (): void => {
      for (const target of ['s', 'back']) {
        live.play({ type: 'snapshot', target })
        live.run(0.05)
      }
    }
    round()
    round()
    const before = live.layout.memoryInUse
    for (let n = 0; n < 20; n += 1) round()
    expect(live.layout.memoryInUse).toBe(before)
    expect(live.planner.plan!.modules.some(({ id }) => id.startsWith('~was:'))).toBe(false)
  })

  it('says what it could not do, and goes on as it was', () => {
    const lines = ['a', 'b', 'c', 'd', 'e']
    const patch = patchOf(
      [
        ['osc', 'oscillator', { tracking: false, frequency: 400 }],
        ...lines.map((id): [string, string, Record<string, number>] => [id, 'delayline', { max: 0.1 }]),
        ['sum', 'copy', { voices: 1 }],
        ['out', 'output', { level: -12 }],
      ],
      ['osc.sine > sum.in', ...lines.map((id) => `sum.out > ${id}.in`), 'osc.sine > out.in'],
      {
        snapshots: [
          snapshot({
            params: {
              'sum.voices': 16,
              'osc.frequency': 500,
              ...Object.fromEntries(lines.map((id) => [`${id}.max`, 60])),
            },
          }),
        ],
      },
    )
    const result = render(testKernels(), patch, { events: [recall(0.2)], seconds: 0.6 })
    if (!result.ok) throw new Error('refused')
    expect(result.value.faults[0]?.message).toContain('memory')
    expect(hz(result.value.sound.channels[0]!, 0.1)).toBeCloseTo(400, 1)
    expect(hz(result.value.sound.channels[0]!, 0.3)).toBeCloseTo(500, 1)
  })

  it('that is recalled on the way to another one goes on from there', () => {
    const patch = voice([
      snapshot({ params: { 'osc.frequency': 1600, 'drive.curve': 'hard' }, over: 1 }),
      snapshot({ params: { 'osc.frequency': 400, 'drive.curve': 'soft' } }, 'back'),
    ])
    const { out } = hear(patch, 1.6, { events: [recall(0.2), recall(0.7, 'back')] })
    expect(hzBetween(out, 0.68, 0.7)).toBeGreaterThan(700)
    expect(hz(out, 0.8)).toBeCloseTo(400, 1)
    // The words of the first never come.
    expect(hz(out, 1.4)).toBeCloseTo(400, 1)
  })
})
