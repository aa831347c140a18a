/** Playing through the command line: macros, controls and recorded performances in files, MIDI both ways. */
import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { readWav } from '../packages/core/src/formats/wav.ts'
import { hzBetween } from '../packages/core/src/testing/measure.ts'
import { ROOT } from './support/browser.ts'

const folder = mkdtempSync(join(tmpdir(), 'ypsilon-playing-'))
const file = (name: string): string => join(folder, name)
const save = (name: string, value: unknown): string => {
  writeFileSync(file(name), JSON.stringify(value))
  return file(name)
}
const run = (...args: string[]) =>
  spawnSync(process.execPath, [join(ROOT, 'ypsilon'), ...args], { encoding: 'utf8' })

const siren = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'Siren',
  modules: [
    { id: 'osc', type: 'oscillator', params: { tracking: false, frequency: 440 } },
    { id: 'out', type: 'output', params: { level: -6 } },
  ],
  cables: [{ from: 'osc.sine', to: 'out.in' }],
  macros: [
    { id: 'pitch', name: 'Pitch', value: 0.5, targets: [{ param: 'osc.frequency', from: 200, to: 3200 }] },
  ],
  controllers: [{ target: 'macro:pitch', controller: 74, low: 0, high: 1 }],
}
const patch = save('siren.ypatch.json', siren)

/** Frequency between two times of what a render with these arguments gives. */
const rendered = (...args: string[]): ((from: number, to: number) => number) => {
  const result = run('render', patch, '--out', file('o.wav'), '--bits', '32f', ...args)
  expect(result.stderr).toBe('')
  expect(result.status).toBe(0)
  const sound = readWav(new Uint8Array(readFileSync(file('o.wav'))))
  if (!sound.ok) throw new Error(sound.fault.message)
  return (from, to) => hzBetween(sound.sound.channels[0]!, from, to, sound.sound.rate)
}

describe('./ypsilon render', () => {
  it('hears macros at load, and what is set by hand over them', () => {
    expect(rendered('--seconds', '0.3')(0.05, 0.25)).toBeCloseTo(800, 1)
    expect(rendered('--seconds', '0.3', '--set', 'macro:pitch=0.75')(0.05, 0.25)).toBeCloseTo(1600, 1)
    expect(rendered('--seconds', '0.3', '--set', 'osc.frequency=330')(0.05, 0.25)).toBeCloseTo(330, 1)
    const refused = run('render', patch, '--out', file('o.wav'), '--set', 'macro:pitch=2')
    expect([refused.status, refused.stderr]).toEqual([2, 'ypsilon: --set macro:pitch: 2 is above 1\n'])
  })

  it('lets controls of event and MIDI files move what the patch maps them to', () => {
    const events = save('e.events.json', {
      format: 'ypsilon/events',
      version: 1,
      events: [
        { t: 0.2, type: 'control', controller: 74, value: 1 },
        { t: 0.5, type: 'control', controller: 74, value: 0 },
      ],
    })
    const hz = rendered('--events', events, '--seconds', '0.8')
    expect([hz(0.02, 0.18), hz(0.25, 0.45), hz(0.55, 0.75)].map(Math.round)).toEqual([800, 3200, 200])
    const converted = run('convert', events, file('e.mid'))
    expect([converted.status, converted.stderr]).toEqual([0, ''])
    const midi = rendered('--midi', file('e.mid'), '--seconds', '0.8')
    expect([midi(0.02, 0.18), midi(0.25, 0.45), midi(0.55, 0.75)].map(Math.round)).toEqual([800, 3200, 200])
  })

  it('renders a recording as its header says, and says where it was another patch', () => {
    const recording = (more: object): string =>
      save('r.events.json', {
        format: 'ypsilon/events',
        version: 1,
        rate: 44100,
        quality: 'best',
        tempo: 90,
        events: [{ t: 0, type: 'macro', target: 'pitch', value: 0.25, over: 0 }],
        ...more,
      })
    const hz = rendered('--events', recording({}), '--seconds', '0.3')
    expect(hz(0.05, 0.25)).toBeCloseTo(400, 1)
    const header = readFileSync(file('o.wav'))
    expect(header.readUInt32LE(24)).toBe(44100)
    const other = run(
      'render',
      patch,
      '--out',
      file('o.wav'),
      '--seconds',
      '0.1',
      '--events',
      recording({ patch: 'of another', engine: '0.0.1', repeatable: false }),
    )
    expect(other.status).toBe(0)
    expect(other.stderr.split('\n').filter(Boolean)).toEqual([
      'ypsilon: warning: these events were played on another patch, or on this one before it was changed',
      expect.stringContaining('engine 0.0.1'),
      expect.stringContaining('did not start from a reset engine'),
    ])
  })

  it('names events that mean nothing in the patch, and renders nothing', () => {
    const events = save('bad.events.json', {
      format: 'ypsilon/events',
      version: 1,
      events: [
        { t: 1, type: 'blend', target: 'none', x: 0, y: 0 },
        { t: 2, type: 'data', target: 'osc.a', index: 0, value: 1 },
      ],
    })
    const { status, stderr } = run('render', patch, '--out', file('none.wav'), '--events', events)
    expect(status).toBe(2)
    expect(stderr.split('\n').filter(Boolean)).toEqual([
      'ypsilon: event at 1 s, blend none: there is no such blend on the stage',
      'ypsilon: event at 2 s, osc.a: oscillator has no data "a"',
    ])
  })

  it('warns of two owners of one target', () => {
    const two = save('two.ypatch.json', {
      ...siren,
      macros: [...siren.macros, { ...siren.macros[0], id: 'other', name: 'Other', value: 0 }],
    })
    const { status, stderr } = run('render', two, '--out', file('two.wav'), '--seconds', '0.1')
    expect(status).toBe(0)
    expect(run('check', two).stdout).toContain('is also named by Pitch')
    expect(stderr).toContain(
      'macros[1].targets[0].param: osc.frequency is also named by Pitch; Other moves it, as the last in the file',
    )
  })
})

describe('./ypsilon convert', () => {
  it('names what MIDI cannot say, and comes back with all it can', () => {
    const events = save('c.events.json', {
      format: 'ypsilon/events',
      version: 1,
      tempo: 96,
      events: [
        { t: 0, type: 'on', note: 60, velocity: 1, id: 1 },
        { t: 0.5, type: 'macro', target: 'pitch', value: 1 },
        { t: 1, type: 'off', note: 60, velocity: 0, id: 1 },
      ],
    })
    const there = run('convert', events, file('c.mid'))
    expect(there.status).toBe(0)
    expect(there.stderr).toBe(
      `ypsilon: warning: ${events}: a MIDI file cannot say moves of macros (1); left out\n`,
    )
    expect(run('convert', file('c.mid'), file('back.events.json')).status).toBe(0)
    const back = JSON.parse(readFileSync(file('back.events.json'), 'utf8')) as { events: object[] }
    expect(back.events).toEqual([
      { t: 0, type: 'tempo', value: 96 },
      { t: 0, type: 'on', note: 60, velocity: 1, id: 1, channel: 1 },
      { t: 1, type: 'off', note: 60, velocity: 0, id: 1, channel: 1 },
    ])
  })

  it.each([
    [['nothing.json', 'x.mid'], 'nothing.json: '],
    [['FILE', 'x.wav'], 'name it F.mid'],
    [['FILE'], 'TO is missing'],
    [['FILE', 'FILE'], 'name it F.mid'],
  ])('refuses %j', (names, words) => {
    const events = save('x.events.json', { format: 'ypsilon/events', version: 1, events: [] })
    const { status, stderr } = run('convert', ...names.map((name) => (name === 'FILE' ? events : file(name))))
    expect(status).toBe(2)
    expect(stderr).toContain(words)
  })
})
