/** Maps of controls, heard: which message moves what, and how far. */
import { describe, expect, it } from 'vitest'
import type { PlayerEvent } from '../notes/events.ts'
import type { Patch } from '../patch/types.ts'
import { checkPatch } from '../patch/validate.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { Live } from '../testing/live.ts'
import { hzBetween, largestStep } from '../testing/measure.ts'

/** A sine from 250 Hz to 4 kHz by one macro, four octaves; controls move the macro, or what else is given. */
const sine = (controllers: object[], value = 0, more: object = {}): Patch =>
  patchOf(
    [
      ['notes', 'notes', { bendRange: 12 }],
      ['osc', 'oscillator', { tracking: false }],
      ['out', 'output', { level: -12 }],
    ],
    ['osc.sine > out.in'],
    {
      macros: [{ id: 'm', name: 'M', value, targets: [{ param: 'osc.frequency', from: 250, to: 4000 }] }],
      controllers,
      ...more,
    },
  )
/** Share of the macro's way that is heard, told by the frequency. */
const shareAt = (out: ArrayLike<number>, t: number): number =>
  Math.log2(hzBetween(out, t, t + 0.08) / 250) / 4

type Said = readonly [t: number, event: object]
const heardAfter = (patch: Patch, said: readonly Said[]): readonly number[] => {
  const events = said.map(([t, event]) => ({ t, ...event }) as PlayerEvent)
  const { out } = hear(patch, said.at(-1)![0] + 0.2, { events })
  return said.map(([t]) => shareAt(out, t + 0.02))
}
const control = (value: number, controller = 74, more: object = {}): object => ({
  type: 'control',
  controller,
  value,
  ...more,
})

const close = (found: readonly number[], expected: readonly number[]): void => {
  expect(found).toHaveLength(expected.length)
  found.forEach((share, n) => expect(share).toBeCloseTo(expected[n]!, 4))
}

describe('a controller', () => {
  it.each([
    ['control', { kind: 'control', number: 74 }, [control(0.25), control(1), control(0)], [0.25, 1, 0]],
    ['pressure', { kind: 'pressure' }, [{ type: 'pressure', value: 0.5 }], [0.5]],
    ['slide', { kind: 'slide' }, [{ type: 'slide', value: 0.75 }], [0.75]],
    [
      'bend',
      { kind: 'bend' },
      [
        { type: 'bend', value: -1 },
        { type: 'bend', value: 0 },
        { type: 'bend', value: 1 },
      ],
      [0, 0.5, 1],
    ],
    [
      'one key',
      { kind: 'note', number: 36 },
      [
        { type: 'on', note: 36, velocity: 0.2 },
        { type: 'on', note: 40 },
        { type: 'off', note: 36 },
      ],
      [1, 1, 0],
    ],
    [
      'every key',
      { kind: 'note' },
      [
        { type: 'on', note: 127 },
        { type: 'on', note: 63.5 },
      ],
      [1, 0.5],
    ],
    [
      'one program',
      { kind: 'program', number: 5 },
      [
        { type: 'program', program: 4 },
        { type: 'program', program: 5 },
      ],
      [0, 1],
    ],
    ['every program', { kind: 'program' }, [{ type: 'program', program: 127 }], [1]],
  ])('hears %s', (_what, source, said, shares) => {
    const patch = sine([{ target: 'macro:m', source }])
    close(
      heardAfter(
        patch,
        said.map((event, n) => [0.1 + 0.15 * n, event]),
      ),
      shares,
    )
  })

  it('reads the older form', () => {
    const patch = sine([{ target: 'macro:m', controller: 74, channel: 0, low: 0.25, high: 0.75 }])
    close(
      heardAfter(patch, [
        [0.1, control(0)],
        [0.3, control(1)],
        [0.5, control(0.5)],
      ]),
      [0.25, 0.75, 0.5],
    )
  })

  it('moves within its range, downwards too, along its curve, in the unit of its target', () => {
    const range = sine([{ target: 'osc.frequency', controller: 74, low: 2000, high: 500, curve: 0.5 }], 0, {
      macros: [],
    })
    const { out } = hear(range, 0.8, {
      events: [0, 0.5, 1].map((value, n): PlayerEvent => ({
        t: 0.1 + 0.2 * n,
        type: 'control',
        controller: 74,
        value,
      })),
    })
    const bent = (1 - Math.exp(-1.5)) / (1 - Math.exp(-3))
    expect(hzBetween(out, 0.15, 0.25)).toBeCloseTo(2000, 0)
    expect(hzBetween(out, 0.35, 0.45)).toBeCloseTo(2000 * 0.25 ** bent, 1)
    expect(hzBetween(out, 0.55, 0.75)).toBeCloseTo(500, 1)
  })

  it('takes the whole range of a parameter where none is stated, in equal bands for words', () => {
    const patch = patchOf(
      [
        ['lfo', 'lfo', { rate: 100 }],
        ['out', 'output'],
      ],
      ['lfo.out > out.in'],
      { controllers: [{ target: 'lfo.shape', controller: 1 }] },
    )
    const heard = hear(patch, 0.4, {
      events: [
        { t: 0.1, type: 'control', controller: 1, value: 0.5 },
        { t: 0.2, type: 'control', controller: 1, value: 1 },
      ],
      taps: ['lfo.out', 'lfo.saw', 'lfo.square'],
    })
    expect(heard.tap('lfo.out').slice(5000, 9000)).toEqual(heard.tap('lfo.saw').slice(5000, 9000))
    expect(heard.tap('lfo.out').slice(10000, 14000)).toEqual(heard.tap('lfo.square').slice(10000, 14000))
  })

  it('hears its channel and its device only', () => {
    const patch = sine([
      { target: 'macro:m', source: { kind: 'control', number: 74, channel: 3, device: 'Tide box' } },
    ])
    close(
      heardAfter(patch, [
        [0.1, control(0.5, 74, { channel: 2 })],
        [0.3, control(0.5, 74, { channel: 3 })],
      ]),
      [0, 0.5],
    )
    const live = new Live(patch)
    live.performance.play({ t: 0, type: 'control', controller: 74, value: 1, channel: 3 }, 0, 'Other box')
    expect(live.performance.valueOf('macro:m')).toBe(0)
    live.performance.play({ t: 0, type: 'control', controller: 74, value: 1, channel: 3 }, 0, 'Tide box')
    expect(live.performance.valueOf('macro:m')).toBe(1)
  })

  it('with pick-up waits until it meets its target, and again when something else has moved that', () => {
    const patch = sine([{ id: 'k', target: 'macro:m', controller: 74, pickup: true }], 0.5)
    close(
      heardAfter(patch, [
        [0.1, control(0.1)],
        [0.3, control(0.3)],
        [0.5, control(0.6)],
        [0.7, control(0.7)],
        [0.9, { type: 'macro', target: 'm', value: 0.2 }],
        [1.1, control(0.8)],
        [1.3, control(0.1)],
        [1.5, control(0.4)],
      ]),
      [0.5, 0.5, 0.6, 0.7, 0.2, 0.2, 0.1, 0.4],
    )
    const live = new Live(patch)
    live.play({ type: 'control', controller: 74, value: 0.3 })
    expect(live.performance.controllers()).toEqual([
      { index: 0, id: 'k', target: 'macro:m', position: 0.3, taken: false },
    ])
    live.play({ type: 'control', controller: 74, value: 0.7 })
    expect(live.performance.controllers()[0]!.taken).toBe(true)
    live.play({ type: 'macro', target: 'm', value: 0 })
    expect(live.performance.controllers()[0]!.taken).toBe(false)
  })

  it('scaled brings both ends together, without a jump at the first move', () => {
    const patch = sine([{ target: 'macro:m', controller: 74, mode: 'scaled' }], 0.5)
    close(
      heardAfter(patch, [
        [0.1, control(0)],
        [0.3, control(0.5)],
        [0.5, control(1)],
        [0.7, control(0.5)],
        [0.9, control(0)],
      ]),
      [0.5, 0.75, 1, 0.5, 0],
    )
  })

  it.each([
    ['twos', [1, 63, 127, 65], [1, 64, 63, 0]],
    ['offset', [65, 127, 63, 0], [1, 64, 63, 0]],
    ['sign', [1, 63, 65, 127], [1, 64, 63, 0]],
  ])('relative counts its turns, by %s', (encoding, codes, steps) => {
    const patch = sine([{ target: 'macro:m', controller: 74, mode: 'relative', encoding }])
    close(
      heardAfter(
        patch,
        codes.map((code, n) => [0.1 + 0.15 * n, control(code / 127)]),
      ),
      steps.map((step) => step / 127),
    )
  })

  it('relative turns a stepped macro on between its steps', () => {
    const patch = sine([{ target: 'macro:m', controller: 74, mode: 'relative' }])
    const stepped = { ...patch, macros: [{ ...patch.macros![0]!, step: 0.5 }] }
    const said = Array.from({ length: 4 }, (_, n): Said => [0.1 + 0.15 * n, control(20 / 127)])
    close(heardAfter(stepped, said), [0, 0.5, 0.5, 0.5])
  })

  it('smooths its moves over 5 ms', () => {
    const patch = patchOf(
      [
        ['w', 'amplifier', { level: -20 }],
        ['v', 'value', { value: 1 }],
        ['out', 'output'],
      ],
      ['v.out > w.in', 'w.out > out.in'],
      { controllers: [{ target: 'w.level', controller: 7, low: -20, high: 0 }] },
    )
    const level = hear(patch, 0.3, {
      events: [{ t: 0.1, type: 'control', controller: 7, value: 1 }],
      taps: ['w.out'],
    }).tap('w.out')
    expect(level[4799]).toBeCloseTo(0.1, 5)
    expect(level[4800 + 119]).toBeCloseTo(10 ** -0.5, 2)
    expect(level[4800 + 240]).toBeCloseTo(1, 5)
    expect(largestStep(level)).toBeLessThan(0.02)
  })

  it('keeps what it maps for itself, and lets all else through to the notes', () => {
    const patch = sine([
      { target: 'macro:m', source: { kind: 'bend' } },
      { target: 'macro:m', source: { kind: 'control', number: 1 } },
    ])
    const heard = hear(patch, 0.5, {
      events: [
        { t: 0, type: 'on', note: 60 },
        { t: 0.1, type: 'bend', value: 1 },
        { t: 0.2, type: 'control', controller: 1, value: 1 },
        { t: 0.3, type: 'pressure', value: 0.5 },
        { t: 0.4, type: 'bend', note: 60, value: 1 },
      ],
      taps: ['notes.bend', 'notes.wheel', 'notes.pressure'],
    })
    expect(heard.tap('notes.bend')[0.35 * 48000]).toBe(0)
    expect(heard.tap('notes.wheel')[0.35 * 48000]).toBe(0)
    expect(heard.tap('notes.pressure')[0.35 * 48000]).toBeCloseTo(0.5, 3)
    // Touch of a single note is the note's.
    expect(heard.tap('notes.bend')[0.48 * 48000]).toBeCloseTo(1, 3)
  })

  it.each([
    [{ target: 'osc.startPhase', controller: 1 }, 'controllers[0].target: osc.startPhase is set only'],
    [{ target: 'macro:none', controller: 1 }, 'controllers[0].target: there is no macro'],
    [{ target: 'macro:m' }, 'controllers[0].source: is missing'],
    [{ target: 'macro:m', source: { kind: 'control' } }, 'controllers[0].source.number: is missing'],
    [
      { target: 'macro:m', source: { kind: 'foot', number: 3 } },
      'controllers[0].source.kind: "foot" is not one of',
    ],
  ])('names what is wrong with %j', (controller, words) => {
    const result = checkPatch({ ...sine([]), controllers: [controller] })
    const said = result.ok ? '' : `${result.faults[0]!.place}: ${result.faults[0]!.message}`
    expect(said.slice(0, words.length)).toBe(words)
  })
})
