/** Blends, and moves of the moment, heard. */
import { describe, expect, it } from 'vitest'
import type { PlayerEvent } from '../notes/events.ts'
import { edit } from '../patch/document.ts'
import { keepAsSet, leftMoved } from '../patch/playing-edits.ts'
import type { Patch } from '../patch/types.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { Live } from '../testing/live.ts'
import { recalledVoice as voice } from '../testing/patches.ts'
import { hzBetween, rms } from '../testing/measure.ts'
import { overlayOf } from './moment.ts'
import { blendLeavesOut } from './recall.ts'

const snapshot = (more: object, id = 's'): object => ({ id, name: id, ...more })

const hz = (out: ArrayLike<number>, from: number): number => hzBetween(out, from, from + 0.1)

describe('a blend', () => {
  const marks = [
    { snapshot: 'a', x: 0, y: 0 },
    { snapshot: 'b', x: 1, y: 0 },
    { snapshot: 'c', x: 0, y: 1 },
  ]
  const blended = (snapshots: object[], more: object = {}): Patch =>
    patchOf(
      [
        ['osc', 'oscillator', { tracking: false, frequency: 400 }],
        ['lfo', 'lfo', { rate: 50 }],
        ['amp', 'amplifier'],
        ['u', 'unison', {}],
        ['out', 'output', { level: -12 }],
      ],
      ['osc.sine > amp.in', 'amp.out > out.in'],
      { snapshots, stage: { items: [{ id: 'b1', kind: 'blend', marks, ...more }] } },
    )
  const to = (t: number, x: number, y: number): PlayerEvent => ({ t, type: 'blend', target: 'b1', x, y })

  it('weighs numbers by 1/d² in their unit, is exact on a mark, and takes what is missing as it is set', () => {
    const patch = blended([
      snapshot({ params: { 'osc.frequency': 200 } }, 'a'),
      snapshot({ params: { 'osc.frequency': 800 } }, 'b'),
      snapshot({ params: { 'amp.level': -20 } }, 'c'),
    ])
    const { out } = hear(patch, 1.2, { events: [to(0.2, 0, 0), to(0.5, 0.25, 0), to(0.8, 0, 1)] })
    expect(hz(out, 0.3)).toBeCloseTo(200, 1)
    // c has no frequency: it counts as the set 400.
    const weights = [1 / 0.25 ** 2, 1 / 0.75 ** 2, 1 / (0.25 ** 2 + 1)] as const
    const octaves =
      (weights[0] * Math.log2(200) + weights[1] * Math.log2(800) + weights[2] * Math.log2(400)) /
      (weights[0] + weights[1] + weights[2])
    expect(hz(out, 0.6)).toBeCloseTo(2 ** octaves, 1)
    expect(hz(out, 0.9)).toBeCloseTo(400, 1)
    expect(rms(out, 43000, 57000) / rms(out, 3000, 9000)).toBeCloseTo(0.1, 2)
  })

  it('takes words from the nearest, which changes only when another is 10 % nearer', () => {
    const patch = blended([
      snapshot({ params: { 'lfo.shape': 'sine' } }, 'a'),
      snapshot({ params: { 'lfo.shape': 'square' } }, 'b'),
      snapshot({ params: { 'lfo.shape': 'saw' } }, 'c'),
    ])
    const shapes = ['lfo.out', 'lfo.sine', 'lfo.square', 'lfo.saw']
    const heard = hear(patch, 1, {
      events: [to(0.1, 0.1, 0), to(0.3, 0.52, 0), to(0.5, 0.54, 0), to(0.7, 0.48, 0)],
      taps: shapes,
    })
    const is = (shape: string, t: number): boolean => {
      const from = Math.round(t * 48000)
      return heard
        .tap('lfo.out')
        .slice(from, from + 2000)
        .every((x, n) => x === heard.tap(`lfo.${shape}`)[from + n])
    }
    expect(is('sine', 0.2)).toBe(true)
    expect(is('sine', 0.4)).toBe(true)
    expect(is('square', 0.6)).toBe(true)
    expect(is('square', 0.8)).toBe(true)
  })

  it('leaves out formulas and what is set only, and lists them', () => {
    const patch = blended([
      snapshot({ params: { 'osc.frequency': '= 3 * 100', 'u.copies': 2, 'amp.level': 0 } }, 'a'),
      snapshot({ params: { 'osc.frequency': 800 } }, 'b'),
      snapshot({}, 'c'),
    ])
    expect(blendLeavesOut(patch, patch.stage!.items![0]!)).toEqual(['osc.frequency', 'u.copies'])
    expect(hz(hear(patch, 0.5, { events: [to(0.1, 1, 0)] }).out, 0.2)).toBeCloseTo(400, 1)
  })
})

describe('moves of the moment', () => {
  it('are kept as set by an edit that changes nothing that is heard, and taken back to what is set', () => {
    const live = new Live(voice([snapshot({ params: { 'osc.frequency': 800 }, bypass: { drive: true } })]))
    live.run(0.1)
    live.play({ type: 'snapshot', target: 's' })
    live.run(0.2)
    const moves = live.performance.moves()
    expect(moves).toEqual({ values: { 'osc.frequency': 800 }, data: {}, bypass: { drive: true } })
    expect(live.patch.modules[0]!.params!['frequency']).toBe(400)
    const kept = edit(live.patch, 'Keep as set', (draft) => keepAsSet(draft, overlayOf(moves)))
    if (!kept.ok) throw new Error('refused')
    expect(kept.patch.modules[0]!.params!['frequency']).toBe(800)
    expect(kept.patch.modules[2]!.bypass).toBe(true)
    live.change((draft) => keepAsSet(draft, overlayOf(moves)))
    live.run(0.2)
    expect(live.performance.moves().values).toEqual({})
    expect(hz(live.out, 0.35)).toBeCloseTo(800, 1)
    live.change((draft) => {
      draft.modules[0]!.params!['frequency'] = 500
    })
    live.play({ type: 'param', target: 'osc.frequency', value: 250 })
    live.run(0.2)
    expect(hz(live.out, 0.59)).toBeCloseTo(250, 1)
    live.performance.moveTo({ values: {}, data: {}, bypass: {} })
    live.play()
    live.run(0.2)
    expect(hz(live.out, 0.79)).toBeCloseTo(500, 1)
  })

  it('that a macro would undo stay moved when all else is kept', () => {
    const live = new Live(
      voice([], {
        macros: [
          { id: 'm', name: 'M', value: 0, targets: [{ param: 'osc.frequency', from: 250, to: 1000 }] },
        ],
      }),
    )
    live.play({ type: 'macro', target: 'm', value: 0.5 }, { type: 'param', target: 'amp.level', value: -6 })
    live.play({ type: 'param', target: 'osc.frequency', value: 800 })
    live.run(0.2)
    const moves = live.performance.moves()
    const kept = edit(live.patch, 'Keep as set', (draft) => keepAsSet(draft, overlayOf(moves)))
    if (!kept.ok) throw new Error('refused')
    expect(leftMoved(kept.patch, moves).values).toEqual({ 'osc.frequency': 800 })
    for (const step of live.performance.edit(kept.patch, live.runtime.time, leftMoved(kept.patch, moves)))
      live.take(step)
    live.run(0.2)
    expect(hz(live.out, 0.1)).toBeCloseTo(800, 1)
    expect(hz(live.out, 0.29)).toBeCloseTo(800, 1)
    expect(kept.patch.macros![0]!.value).toBe(0.5)
  })

  it('that wait for their turn fall away with what they were about', () => {
    const live = new Live(
      voice([
        snapshot({ params: { 'drive.curve': 'hard' } }),
        snapshot(
          { params: { 'filter.slope': '24', 'drive.curve': 'soft' }, bypass: { drive: true } },
          'next',
        ),
        snapshot({ params: { 'drive.curve': 'sine', 'amp.level': -6 }, over: 0.05 }, 'slow'),
      ]),
    )
    live.play({ type: 'snapshot', target: 'slow' })
    live.play({ type: 'snapshot', target: 's' })
    // While that fades: the next waits, and what both are about goes.
    live.play({ type: 'snapshot', target: 'next' })
    live.change((draft) => {
      draft.snapshots = draft.snapshots!.filter(({ id }) => id === 's')
      draft.cables = []
      draft.modules = draft.modules.filter(({ id }) => id !== 'drive')
      draft.snapshots[0]!.params = {}
    })
    live.run(0.3)
    expect(live.performance.moves()).toEqual({ values: { 'amp.level': -6 }, data: {}, bypass: {} })
  })

  it('outlast edits of other things, and end with an edit of the same', () => {
    const live = new Live(voice([]))
    live.play({ type: 'param', target: 'osc.frequency', value: 800 })
    live.run(0.1)
    live.change((draft) => {
      draft.modules.push({ id: 'more', type: 'lfo' })
    })
    live.change((draft) => {
      draft.modules[1]!.params!['cutoff'] = 1000
    })
    live.run(0.2)
    expect(hz(live.out, 0.15)).toBeCloseTo(800, 1)
    live.change((draft) => {
      draft.modules[0]!.params!['frequency'] = 500
    })
    live.run(0.2)
    expect(hz(live.out, 0.35)).toBeCloseTo(500, 1)
    expect(live.performance.isMoved('osc.frequency')).toBe(false)
  })
})
