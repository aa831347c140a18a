/* eslint max-lines: ["error", 500] -- one built program */
/** The command line as outside checks use it: files in, files out, exit codes, one line a fault. */
import { spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { readWav, writeWav } from '../packages/core/src/formats/wav.ts'
import { centsBetween, frequencyOf, largest } from '../packages/core/src/testing/measure.ts'
import { ROOT } from './support/browser.ts'

const folder = mkdtempSync(join(tmpdir(), 'ypsilon-cli-'))
const file = (name: string): string => join(folder, name)
const run = (...args: string[]) =>
  spawnSync(process.execPath, [join(ROOT, 'ypsilon'), ...args], { encoding: 'utf8' })
const save = (name: string, value: unknown): string => {
  writeFileSync(file(name), typeof value === 'string' ? value : JSON.stringify(value))
  return file(name)
}
const wav = (name: string) => {
  const result = readWav(new Uint8Array(readFileSync(file(name))))
  if (!result.ok) throw new Error(result.fault.message)
  return result.sound
}

const voice = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'By hand',
  seed: 4,
  modules: [
    { id: 'notes', type: 'notes', params: { voices: 2, mode: 'poly' } },
    { id: 'osc', type: 'oscillator' },
    { id: 'env', type: 'envelope', params: { attack: 0 } },
    { id: 'amp', type: 'amplifier' },
    { id: 'out', type: 'output' },
  ],
  cables: [
    { from: 'notes.pitch', to: 'osc.pitch' },
    { from: 'notes.gate', to: 'env.gate' },
    { from: 'osc.sine', to: 'amp.in' },
    { from: 'env.env', to: 'amp.cv' },
    { id: 'last', from: 'amp.out', to: 'out.in' },
  ],
}
const patch = save('voice.ypatch.json', voice)

describe('./ypsilon render', () => {
  it('is in tune, silent before the note, the same again, of exactly the length asked for', () => {
    for (const name of ['a.wav', 'b.wav'])
      expect(
        run('render', patch, '--out', file(name), '--play', '69@0.25+2', '--seconds', '2.1', '--bits', '32f')
          .status,
      ).toBe(0)
    expect(readFileSync(file('a.wav')).equals(readFileSync(file('b.wav')))).toBe(true)
    const {
      channels: [x, right],
      rate,
    } = wav('a.wav')
    expect([rate, x!.length]).toEqual([48000, 100800])
    expect(x).toEqual(right)
    expect(x!.slice(0, 12000).every((value) => value === 0)).toBe(true)
    expect(x![12002]).not.toBe(0)
    expect(Math.abs(centsBetween(frequencyOf(x!, 440, 48000, 14400), 440))).toBeLessThan(0.05)
  })
  it('writes taps lane by lane, aligned with the output', () => {
    expect(
      run(
        'render',
        patch,
        '--out',
        file('o.wav'),
        '--tap',
        `osc.sine=${file('t.wav')}`,
        '--tap',
        `amp.out=${file('u.wav')}`,
        '--play',
        '60@0.1+0.2',
        '--seconds',
        '0.5',
        '--bits',
        '32f',
      ).status,
    ).toBe(0)
    expect(wav('t.wav').channels).toHaveLength(2)
    const amp = wav('u.wav').channels,
      out = wav('o.wav').channels[0]!
    expect(amp[1]!.every((x) => x === 0)).toBe(true)
    expect(amp[0]!.findIndex((x) => x !== 0)).toBe(4800)
    for (let i = 4800; i < 9600; i += 31) expect(out[i]!).toBeCloseTo(amp[0]![i]! * 10 ** (-6 / 20), 1)
  })
  it('takes events, settings, seeds, rates and depths', () => {
    const events = save('e.json', {
      format: 'ypsilon/events',
      version: 1,
      events: [
        { t: 0, type: 'on', note: 57 },
        { t: 0.1, type: 'param', target: 'out.level', value: -60 },
        { t: 0.1, type: 'param', target: 'cable:last', value: 0.5 },
      ],
    })
    expect(
      run(
        'render',
        patch,
        '--out',
        file('e.wav'),
        '--events',
        events,
        '--set',
        'osc.octave=1',
        '--set',
        'cable:last=0.9',
        '--rate',
        '44100',
        '--bits',
        '16',
        '--seed',
        '9',
        '--seconds',
        '0.5',
      ).status,
    ).toBe(0)
    const { rate, channels } = wav('e.wav')
    expect(rate).toBe(44100)
    expect(Math.abs(centsBetween(frequencyOf(channels[0]!, 440, 44100, 0, 4400), 440))).toBeLessThan(3)
    expect(largest(channels[0]!, 15000)).toBeLessThan(1e-4) // one step of 16 bits, with its dither, is 6e-5
  })
  it('ends with the tail and reads an input', () => {
    expect(run('render', patch, '--out', file('tail.wav'), '--play', '60@0+0.5').status).toBe(0)
    const length = wav('tail.wav').channels[0]!.length / 48000
    expect(length).toBeGreaterThan(0.5)
    expect(length).toBeLessThan(0.8)
    const through = save('in.ypatch.json', {
      format: 'ypsilon/patch',
      version: 1,
      modules: [
        { id: 'i', type: 'input' },
        { id: 'out', type: 'output', params: { level: 0 } },
      ],
      cables: [{ from: 'i.out', to: 'out.in' }],
    })
    expect(
      run(
        'render',
        through,
        '--input',
        file('tail.wav'),
        '--out',
        file('through.wav'),
        '--tap',
        `i.out=${file('i.wav')}`,
        '--seconds',
        '0.5',
      ).status,
    ).toBe(0)
    expect(wav('i.wav').channels[0]!.slice(0, 20000)).toEqual(wav('tail.wav').channels[0]!.slice(0, 20000))
  })
})

const bad: [string, unknown, string][] = [
  ['not JSON', '{"format": "ypsilon/patch",', 'this is not JSON'],
  [
    'out of range',
    { ...voice, modules: [{ id: 'f', type: 'filter', params: { cutoff: 90000 } }], cables: [] },
    'modules[0].params.cutoff: 90000 is above 20000 Hz',
  ],
  [
    'dangling cable',
    { ...voice, cables: [{ from: 'osc.saw', to: 'nobody.in' }] },
    'cables[0].to: there is no module "nobody"',
  ],
  [
    'unknown port',
    { ...voice, cables: [{ from: 'osc.saw', to: 'amp.inn' }] },
    'cables[0].to: amplifier has no input or parameter "inn"',
  ],
  [
    'unknown parameter',
    { ...voice, modules: [{ id: 'o', type: 'oscillator', params: { colour: 1 } }], cables: [] },
    'modules[0].params.colour: oscillator has no parameter "colour"',
  ],
  [
    'double id',
    { ...voice, modules: [...voice.modules, { id: 'osc', type: 'lfo' }] },
    'modules[5].id: "osc" is already the id of modules[1]',
  ],
  ['newer version', { ...voice, version: 7 }, 'version: this file is of version 7'],
  ['wrong types', { ...voice, modules: 'none' }, 'modules: expected a list, found "none"'],
]

describe('bad input', () => {
  it.each(bad)('%s: exit 2, a line naming the place, nothing written', (name, value, expected) => {
    const source = save('bad.ypatch.json', value),
      out = file(`bad-${name}.wav`)
    for (const command of [
      ['render', source, '--out', out],
      ['check', source],
    ]) {
      const result = run(...command)
      expect(result.status).toBe(2)
      expect(result.stderr).toContain(expected)
      expect(result.stderr).not.toContain('    at ')
    }
    expect(existsSync(out)).toBe(false)
  })
  it.each([
    [['render'], 'PATCH is missing'],
    [['render', patch], '--out FILE.wav is missing'],
    [['render', patch, '--out', file('x.wav'), '--bits', '12'], '--bits: "12" is not one of 16, 24, 32f'],
    [['render', patch, '--out', file('x.wav'), '--play', '60'], 'is not NOTE@START+LENGTH'],
    [
      ['render', patch, '--out', file('x.wav'), '--set', 'osc.octave=9'],
      '--set osc.octave: 9 is above 5 oct',
    ],
    [
      ['render', patch, '--out', file('x.wav'), '--tap', 'osc.nothing=y.wav'],
      '--tap osc.nothing: there is no such output port',
    ],
    [['render', file('missing.json'), '--out', file('x.wav')], 'there is no such file'],
    [
      ['render', patch, '--out', join(folder, 'no', 'such', 'x.wav'), '--seconds', '0.1'],
      'there is no such file or folder',
    ],
    [['render', patch, '--out', file('x.wav'), '--loud'], '--loud'],
    [['sing'], '"sing" is no command'],
    [
      ['render', patch, '--out', file('x.wav'), '--events', save('no.json', '{}')],
      'format: nothing is not "ypsilon/events"',
    ],
  ])('%j', (args, expected) => {
    const result = run(...args)
    expect(result.status).toBe(2)
    expect(result.stderr).toContain(expected)
    expect(existsSync(file('x.wav'))).toBe(false)
  })
})

describe('what a render says and takes besides', () => {
  const through = (level: number): string =>
    save('through.ypatch.json', {
      format: 'ypsilon/patch',
      version: 1,
      modules: [
        { id: 'i', type: 'input' },
        { id: 'out', type: 'output', params: { level } },
      ],
      cables: [{ from: 'i.out', to: 'out.in' }],
    })

  it('takes an input of any rate, at its pitch', () => {
    const x = Float32Array.from({ length: 44100 }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 441 * i) / 44100))
    writeFileSync(file('cd.wav'), writeWav({ rate: 44100, channels: [x] }, '32f'))
    const result = run(
      'render',
      through(0),
      '--input',
      file('cd.wav'),
      '--out',
      file('r.wav'),
      '--seconds',
      '1',
    )
    expect(result.status).toBe(0)
    const { rate, channels } = wav('r.wav')
    expect(rate).toBe(48000)
    expect(Math.abs(centsBetween(frequencyOf(channels[0]!, 441), 441))).toBeLessThan(0.01)
  })

  it('says by how much and how long the guard limited, and when it ended the sound', () => {
    const x = Float32Array.from({ length: 24000 }, (_, i) => Math.sin((2 * Math.PI * 300 * i) / 48000))
    writeFileSync(file('full.wav'), writeWav({ rate: 48000, channels: [x] }, '32f'))
    const at = (level: number, amount: string): string =>
      run(
        'render',
        through(level),
        '--input',
        file('full.wav'),
        '--set',
        `i.level=${amount}`,
        '--out',
        file('g.wav'),
        '--seconds',
        '0.5',
      ).stderr
    expect(at(-12, '1')).toBe('')
    expect(at(12, '1')).toMatch(/the ear guard limited 0\.\d\d s of this, by 1[23]\.\d dB at the most/)
    expect(at(12, '4')).toContain('the ear guard ended the sound')
  })

  it('writes further output pairs as further channels, and ports of groups and buses', () => {
    const source = save('pairs.ypatch.json', {
      format: 'ypsilon/patch',
      version: 1,
      modules: [
        { id: 'a', type: 'oscillator', params: { frequency: 300 } },
        {
          id: 'g',
          type: 'group',
          inside: {
            modules: [
              { id: 'b', type: 'oscillator', params: { frequency: 500 } },
              { id: 'po', type: 'portout', params: { name: 'tone' } },
            ],
            cables: [{ from: 'b.sine', to: 'po.in' }],
          },
        },
        { id: 'w', type: 'busin', params: { bus: 'x' } },
        { id: 'r', type: 'busout', params: { bus: 'x' } },
        { id: 'out', type: 'output' },
        { id: 'third', type: 'output', params: { pair: 3 } },
      ],
      cables: [
        { from: 'a.sine', to: 'w.in', amount: 0.5 },
        { from: 'a.sine', to: 'out.in' },
        { from: 'g.tone', to: 'third.in' },
      ],
    })
    const taps = ['--tap', `g.tone=${file('tone.wav')}`, '--tap', `r.out=${file('bus.wav')}`]
    const result = run('render', source, '--out', file('pairs.wav'), '--seconds', '0.5', ...taps)
    expect([result.status, result.stderr]).toEqual([0, ''])
    const { channels } = wav('pairs.wav')
    expect(channels.length).toBe(6)
    expect(Math.abs(frequencyOf(channels[0]!, 300) - 300)).toBeLessThan(0.01)
    expect(largest(channels[2]!) + largest(channels[3]!)).toBeLessThan(1e-6)
    expect(Math.abs(frequencyOf(channels[4]!, 500) - 500)).toBeLessThan(0.01)
    expect(Math.abs(frequencyOf(wav('tone.wav').channels[0]!, 500) - 500)).toBeLessThan(0.01)
    expect(largest(wav('bus.wav').channels[0]!)).toBeCloseTo(0.5, 3)
  })

  it('analyzes a sound', () => {
    const x = Float32Array.from(
      { length: 96000 },
      (_, i) => 0.5 * Math.sin((2 * Math.PI * 440 * i) / 48000) * 10 ** ((-3 * i) / 48000),
    )
    writeFileSync(file('tone.wav'), writeWav({ rate: 48000, channels: [x] }, '32f'))
    const report = JSON.parse(run('analyze', file('tone.wav'), '--json').stdout) as Record<string, number>
    expect(Object.keys(report)).toEqual(
      expect.arrayContaining([
        'rate',
        'channels',
        'seconds',
        'peakDb',
        'truePeakDb',
        'lufs',
        'pitchHz',
        'decaySeconds',
        'peaks',
        'echoDensity',
      ]),
    )
    expect(report['pitchHz']).toBeCloseTo(440, 1)
    expect(report['decaySeconds']).toBeCloseTo(1, 1)
    expect(run('analyze', file('tone.wav')).stdout).toContain('A4')
    const bad = run('analyze', save('no.wav', 'no sound'))
    expect([bad.status, bad.stdout]).toEqual([2, ''])
    expect(bad.stderr).toContain('this is not a WAV file')
  })
})

describe('check, modules and help', () => {
  it('tells loops, silence and what is unconnected', () => {
    const source = save('loop.ypatch.json', {
      format: 'ypsilon/patch',
      version: 1,
      modules: [
        { id: 'm', type: 'mix' },
        { id: 'd', type: 'delayline', params: { unit: 'samples', time: 37 } },
        { id: 'env', type: 'envelope' },
        { id: 'out', type: 'output' },
      ],
      cables: [
        { from: 'm.out', to: 'd.in' },
        { from: 'd.out', to: 'm.in1', amount: 0.9 },
      ],
    })
    const report = JSON.parse(run('check', source, '--json').stdout) as {
      loops: unknown
      silent: { place: string }[]
      unconnected: { place: string }[]
    }
    expect(report.loops).toEqual([
      { modules: ['d', 'm'], samples: 37, added: 0, delay: '37 samples at 48 kHz' },
    ])
    expect(report.silent.map((item) => item.place)).toEqual(['m', 'd', 'env'])
    expect(report.unconnected.map((item) => item.place)).toContain('env.gate')
    expect(run('check', source).stdout).toContain('loop: d → m, 37 samples')
  })
  it('lists the catalogue and helps', () => {
    const list = JSON.parse(run('modules', '--json').stdout) as {
      type: string
      inputs: { name: string }[]
      params: { name: string; kind: string }[]
    }[]
    expect(list.map((module) => module.type)).toEqual(
      expect.arrayContaining([
        'notes',
        'oscillator',
        'noise',
        'filter',
        'envelope',
        'amplifier',
        'lfo',
        'mix',
        'delayline',
        'input',
        'output',
      ]),
    )
    expect(list.find((module) => module.type === 'filter')!.params.map((param) => param.name)).toEqual([
      'cutoff',
      'resonance',
      'slope',
      'drive',
      'tracking',
      'morph',
    ])
    for (const command of ['render', 'check', 'modules', 'speed'])
      expect(run(command, '--help')).toMatchObject({ status: 0, stderr: '' })
  })
})

describe('demo patches', () => {
  it.each([
    ['reed-lamp', '48@0+3:0.8 55@0.1+3:0.7 63@0.2+3:0.7'],
    ['gull-tape', '67@0+0.2:0.9 72@1.5+0.2:0.7'],
  ])('%s sounds and does not clip', (name, play) => {
    expect(
      run(
        'render',
        join(ROOT, `demo/patches/${name}.ypatch.json`),
        '--play',
        play,
        '--out',
        file(`${name}.wav`),
        '--bits',
        '32f',
      ).status,
    ).toBe(0)
    const peak = largest(wav(`${name}.wav`).channels[0]!)
    expect(peak).toBeGreaterThan(0.15)
    // Under the ceiling of the ear guard, −1 dBFS: it never has to work.
    expect(peak).toBeLessThan(0.89)
  })
})
