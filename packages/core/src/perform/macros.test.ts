/* eslint max-lines: ["error", 500] -- one subject: macros */
/** Macros, heard: by frequency and level of what they move, never by a field. */
import { describe, expect, it } from 'vitest'
import { edit } from '../patch/document.ts'
import { ownership } from '../patch/macros.ts'
import { moveTargetHere } from '../patch/playing-edits.ts'
import { checkPatch } from '../patch/validate.ts'
import type { Patch } from '../patch/types.ts'
import { compile } from '../compile/compile.ts'
import type { PlayerEvent } from '../notes/events.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { Live } from '../testing/live.ts'
import { hzBetween, rms } from '../testing/measure.ts'

/** A sine whose frequency is set by hand, into the output; further modules beside it. */
const sine = (
  more: object,
  frequency: number | string = 440,
  extra: Parameters<typeof patchOf>[0] = [],
): Patch =>
  patchOf(
    [['osc', 'oscillator', { tracking: false, frequency }], ['out', 'output', { level: -6 }], ...extra],
    ['osc.sine > out.in'],
    more,
  )

const macro = (id: string, value: number, targets: object[], more: object = {}): object => ({
  id,
  name: id,
  value,
  targets,
  ...more,
})

/** Frequency of the oscillator between two times. */
const hzAt = (out: ArrayLike<number>, from: number): number => hzBetween(out, from, from + 0.2)

const moves = (...events: [t: number, target: string, value: number][]): PlayerEvent[] =>
  events.map(([t, target, value]) => ({ t, type: 'macro', target, value }))

describe('a macro', () => {
  it('has moved its targets when the patch is loaded, in octaves', () => {
    const patch = sine({ macros: [macro('m', 0.5, [{ param: 'osc.frequency', from: 200, to: 3200 }])] })
    expect(hzAt(hear(patch, 0.3).out, 0.05)).toBeCloseTo(800, 2)
  })

  it('moves them with every move, bent by its curve, downwards as well', () => {
    const patch = sine({
      macros: [macro('m', 0, [{ param: 'osc.frequency', from: 1600, to: 100, curve: 0.5 }])],
    })
    const { out } = hear(patch, 1, { events: moves([0.3, 'm', 0.5], [0.6, 'm', 1]) })
    const bent = (1 - Math.exp(-1.5)) / (1 - Math.exp(-3))
    const middle = 1600 * (100 / 1600) ** bent
    expect(hzAt(out, 0.05)).toBeCloseTo(1600, 2)
    expect(hzAt(out, 0.35)).toBeCloseTo(middle, 2)
    expect(hzAt(out, 0.7)).toBeCloseTo(100, 2)
  })

  it('moves levels in decibels, shares as they are and times in octaves', () => {
    const patch = patchOf(
      [
        ['v', 'value', { value: 1 }],
        ['amp', 'amplifier'],
        ['w', 'value', { value: 0 }],
        ['env', 'decay', {}],
        ['t', 'value', { value: '= env.decay' }],
        ['out', 'output'],
      ],
      ['v.out > amp.in', 'amp.out > out.in'],
      {
        macros: [
          macro('m', 0.25, [
            { param: 'amp.level', from: -40, to: 0 },
            { param: 'w.value', from: 0, to: 2 },
            { param: 'env.decay', from: 0.01, to: 1 },
          ]),
        ],
      },
    )
    const heard = hear(patch, 0.1, { taps: ['amp.out', 'w.out', 't.out'] })
    expect(20 * Math.log10(heard.tap('amp.out')[4000]!)).toBeCloseTo(-30, 3)
    expect(heard.tap('w.out')[4000]).toBeCloseTo(0.5, 6)
    expect(heard.tap('t.out')[4000]).toBeCloseTo(0.01 * 100 ** 0.25, 5)
  })

  it('moves cable amounts, and macros that move others, each once', () => {
    const patch = patchOf(
      [
        ['osc', 'oscillator', { tracking: false }],
        ['out', 'output', { level: -6 }],
      ],
      ['path: osc.sine > out.in'],
      {
        macros: [
          macro('outer', 0, [{ param: 'macro:inner', from: 0, to: 1 }]),
          macro('inner', 0.9, [
            { param: 'osc.frequency', from: 250, to: 1000 },
            { param: 'cable:path', from: 1, to: 0.25 },
          ]),
        ],
      },
    )
    const { out } = hear(patch, 0.8, { events: moves([0.4, 'outer', 1]) })
    // The outer one owns the inner one: what that is stored at is not heard.
    expect(hzAt(out, 0.1)).toBeCloseTo(250, 2)
    expect(hzAt(out, 0.5)).toBeCloseTo(1000, 2)
    expect(rms(out, 24000, 36000) / rms(out, 4800, 16800)).toBeCloseTo(0.25, 3)
  })

  it('gives choices equal bands and switches on from the middle', () => {
    const patch = patchOf(
      [
        ['lfo', 'lfo', { rate: 200, shape: 'sine' }],
        ['v', 'value', { value: 1 }],
        ['mix', 'mixer', {}],
        ['out', 'output'],
      ],
      ['v.out > mix.in1', 'mix.out > out.in'],
      {
        macros: [
          macro('m', 0, [
            { param: 'lfo.shape', from: 0, to: 1 },
            { param: 'mix.mute1', from: 1, to: 0 },
          ]),
        ],
      },
    )
    const shapes = ['sine', 'triangle', 'saw', 'fall', 'square']
    const events = shapes.map((_, n): PlayerEvent => ({
      t: n * 0.1,
      type: 'macro',
      target: 'm',
      value: (n + 0.5) / shapes.length,
    }))
    const heard = hear(patch, 0.5, {
      events,
      taps: ['lfo.out', ...shapes.map((shape) => `lfo.${shape}`), 'mix.out'],
    })
    shapes.forEach((shape, n) => {
      const from = n * 4800 + 100,
        to = from + 4000
      expect(heard.tap('lfo.out').slice(from, to)).toEqual(heard.tap(`lfo.${shape}`).slice(from, to))
    })
    // Muted from 1 down to 0.5, the middle included.
    expect(heard.tap('mix.out')[4000]).toBe(0)
    expect(heard.tap('mix.out')[2.5 * 4800 - 2]).toBe(0)
    expect(heard.tap('mix.out')[4.5 * 4800]).toBeGreaterThan(0.5)
  })

  it('counts words where its range goes beyond a share of the list', () => {
    const patch = patchOf(
      [
        ['lfo', 'lfo', { rate: 200 }],
        ['out', 'output'],
      ],
      ['lfo.out > out.in'],
      { macros: [macro('m', 1, [{ param: 'lfo.shape', from: 1, to: 3 }])] },
    )
    const heard = hear(patch, 0.3, {
      events: moves([0.1, 'm', 0.5], [0.2, 'm', 0.1]),
      taps: ['lfo.out', 'lfo.fall', 'lfo.saw', 'lfo.triangle'],
    })
    for (const [n, shape] of ['fall', 'saw', 'triangle'].entries())
      expect(heard.tap('lfo.out').slice(4800 * n + 10, 4800 * n + 4700)).toEqual(
        heard.tap(`lfo.${shape}`).slice(4800 * n + 10, 4800 * n + 4700),
      )
  })

  it('sounds the same whatever its player reads, and keeps what nobody knows', () => {
    const plain = macro('m', 0.3, [{ param: 'osc.frequency', from: 200, to: 3200 }])
    const dressed = {
      ...plain,
      ...{ default: 0.9, low: -5, high: 70, unit: '°C', scale: 'log', locked: true, mood: 'calm' },
      targets: [{ param: 'osc.frequency', from: 200, to: 3200, why: 'bright' }],
    }
    const [bare, worn] = [sine({ macros: [plain] }), sine({ macros: [dressed] })]
    const events = moves([0.1, 'm', 0.8])
    expect(hear(worn, 0.3, { events }).out).toEqual(hear(bare, 0.3, { events }).out)
    const moved = edit(worn, 'Move here', (draft) => {
      draft.macros!.push({ id: 'n', name: 'N', value: 0 })
      moveTargetHere(draft, 'osc.frequency', 'n')
    })
    expect(moved.ok && moved.patch.macros).toEqual([
      { ...dressed, targets: [] },
      { id: 'n', name: 'N', value: 0, targets: dressed.targets },
    ])
  })

  it('stands on its steps', () => {
    const patch = sine({
      macros: [macro('m', 0.3, [{ param: 'osc.frequency', from: 200, to: 3200 }], { step: 0.25 })],
    })
    const { out } = hear(patch, 0.9, { events: moves([0.3, 'm', 0.55], [0.6, 'm', 0.95]) })
    expect(hzAt(out, 0.05)).toBeCloseTo(400, 2)
    expect(hzAt(out, 0.35)).toBeCloseTo(800, 2)
    expect(hzAt(out, 0.65)).toBeCloseTo(3200, 1)
  })

  it('reaches formulas that read it, also where another macro moves it, smoothly', () => {
    const patch = sine(
      {
        macros: [macro('outer', 0, [{ param: 'macro:inner', from: 0.2, to: 0.8 }]), macro('inner', 0.5, [])],
      },
      '= 1000 * macro:inner',
    )
    const { out } = hear(patch, 0.8, { events: moves([0.4, 'outer', 1]) })
    expect(hzAt(out, 0.1)).toBeCloseTo(200, 1)
    expect(hzAt(out, 0.5)).toBeCloseTo(800, 1)
  })

  it('owns its targets: of two in a file the last one moves, with a warning', () => {
    const file = {
      ...sine({}),
      macros: [
        macro('first', 1, [{ param: 'osc.frequency', from: 100, to: 200 }]),
        macro('last', 1, [{ param: 'osc.frequency', from: 300, to: 600 }]),
      ],
    }
    const result = checkPatch(file)
    if (!result.ok) throw new Error('refused')
    expect(result.warnings.map(({ place, message }) => `${place}: ${message}`)).toEqual([
      'macros[1].targets[0].param: osc.frequency is also named by first; last moves it, as the last in the file',
    ])
    const { out } = hear(result.value, 0.9, { events: moves([0.3, 'first', 0], [0.6, 'last', 0]) })
    expect(hzAt(out, 0.05)).toBeCloseTo(600, 2)
    expect(hzAt(out, 0.35)).toBeCloseTo(600, 2)
    expect(hzAt(out, 0.65)).toBeCloseTo(300, 2)
  })

  it('refuses a second owner in an edit by name, and moves the target over when asked', () => {
    const patch = sine({
      macros: [
        macro('weather', 0.5, [{ param: 'osc.frequency', from: 200, to: 800 }]),
        macro('tide', 0.5, []),
      ],
    })
    const second = edit(patch, 'Add a target', (draft) => {
      draft.macros![1]!.targets!.push({ param: 'osc.frequency', from: 1, to: 2 })
    })
    expect(second.ok ? '' : second.faults[0]!.message).toContain('osc.frequency is already moved by weather')
    const moved = edit(patch, 'Move here', (draft) => moveTargetHere(draft, 'osc.frequency', 'tide'))
    if (!moved.ok) throw new Error(moved.faults[0]!.message)
    expect(ownership(moved.patch).owner.get('osc.frequency')?.macro.id).toBe('tide')
    expect(moved.patch.macros![1]!.targets).toEqual([{ param: 'osc.frequency', from: 200, to: 800 }])
  })

  it.each([
    ['a formula', { param: 'osc.frequency', from: 1, to: 2 }, '= 400', 'holds a formula'],
    ['what is set only', { param: 'osc.startPhase', from: 0, to: 1 }, 440, 'is set only'],
    ['nothing', { param: 'osc.colour', from: 0, to: 1 }, 440, 'has no parameter'],
  ])('is refused with %s for a target', (_what, target, frequency, words) => {
    const result = checkPatch({
      ...sine({}),
      modules: [
        { id: 'osc', type: 'oscillator', params: { frequency } },
        { id: 'out', type: 'output' },
      ],
      macros: [macro('m', 0, [target])],
    })
    expect(result.ok ? '' : `${result.faults[0]!.place} ${result.faults[0]!.message}`).toMatch(
      new RegExp(`^macros\\[0\\]\\.targets\\[0\\]\\.param .*${words}`),
    )
  })

  it('does nothing at all while nobody moves it: no event, the same plan', () => {
    const ids = Array.from({ length: 20 }, (_, n) => `v${n}`)
    const patch = patchOf(
      [...ids.map((id): [string, string] => [id, 'value']), ['mix', 'mix'], ['out', 'output']],
      ['v0.out > mix.in1', 'mix.out > out.in'],
      {
        macros: [
          macro(
            'm',
            0.3,
            ids.map((id) => ({ param: `${id}.value`, from: -1, to: 1 })),
          ),
        ],
      },
    )
    const live = new Live(patch)
    live.run(0.1)
    const plan = live.planner.plan
    let sent = 0
    const send = live.runtime.send.bind(live.runtime)
    live.runtime.send = (item) => {
      sent += 1
      send(item)
    }
    live.run(10)
    expect(sent).toBe(0)
    expect(live.planner.next(live.patch)).toEqual({ kind: 'nothing' })
    const again = compile(live.patch)
    expect(again.ok && again.plan).toEqual(plan)
  })

  it('is effective apart from what is set, and hands its fields back when it goes', () => {
    const live = new Live(
      sine({ macros: [macro('m', 0, [{ param: 'osc.frequency', from: 200, to: 800 }])] }, 440),
    )
    live.play({ type: 'macro', target: 'm', value: 1 })
    expect(live.performance.valueOf('osc.frequency')).toBe(800)
    expect(live.performance.isMoved('osc.frequency')).toBe(true)
    expect(live.patch.modules[0]!.params!['frequency']).toBe(440)
    expect(live.patch.macros![0]!.value).toBe(0)
    live.run(0.1)
    live.change((draft) => {
      draft.macros = []
    })
    live.run(0.4)
    expect(hzAt(live.out, 0.25)).toBeCloseTo(440, 2)
  })
})
