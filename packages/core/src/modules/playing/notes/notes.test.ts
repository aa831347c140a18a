import { largestStep } from '../../../testing/measure.ts'
import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('notes', {
  inputs: '',
  outputs: 'pitch gate trigger velocity release pressure slide bend wheel voice scatter any held',
  params:
    'voices mode priority glide glideWhen bendRange transpose detune lowKey highKey lowVelocity highVelocity channel expression velocityCurve',
})

const ports = [
  'pitch',
  'gate',
  'trigger',
  'velocity',
  'release',
  'pressure',
  'slide',
  'bend',
  'wheel',
  'voice',
  'scatter',
  'any',
  'held',
].map((port) => `n.${port}`)
const played = (params: Record<string, number | string>, play: string, seconds = 0.5, events: never[] = []) =>
  hear(patchOf([['n', 'notes', params]], []), seconds, { play, taps: ports, events })
const at = (t: number): number => Math.round(t * 48000)

describe('notes', () => {
  it('gives pitch in octaves from C4, exactly at the sample, and keeps it after release', () => {
    const heard = played({}, '69@0.1+0.1:0.6')
    const pitch = heard.tap('n.pitch'),
      gate = heard.tap('n.gate'),
      trigger = heard.tap('n.trigger')
    expect([gate[at(0.1) - 1], gate[at(0.1)], gate[at(0.2) - 1], gate[at(0.2)]]).toEqual([0, 1, 1, 0])
    expect(pitch[at(0.1)]).toBe(0.75)
    expect(pitch[at(0.4)]).toBe(0.75)
    expect(trigger.indexOf(1)).toBe(at(0.1))
    expect([...trigger].filter((x) => x === 1)).toHaveLength(48)
    expect(heard.tap('n.velocity')[at(0.15)]).toBeCloseTo(0.6, 6)
  })
  it('rises at sample 0 for a note at time 0', () => {
    expect(played({}, '60@0+0.1').tap('n.gate')[0]).toBe(1)
  })
  it('drops the gate for one sample in mono and not in legato', () => {
    const drops = (mode: string): number[] => {
      const gate = played({ mode }, '60@0.05+0.3 64@0.15+0.3').tap('n.gate')
      return [...gate.slice(at(0.06), at(0.3))].flatMap((x, i) => (x === 0 ? [i + at(0.06)] : []))
    }
    expect(drops('mono')).toEqual([at(0.15)])
    expect(drops('legato')).toEqual([])
    expect(played({ mode: 'legato' }, '60@0.05+0.3 64@0.15+0.3').tap('n.pitch')[at(0.2)]).toBeCloseTo(
      4 / 12,
      6,
    )
  })
  it('goes back to the held note, by priority', () => {
    const pitchAt = (priority: string, t: number): number =>
      Math.round(12 * played({ priority }, '60@0+0.4 67@0.1+0.1 55@0.25+0.1').tap('n.pitch')[at(t)]!)
    expect([0.05, 0.15, 0.22, 0.3, 0.38].map((t) => pitchAt('last', t))).toEqual([0, 7, 0, -5, 0])
    expect([0.05, 0.15, 0.3].map((t) => pitchAt('low', t))).toEqual([0, 0, -5])
    expect([0.05, 0.15, 0.3].map((t) => pitchAt('high', t))).toEqual([0, 7, 0])
  })
  it('uses voices oldest released first, then steals the oldest held with one sample of gate 0', () => {
    const heard = played({ voices: 2, mode: 'poly' }, '60@0+0.1 64@0.02+0.45 67@0.2+0.25 71@0.3+0.15')
    const [a, b] = heard.lanes('n.pitch'),
      gates = heard.lanes('n.gate')
    expect([a, b].map((lane) => Math.round(12 * lane![at(0.05)]!))).toEqual([0, 4])
    expect(Math.round(12 * a![at(0.25)]!)).toBe(7)
    expect(Math.round(12 * b![at(0.35)]!)).toBe(11) // 64 was held longest
    expect([gates[1]![at(0.3) - 1], gates[1]![at(0.3)], gates[1]![at(0.3) + 1]]).toEqual([1, 0, 1])
  })
  it('drops the gate when off and on fall on one sample', () => {
    const gate = played({}, '60@0+0.1 60@0.1+0.1').tap('n.gate')
    expect([gate[at(0.1) - 1], gate[at(0.1)], gate[at(0.1) + 1]]).toEqual([1, 0, 1])
  })
  it('glides linearly in pitch over its time', () => {
    const pitch = played({ glide: 0.1 }, '60@0+0.1 72@0.1+0.3').tap('n.pitch')
    expect(pitch[at(0.05)]).toBe(0)
    expect(pitch[at(0.15)]).toBeCloseTo(0.5, 3)
    expect(pitch[at(0.2) + 1]).toBeCloseTo(1, 5)
    const legato = played({ glide: 0.1, glideWhen: 'legato' }, '60@0+0.05 72@0.1+0.3').tap('n.pitch')
    expect(legato[at(0.1)]).toBe(1)
  })
  it('bends, transposes, presses, slides, scatters and sustains', () => {
    const events = [
      { t: 0.1, type: 'bend', value: 0.5 },
      { t: 0.1, type: 'pressure', note: 60, value: 0.7 },
      { t: 0.1, type: 'slide', note: 60, value: 0.2 },
      { t: 0.1, type: 'control', controller: 1, value: 0.4 },
      { t: 0.12, type: 'control', controller: 64, value: 1 },
      { t: 0.3, type: 'control', controller: 64, value: 0 },
    ] as never[]
    const heard = played({ transpose: 12, bendRange: 4 }, '60@0+0.2', 0.5, events)
    expect(heard.tap('n.pitch')[at(0.15)]).toBeCloseTo(1 + 2 / 12, 6)
    expect(heard.tap('n.bend')[at(0.15)]).toBeCloseTo(2 / 12, 6)
    expect(heard.tap('n.pressure')[at(0.15)]).toBeCloseTo(0.7, 6)
    expect(heard.tap('n.slide')[at(0.15)]).toBeCloseTo(0.2, 6)
    expect(heard.tap('n.wheel')[at(0.15)]).toBeCloseTo(0.4, 6)
    expect(heard.tap('n.gate')[at(0.25)]).toBe(1)
    expect(heard.tap('n.gate')[at(0.3)]).toBe(0)
    expect(heard.tap('n.held')[at(0.25)]).toBe(1)
    expect(Math.abs(heard.tap('n.scatter')[at(0.1)]!)).toBeLessThanOrEqual(1)
  })
  it('keeps to its key and velocity zones and channel', () => {
    expect(played({ lowKey: 61 }, '60@0+0.1').tap('n.gate')[100]).toBe(0)
    expect(played({ highVelocity: 0.5 }, '60@0+0.1:0.8').tap('n.gate')[100]).toBe(0)
    const events = [{ t: 0, type: 'on', note: 60, channel: 2 }] as never[]
    expect(played({ channel: 1 }, '', 0.1, events).tap('n.gate')[100]).toBe(0)
    expect(played({ channel: 2 }, '', 0.1, events).tap('n.gate')[100]).toBe(1)
  })
  it('bends single notes with MPE', () => {
    const events = [
      { t: 0, type: 'on', note: 60, id: 1, channel: 2 },
      { t: 0, type: 'on', note: 64, id: 2, channel: 3 },
      { t: 0.1, type: 'bend', value: 1, channel: 3 },
    ] as never[]
    const [a, b] = played(
      { voices: 2, mode: 'poly', expression: 'mpe', bendRange: 12 },
      '',
      0.2,
      events,
    ).lanes('n.pitch')
    expect(a![at(0.15)]).toBeCloseTo(0, 6)
    expect(b![at(0.15)]).toBeCloseTo(4 / 12 + 1, 5)
  })

  it('lets touches arrive over 5 ms, and begins a note with its own at once', () => {
    const patch = patchOf([['n', 'notes', { voices: 2, mode: 'poly', bendRange: 12 }]], [])
    const ports = ['pressure', 'slide', 'bend', 'wheel', 'pitch']
    const heard = hear(patch, 0.5, {
      taps: ports.map((port) => `n.${port}`),
      events: [
        { t: 0, type: 'on', note: 60, velocity: 1, id: 1 },
        { t: 0.1, type: 'pressure', note: 60, value: 1 },
        { t: 0.1, type: 'slide', note: 60, value: 0.5 },
        { t: 0.1, type: 'bend', value: 1 },
        { t: 0.1, type: 'control', controller: 1, value: 1 },
        // On the way already: from where it is.
        { t: 0.1025, type: 'bend', value: 0 },
        { t: 0.2, type: 'on', note: 72, velocity: 1, id: 2 },
      ],
    })
    for (const [port, goal] of [
      ['pressure', 1],
      ['slide', 0.5],
      ['wheel', 1],
    ] as const) {
      const x = heard.lanes(`n.${port}`)[0]!
      expect(x[4799], port).toBe(0)
      for (let i = 0; i < 240; i += 1) expect(x[4800 + i]!, port).toBeCloseTo((goal * (i + 1)) / 240, 5)
      expect(x[5040], port).toBe(goal)
    }
    const bend = heard.lanes('n.bend')[0]!
    expect(bend[4919]!).toBeCloseTo(0.5, 5)
    expect(bend[4920]!).toBeCloseTo(0.5 * (1 - 1 / 240), 5)
    expect(bend[5160]).toBe(0)
    expect(heard.lanes('n.pitch')[0]![4919]!).toBeCloseTo(0.5, 5)
    // A new note knows nothing of the touches of the one before.
    expect(heard.lanes('n.pressure')[1]![9600]).toBe(0)
  })

  it('fades the only voice of a poly patch when it is stolen', () => {
    const patch = patchOf(
      [
        ['n', 'notes', { voices: 1, mode: 'poly' }],
        ['o', 'oscillator', { frequency: 100, startPhase: 0.25 }],
        ['e', 'envelope', { attack: 0.02, sustain: 1 }],
        ['a', 'amplifier'],
        ['s', 'sum'],
      ],
      ['n.gate > e.gate', 'n.trigger > o.reset', 'o.sine > a.in', 'e.env > a.cv', 'a.out > s.in'],
    )
    const at = 9600 + 240
    const heard = hear(patch, 0.4, {
      play: `60@0+0.4 64@${at / 48000}+0.2`,
      taps: ['s.out', 'a.out'],
    })
    const [voice, sum] = [heard.tap('a.out'), heard.tap('s.out')]
    // The phase begins anew: the voice itself jumps, the sum takes 2 ms for it.
    expect(Math.abs(voice[at]! - voice[at - 1]!)).toBeGreaterThan(0.9)
    expect(largestStep(sum, at - 10, at + 200)).toBeLessThan(0.05)
    expect(sum[at + 200]).toBe(voice[at + 200])
  })
})
