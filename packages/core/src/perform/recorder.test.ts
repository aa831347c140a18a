/** What is played, as files: recordings, MIDI, and an example of the contract. */
import { describe, expect, it } from 'vitest'
import { eventFileText, parseEventFile, type PlayerEvent } from '../notes/events.ts'
import { readMidi, writeMidiFile } from '../formats/midi.ts'
import { faultText, type Patch } from '../patch/types.ts'
import { parsePatch } from '../patch/validate.ts'
import { render } from '../render/render.ts'
import { hear } from '../testing/bench.ts'
import { testKernels } from '../testing/kernels.ts'
import { Live } from '../testing/live.ts'
import { playedVoice as voice } from '../testing/patches.ts'
import { largest } from '../testing/measure.ts'
import { patchHash } from './hash.ts'
import { Recorder } from './recorder.ts'

const RATE = 48000

const said = (...faults: readonly (readonly { place: string; message: string }[])[]): string[] =>
  faults.flat().map(faultText)

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
