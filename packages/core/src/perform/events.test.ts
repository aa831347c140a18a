/** Event files, heard: every type, on its sample, live and offline. */
import { describe, expect, it } from 'vitest'
import { eventFileText, parseEventFile, type PlayerEvent } from '../notes/events.ts'
import { readMidi, writeMidiFile } from '../formats/midi.ts'
import { faultText, type Patch } from '../patch/types.ts'
import { parsePatch } from '../patch/validate.ts'
import { render } from '../render/render.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { testKernels } from '../testing/kernels.ts'
import { Live } from '../testing/live.ts'
import { hzBetween, largest, largestStep, rms } from '../testing/measure.ts'
import { patchHash } from './hash.ts'
import { Recorder } from './recorder.ts'

const RATE = 48000

const voice = (more: object = {}): Patch =>
  patchOf(
    [
      ['notes', 'notes', { voices: 2, mode: 'poly', bendRange: 12 }],
      ['osc', 'oscillator'],
      ['env', 'envelope', { attack: 0.005, release: 2 }],
      ['amp', 'amplifier'],
      ['drone', 'oscillator', { tracking: false, frequency: 100 }],
      ['sum', 'mix', { amount2: 0 }],
      ['echo', 'delayline', { time: 80, feedback: 0.9 }],
      ['out', 'output', { level: -12 }],
    ],
    [
      'notes.pitch > osc.pitch',
      'notes.gate > env.gate',
      'osc.sine > amp.in',
      'env.env > amp.cv',
      'amp.out > sum.in1',
      'drone.sine > sum.in2',
      'sum.out > out.in',
      'sum.out > echo.in * 0.2',
      'echo.out > out.in',
    ],
    more,
  )

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

describe('a recorder', () => {
  const played: Patch = voice({
    macros: [
      {
        id: 'm',
        name: 'M',
        value: 0.2,
        targets: [
          { param: 'drone.frequency', from: 100, to: 400 },
          { param: 'sum.amount2', from: 0, to: 1 },
        ],
      },
    ],
    controllers: [{ target: 'macro:m', controller: 74 }],
    snapshots: [
      {
        id: 's',
        name: 'S',
        params: { 'env.release': 0.1, 'echo.feedback': 0.2 },
        bypass: { amp: true },
        over: 0.1,
        fire: { note: 50, length: 0.2 },
      },
    ],
  })
  const start = async (patch: Patch, reset = true): Promise<Recorder> =>
    new Recorder({
      patch: await patchHash(patch),
      rate: RATE,
      quality: 'live',
      engine: '0.1.0',
      tempo: 120,
      frame: 0,
      reset,
    })

  it('keeps what is played as a file that renders to the very same samples', async () => {
    const live = new Live(played)
    const recorder = await start(played)
    live.performance.recorder = recorder
    live.play({ type: 'on', note: 57, velocity: 0.7, id: 7 })
    live.run(0.2)
    live.play({ type: 'control', controller: 74, value: 0.9 }, { type: 'control', controller: 1, value: 0.4 })
    live.run(0.1)
    live.play({ type: 'snapshot', target: 's' })
    live.run(0.4)
    live.play({ type: 'off', note: 57, id: 7 }, { type: 'tempo', value: 90 })
    live.play({ type: 'bypass', target: 'amp', value: false })
    live.run(0.3)
    live.change((draft) => {
      draft.modules[1]!.params = { fine: 20 }
    })
    live.run(0.3)
    const text = eventFileText(recorder.file())
    const file = parseEventFile(text)
    if (!file.ok) throw new Error(said(file.faults).join('\n'))
    expect(file.value.header).toMatchObject({ rate: RATE, quality: 'live', tempo: 120 })
    // What a control did stands in it, not the control itself; what nothing maps stands as it came.
    expect(file.value.events.map(({ type }) => type)).toEqual([
      'on',
      'macro',
      'control',
      'snapshot',
      'off',
      'tempo',
      'bypass',
      'param',
    ])
    const again = render(testKernels(), played, {
      events: file.value.events,
      seconds: live.out.length / RATE,
    })
    if (!again.ok) throw new Error(said(again.faults).join('\n'))
    const latency = live.runtime.guardLatency
    const offline = again.value.sound.channels[0]!
    expect(largest(offline)).toBeGreaterThan(0.05)
    expect(offline.slice(0, live.out.length - latency)).toEqual(Float32Array.from(live.out.slice(latency)))
  })

  it('ends with a structural edit, and says when it did not begin at the beginning', async () => {
    const live = new Live(played)
    const recorder = await start(played, false)
    live.performance.recorder = recorder
    live.play({ type: 'on', note: 57 })
    live.change((draft) => {
      draft.modules.push({ id: 'more', type: 'lfo' })
    })
    live.play({ type: 'on', note: 60 })
    live.run(0.01)
    expect(recorder.ended).toBe(true)
    expect(recorder.file().events).toHaveLength(1)
    expect(recorder.file().header.repeatable).toBe(false)
  })

  it('knows a patch by what is heard of it', async () => {
    const hash = await patchHash(played)
    expect(await patchHash({ ...played, name: 'Other', view: { zoom: 2 } })).toBe(hash)
    expect(await patchHash({ ...played, seed: 2 })).not.toBe(hash)
  })
})

describe('MIDI files', () => {
  const events: PlayerEvent[] = [
    { t: 0, type: 'on', note: 60, velocity: 100 / 127, id: 1, channel: 1 },
    { t: 0.25, type: 'pressure', note: 60, value: 64 / 127, channel: 1 },
    { t: 0.3, type: 'pressure', value: 32 / 127, channel: 2 },
    { t: 0.4, type: 'bend', value: 0.5, channel: 1 },
    { t: 0.45, type: 'program', program: 7, channel: 3 },
    { t: 0.5, type: 'off', note: 60, velocity: 20 / 127, id: 1, channel: 1 },
    { t: 0.5, type: 'tempo', value: 60 },
    { t: 1.5, type: 'control', controller: 7, value: 1, channel: 16 },
    { t: 2.25, type: 'silence' },
  ]

  it('say what they can, to the sample, and name what they cannot', () => {
    const more: PlayerEvent[] = [
      { t: 1, type: 'macro', target: 'm', value: 1 },
      { t: 1, type: 'snapshot', target: 's' },
      { t: 1, type: 'snapshot', target: 's' },
      { t: 1, type: 'on', note: 60.5, id: 9 },
      { t: 2, type: 'off', note: 60.5, id: 9 },
    ]
    const { bytes, lost } = writeMidiFile({
      header: { tempo: 120, patch: 'x' },
      events: [...events, ...more],
    })
    expect(lost).toEqual([
      'moves of macros (1)',
      'snapshots (2)',
      'pitches between the notes (1)',
      "the header's patch",
    ])
    expect(bytes.length).toBeGreaterThan(60)
    const plain = writeMidiFile({ header: { tempo: 120 }, events })
    expect(plain.lost).toEqual([])
    const back = readMidi(plain.bytes)
    if (!back.ok) throw new Error(said(back.faults).join('\n'))
    const [tempo, ...rest] = back.value
    expect(tempo).toEqual({ t: 0, type: 'tempo', value: 120 })
    expect(rest).toHaveLength(events.length)
    rest.forEach((event, n) => {
      const { t, ...fields } = event,
        { t: expected, ...given } = events[n]!
      expect(Math.round(t * RATE)).toBe(Math.round(expected * RATE))
      expect(fields.type).toBe(given.type)
      if ('value' in given && typeof given.value === 'number' && 'value' in fields)
        expect(fields.value).toBeCloseTo(given.value, 3)
      if ('channel' in given) expect('channel' in fields && fields.channel).toBe(given.channel)
    })
  })

  it('hold gaps longer than a file can say at once, up to the last second there is', () => {
    const far: PlayerEvent[] = [
      { t: 0, type: 'on', note: 60, velocity: 1, id: 1, channel: 1 },
      { t: 1e7, type: 'off', note: 60, velocity: 0, id: 1, channel: 1 },
    ]
    const back = readMidi(writeMidiFile({ header: { tempo: 97.3 }, events: far }).bytes)
    if (!back.ok) throw new Error(said(back.faults).join('\n'))
    expect(back.value.at(-1)!.t).toBeCloseTo(1e7, 3)
  })

  it('are the same performance, heard', () => {
    const file = {
      header: { tempo: 120 },
      events: [
        { t: 0, type: 'on', note: 57, velocity: 1, id: 1 },
        { t: 0.4, type: 'off', note: 57, velocity: 0, id: 1 },
        { t: 0.5, type: 'on', note: 69, velocity: 1, id: 2 },
        { t: 0.9, type: 'off', note: 69, velocity: 0, id: 2 },
      ] satisfies PlayerEvent[],
    }
    const back = readMidi(writeMidiFile(file).bytes)
    if (!back.ok) throw new Error('refused')
    expect(hear(voice(), 1, { events: back.value }).out).toEqual(
      hear(voice(), 1, { events: file.events }).out,
    )
  })
})

describe('an example of the contract', () => {
  it('is played with everything in it', () => {
    const patch = parsePatch(
      JSON.stringify({
        format: 'ypsilon/patch',
        version: 1,
        name: 'Harbour Bell',
        modules: [
          { id: 'notes', type: 'notes', params: { voices: 4, mode: 'poly' } },
          { id: 'osc', type: 'oscillator', params: { octave: -1, fine: 7 } },
          { id: 'filter', type: 'filter' },
          { id: 'env', type: 'envelope' },
          { id: 'out', type: 'output' },
        ],
        cables: [
          { from: 'notes.pitch', to: 'osc.pitch' },
          { from: 'notes.gate', to: 'env.gate' },
          { from: 'osc.saw', to: 'filter.in' },
          { id: 'sweep', from: 'env.env', to: 'filter.cutoff', amount: 3.5 },
          { from: 'filter.low', to: 'out.in' },
        ],
        macros: [
          {
            id: 'bright',
            name: 'Brightness',
            value: 0.3,
            step: 0,
            targets: [
              { param: 'filter.cutoff', from: 200, to: 6000, curve: 0 },
              { param: 'cable:sweep', from: 0, to: 4 },
            ],
          },
        ],
        controllers: [{ target: 'macro:bright', controller: 74, channel: 0, low: 0, high: 1 }],
        snapshots: [
          {
            id: 's1',
            name: 'Muffled',
            key: '1',
            params: { 'filter.cutoff': 300, 'cable:sweep': 1 },
            data: {},
            bypass: {},
            fire: { note: 48, velocity: 0.8, length: 0.5 },
          },
        ],
      }),
    )
    if (!patch.ok) throw new Error(said(patch.faults).join('\n'))
    const file = parseEventFile(`{ "format": "ypsilon/events", "version": 1,
      "events": [
        { "t": 0.0, "type": "on",  "note": 60, "velocity": 0.8, "id": 1 },
        { "t": 0.2, "type": "pressure", "note": 60, "value": 0.5 },
        { "t": 0.25, "type": "slide", "note": 60, "value": 0.7 }, { "t": 0.3, "type": "bend", "note": 60, "value": 0.5 },
        { "t": 0.5, "type": "off", "note": 60, "id": 1, "velocity": 0.4 },
        { "t": 0.6, "type": "param", "target": "filter.cutoff", "value": 800 },
        { "t": 0.7, "type": "macro", "target": "bright", "value": 1 },
        { "t": 0.8, "type": "snapshot", "target": "s1", "over": 0.2 },
        { "t": 0.9, "type": "bend", "value": 0.5 }, { "t": 1.0, "type": "control", "controller": 1, "value": 0.3 },
        { "t": 1.1, "type": "transport", "value": "stop" }
      ] }`)
    if (!file.ok) throw new Error(said(file.faults).join('\n'))
    const { out } = hear(patch.value, 1.5, { events: file.value.events })
    expect(largest(out, 4800, 24000)).toBeGreaterThan(0.05)
    // The snapshot fires its note.
    expect(largest(out, 40800, 57600)).toBeGreaterThan(0.05)
  })
})
