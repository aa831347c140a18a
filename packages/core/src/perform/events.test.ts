/** Event files, heard: every type, on its sample, live and offline. */
import { describe, expect, it } from 'vitest'
import { eventFileText, parseEventFile, type PlayerEvent } from '../notes/events.ts'
import { faultText } from '../patch/types.ts'
import { render } from '../render/render.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { testKernels } from '../testing/kernels.ts'
import { hzBetween, largest, largestStep, rms } from '../testing/measure.ts'
import { playedVoice as voice } from '../testing/patches.ts'

const RATE = 48000

const said = (...faults: readonly (readonly { place: string; message: string }[])[]): string[] =>
  faults.flat().map(faultText)

describe('events', () => {
  it('bends and touches single notes and whole channels', () => {
    const { out } = hear(voice(), 1, {
      events: [
        { t: 0, type: 'on', note: 57, id: 1 },
        { t: 0.3, type: 'bend', value: 1 },
        { t: 0.6, type: 'bend', value: -1 },
      ],
    })
    expect(hzBetween(out, 0.1, 0.25)).toBeCloseTo(220, 0)
    expect(hzBetween(out, 0.4, 0.55)).toBeCloseTo(440, 0)
    expect(hzBetween(out, 0.8, 0.95)).toBeCloseTo(110, 0)
  })

  it('play notes between the keys, as hard as they can be where nothing is said', () => {
    const heard = hear(voice(), 0.5, { events: [{ t: 0, type: 'on', note: 60.5 }], taps: ['notes.velocity'] })
    expect(hzBetween(heard.out, 0.1, 0.45)).toBeCloseTo(261.6256 * 2 ** (0.5 / 12), 1)
    expect(heard.tap('notes.velocity')[9600]).toBe(1)
  })

  it('end the newest note of a pitch where no id is given, and keep what the pedal holds', () => {
    const gates = hear(voice(), 1, {
      events: [
        { t: 0, type: 'on', note: 60, id: 1 },
        { t: 0.1, type: 'on', note: 60, id: 2 },
        { t: 0.2, type: 'off', note: 60 },
        { t: 0.3, type: 'control', controller: 64, value: 1 },
        { t: 0.4, type: 'off', note: 60, id: 1 },
        { t: 0.6, type: 'control', controller: 64, value: 0 },
      ],
      taps: ['notes.gate'],
    }).lanes('notes.gate')
    const at = (t: number): number[] => gates.map((gate) => gate[Math.round(t * RATE)]!)
    expect(at(0.15)).toEqual([1, 1])
    expect(at(0.25)).toEqual([1, 0])
    expect(at(0.5)).toEqual([1, 0])
    expect(at(0.65)).toEqual([0, 0])
  })

  it('end notes before they begin others at one time, and else keep the order of the file', () => {
    const gate = hear(voice(), 0.5, {
      events: [
        { t: 0.1, type: 'on', note: 60 },
        { t: 0.1, type: 'off', note: 60 },
        { t: 0.2, type: 'param', target: 'osc.fine', value: 50 },
        { t: 0.2, type: 'param', target: 'osc.fine', value: 0 },
      ],
      taps: ['notes.gate', 'osc.sine'],
    })
    expect(gate.tap('notes.gate')[14400]).toBe(1)
    expect(hzBetween(gate.tap('osc.sine'), 0.25, 0.45)).toBeCloseTo(261.63, 1)
  })

  it('begin with the transport running at beat 0', () => {
    const beat = hear(
      patchOf(
        [
          ['clock', 'clock'],
          ['out', 'output'],
        ],
        ['clock.beat > out.in'],
        { tempo: 120 },
      ),
      1.1,
      { taps: ['clock.beat'] },
    ).tap('clock.beat')
    const rises = [...beat.keys()].filter((n) => beat[n]! > 0.5 && !(beat[n - 1]! > 0.5))
    expect(rises).toEqual([0, 24000, 48000])
  })

  it('take effect on their sample', () => {
    const patch = patchOf(
      [
        ['v', 'value'],
        ['out', 'output'],
      ],
      ['v.out > out.in'],
    )
    const t = 0.10001
    const { tap } = hear(patch, 0.2, {
      events: [{ t, type: 'param', target: 'v.value', value: 0.7 }],
      taps: ['v.out'],
    })
    expect(tap('v.out').findIndex((x) => x !== 0)).toBe(Math.round(t * RATE))
  })

  it('change an entry of a sequence while it runs, and only that', () => {
    const patch = patchOf(
      [
        ['clock', 'clock'],
        ['steps', 'steps', { length: 4 }, { data: { a: [0, 12] } }],
        ['osc', 'oscillator', { semitones: 0 }],
        ['out', 'output', { level: -12 }],
      ],
      ['clock.beat > steps.clock', 'steps.a > osc.pitch', 'osc.sine > out.in'],
      { tempo: 120 },
    )
    // Steps of half a second: 0, 12, 0, 0; the last becomes −12 while the second plays, then the second 24.
    const { out } = hear(patch, 4, {
      events: [
        { t: 0.6, type: 'data', target: 'steps.a', index: 3, value: -12 },
        { t: 1.2, type: 'data', target: 'steps.a', index: 1, value: 24 },
      ],
    })
    const base = 261.6256
    const expected = [1, 2, 1, 0.5, 1, 4, 1, 0.5].map((ratio) => ratio * base)
    expected.forEach((hz, n) => expect(hzBetween(out, n * 0.5 + 0.1, n * 0.5 + 0.45)).toBeCloseTo(hz, 0))
  })

  it('change a drawn list at the moment it is heard, without a click', () => {
    const patch = patchOf(
      [
        ['osc', 'partials', { count: 4 }, { data: { levels: [1, 0, 0, 0] } }],
        ['out', 'output', { level: -12 }],
      ],
      ['osc.out > out.in'],
    )
    const { out } = hear(patch, 0.6, {
      events: [{ t: 0.3, type: 'data', target: 'osc.levels', value: [0, 1, 0, 0] }],
    })
    expect(hzBetween(out, 0.1, 0.28)).toBeCloseTo(261.63, 1)
    expect(hzBetween(out, 0.32, 0.58)).toBeCloseTo(523.25, 1)
    expect(largestStep(out, 14000, 15200)).toBeLessThan(1.5 * largestStep(out, 20000, 28000))
  })

  it('bypass and let through again, without a click', () => {
    const patch = patchOf(
      [
        ['osc', 'oscillator', { tracking: false, frequency: 200 }],
        ['amp', 'amplifier', { level: -12 }],
        ['out', 'output', { level: -12 }],
      ],
      ['osc.sine > amp.in', 'amp.out > out.in'],
    )
    const { out } = hear(patch, 0.9, {
      events: [
        { t: 0.3, type: 'bypass', target: 'amp', value: true },
        { t: 0.6, type: 'bypass', target: 'amp', value: false },
      ],
    })
    const low = rms(out, 4800, 14400),
      high = rms(out, 19200, 28800)
    expect(low / high).toBeCloseTo(10 ** (-12 / 20), 3)
    expect(rms(out, 33600, 43200)).toBeCloseTo(low, 4)
    expect(largestStep(out)).toBeLessThan(1.1 * largestStep(out, 19200, 28800))
  })

  it('set the tempo, stop, go on where it stopped, and start anew', () => {
    const patch = patchOf(
      [
        ['clock', 'clock'],
        ['steps', 'steps', { length: 8 }, { data: { a: [0, 12, 24, 36, -12, -24, 0, 0] } }],
        ['out', 'output'],
      ],
      ['clock.beat > steps.clock', 'clock.start > steps.reset', 'steps.a > out.in'],
      { tempo: 120 },
    )
    const { tap } = hear(patch, 5, {
      events: [
        { t: 0.75, type: 'tempo', value: 240 },
        // Beat 1.5 at 0.75 s; from there four beats a second: beat 2 at 0.875, beat 3 at 1.125.
        { t: 1.2, type: 'transport', value: 'stop' },
        { t: 2.2, type: 'transport', value: 'continue' },
        // Beat 3.3 when it stopped: beat 4 is 0.175 s after it goes on.
        { t: 3, type: 'transport', value: 'start' },
      ],
      taps: ['steps.a'],
    })
    const a = tap('steps.a')
    const at = (t: number): number => Math.round(12 * a[Math.round(t * RATE)]!)
    expect([0.1, 0.6, 0.86, 0.89, 1.11, 1.14].map(at)).toEqual([0, 12, 12, 24, 24, 36])
    expect([1.3, 2.1, 2.36, 2.39].map(at)).toEqual([36, 36, 36, -12])
    expect(at(3.01)).toBe(0)
    expect(at(3.3)).toBe(12)
  })

  it('silence everything within 30 ms: notes, drones, tails; until somebody plays', () => {
    const patch = {
      ...voice(),
      modules: voice().modules.map((module) =>
        module.id === 'sum' ? { ...module, params: { amount2: 0.3 } } : module,
      ),
    }
    const { out } = hear(patch, 3, {
      events: [
        { t: 0, type: 'on', note: 60, id: 1 },
        { t: 0.5, type: 'silence' },
        { t: 1.5, type: 'on', note: 72, id: 2 },
        { t: 1.8, type: 'off', note: 72, id: 2 },
        { t: 2, type: 'silence' },
        { t: 2.5, type: 'silence', value: false },
      ],
    })
    expect(largest(out, 19200, 24000)).toBeGreaterThan(0.1)
    expect(largest(out, 25440, 71520)).toBe(0)
    expect(largestStep(out, 23520, 25920)).toBeLessThan(0.05)
    // The note that ends it sounds, with the drone; the old note and its echoes are gone.
    expect(largest(out, 72480, 86400)).toBeGreaterThan(0.1)
    expect(largest(out, 97440, 119520)).toBe(0)
    expect(hzBetween(out, 2.6, 2.9)).toBeCloseTo(100, 0)
    const fresh = hear(voice(), 1.3, {
      events: [
        { t: 0, type: 'on', note: 60, id: 1 },
        { t: 0.5, type: 'silence' },
        { t: 1, type: 'silence', value: false },
      ],
    }).out
    expect(largest(fresh, 48000, 62400)).toBe(0)
  })

  it('are refused by their time where they mean nothing in a patch', () => {
    const events = [
      { t: 1, type: 'param', target: 'osc.colour', value: 1 },
      { t: 2, type: 'param', target: 'notes.voices', value: 3 },
      { t: 3, type: 'macro', target: 'none', value: 1 },
      { t: 4, type: 'snapshot', target: 'none' },
      { t: 5, type: 'blend', target: 'none', x: 0, y: 0 },
      { t: 6, type: 'data', target: 'osc.levels', index: 0, value: 1 },
      { t: 7, type: 'bypass', target: 'osc', value: true },
      { t: 8, type: 'bypass', target: 'none', value: true },
      { t: 9, type: 'param', target: 'osc.fine', value: '= 3' },
      { t: 10, type: 'param', target: 'osc.fine', value: 300 },
    ] as PlayerEvent[]
    const result = render(testKernels(), voice(), { events, seconds: 1 })
    const words = result.ok ? [] : said(result.faults)
    expect(words).toHaveLength(events.length)
    words.forEach((text, n) => expect(text.startsWith(`event at ${n + 1} s, `)).toBe(true))
    expect(words[1]).toContain('is set only')
    expect(words[6]).toContain('oscillator cannot be bypassed')
    expect(words[8]).toContain('a formula cannot be set')
  })

  it('are named by their place where they are not as they must be', () => {
    const file = parseEventFile(
      JSON.stringify({
        format: 'ypsilon/events',
        version: 1,
        rate: 3,
        quality: 'good',
        events: [
          { t: 0, type: 'tempo', value: 10 },
          { t: 0, type: 'blend', target: 'b', x: 2, y: 0 },
          { t: 0, type: 'bypass', target: 'b', value: 1 },
          { t: 0, type: 'program', program: 200 },
          { t: 0, type: 'data', target: 'b' },
          { t: 0, type: 'macro', target: 'm', value: 1, over: -1 },
        ],
      }),
    )
    expect(file.ok ? [] : said(file.faults)).toEqual([
      'rate: 3 is below 8000',
      'quality: "good" is not one of live, best',
      'events[0].value: 10 is outside 20…300',
      'events[1].x: 2 is outside 0…1',
      'events[2].value: expected true or false, found 1',
      'events[3].program: 200 is outside 0…127',
      'events[4].value: is missing',
      'events[5].over: -1 is outside 0…3600',
    ])
  })

  it('keep unknown fields, of the file and of every event', () => {
    const text = JSON.stringify({
      format: 'ypsilon/events',
      version: 1,
      mood: 'calm',
      events: [{ t: 0, type: 'on', note: 60, colour: 'red' }],
    })
    const file = parseEventFile(text)
    if (!file.ok) throw new Error('refused')
    expect(JSON.parse(eventFileText(file.value))).toEqual(JSON.parse(text))
  })
})
