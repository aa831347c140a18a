/* eslint max-lines: ["error", 500] -- one page: files in and out of it */
/** What the command line reads and writes: nothing is overwritten, nothing followed out, nothing half done. */
import { spawn, spawnSync } from 'node:child_process'
import {
  chmodSync,
  existsSync,
  linkSync,
  lstatSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strToU8, zipSync } from 'fflate'
import { beforeEach, describe, expect, it } from 'vitest'
import { readWav, wavHeader, writeWav } from '../packages/core/src/formats/wav.ts'
import { Archive } from '../packages/core/src/formats/archive.ts'
import * as hard from '../packages/core/src/testing/hard.ts'
import { takeAll, targetsFor } from '../packages/cli/src/targets.ts'
import { ROOT } from './support/browser.ts'

let folder = ''
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'ypsilon-files-'))
})
const at = (name: string): string => join(folder, name)
const save = (name: string, value: unknown): string => {
  writeFileSync(
    at(name),
    typeof value === 'string' || value instanceof Uint8Array ? value : JSON.stringify(value),
  )
  return at(name)
}
/** No answer within this is a hang, on any machine. */
const LIMIT_MS = 60_000
const run = (...args: string[]) =>
  spawnSync(process.execPath, [join(ROOT, 'ypsilon'), ...args], {
    encoding: 'utf8',
    timeout: LIMIT_MS,
    cwd: folder,
  })
/** Refused as bad input: every line short, plain and about this program. */
const refused = (...args: string[]): string => {
  const { status, stderr } = run(...args)
  expect(status, stderr).toBe(2)
  const lines = stderr.trimEnd().split('\n')
  expect(lines.length).toBeLessThanOrEqual(51)
  for (const line of lines) {
    expect(line).toMatch(/^ypsilon: /)
    expect(line.length).toBeLessThanOrEqual(300)
    expect(line).not.toMatch(/[\u0000-\u001f\u007f-\u009f\u202a-\u202e]/)
  }
  return stderr
}
const leftovers = (): string[] => readdirSync(folder).filter((name) => name.includes('.part-'))

const tone = {
  format: 'ypsilon/patch',
  version: 1,
  modules: [
    { id: 'osc', type: 'oscillator' },
    { id: 'out', type: 'output' },
  ],
  cables: [{ id: 'c', from: 'osc.sine', to: 'out.in', amount: 0.1 }],
}
const wav = (frames = 100): Uint8Array =>
  writeWav({ rate: 48000, channels: [Float32Array.from({ length: frames }, (_, i) => Math.sin(i))] }, '16')

describe('output files', () => {
  it('are never an input: by its name, by a link, by a hard link', () => {
    const patch = save('p.json', tone),
      before = readFileSync(patch, 'utf8')
    symlinkSync('p.json', at('link.json'))
    linkSync(patch, at('hard.json'))
    mkdirSync(at('deep'))
    for (const name of ['p.json', 'link.json', 'hard.json', 'deep/../p.json'])
      expect(refused('render', patch, '--out', at(name), '--seconds', '0.01')).toContain('which is read')
    const events = save('e.json', { format: 'ypsilon/events', version: 1, events: [] })
    expect(refused('render', patch, '--out', events, '--events', events)).toContain('which is read')
    const input = save('in.wav', wav())
    expect(
      refused('render', patch, '--out', at('o.wav'), '--tap', `osc.sine=${input}`, '--input', input),
    ).toContain('which is read')
    expect(readFileSync(patch, 'utf8')).toBe(before)
    expect(existsSync(at('o.wav'))).toBe(false)
    expect(leftovers()).toEqual([])
  })

  it('are never two of one, whether they are there or not', () => {
    const patch = save('p.json', tone)
    symlinkSync('a.wav', at('b.wav'))
    for (const name of ['a.wav', './a.wav', 'b.wav'])
      expect(
        refused('render', patch, '--out', 'a.wav', '--tap', `osc.sine=${name}`, '--seconds', '0.01'),
      ).toContain('is the same file')
    expect(existsSync(at('a.wav'))).toBe(false)
  })

  it('follow links, keep their modes, and go straight into what is no file', () => {
    const patch = save('p.json', tone)
    save('real.wav', 'old')
    chmodSync(at('real.wav'), 0o640)
    symlinkSync('real.wav', at('l.wav'))
    expect(run('render', patch, '--out', at('l.wav'), '--seconds', '0.01').status).toBe(0)
    expect(lstatSync(at('l.wav')).isSymbolicLink()).toBe(true)
    expect(statSync(at('real.wav')).mode & 0o777).toBe(0o640)
    expect(readWav(new Uint8Array(readFileSync(at('real.wav')))).ok).toBe(true)
    expect(run('render', patch, '--out', '/dev/null', '--seconds', '0.01').status).toBe(0)
    expect(statSync('/dev/null').isCharacterDevice()).toBe(true)
    const piped = spawnSync(
      '/bin/sh',
      [
        '-c',
        `"${process.execPath}" "${join(ROOT, 'ypsilon')}" render p.json --out /dev/stdout --seconds 0.01 | cat`,
      ],
      { cwd: folder },
    )
    expect(readWav(new Uint8Array(piped.stdout)).ok).toBe(true)
    expect(leftovers()).toEqual([])
  })

  it('come all or not at all', () => {
    const patch = save('p.json', tone)
    save('tap.wav', 'as it was')
    expect(
      refused('render', patch, '--out', '/dev/full', '--tap', `osc.sine=${at('tap.wav')}`, '--seconds', '1'),
    ).toContain('the disk is full')
    expect(readFileSync(at('tap.wav'), 'utf8')).toBe('as it was')
    mkdirSync(at('dir.wav'))
    refused('render', patch, '--out', at('x.wav'), '--tap', `osc.sine=${at('dir.wav')}`)
    refused('render', patch, '--out', at('nowhere/x.wav'))
    expect(existsSync(at('x.wav'))).toBe(false)
    expect(leftovers()).toEqual([])
  })

  it('leave nothing behind when the render is stopped', async () => {
    const patch = save('p.json', tone)
    const child = spawn(process.execPath, [
      join(ROOT, 'ypsilon'),
      'render',
      patch,
      '--out',
      at('o.wav'),
      '--seconds',
      '7200',
    ])
    while (leftovers().length === 0) await new Promise((resolve) => setTimeout(resolve, 20))
    child.kill('SIGTERM')
    await new Promise((resolve) => child.once('exit', resolve))
    expect(leftovers()).toEqual([])
    expect(existsSync(at('o.wav'))).toBe(false)
  })
})

describe('time', () => {
  it('refuses what nobody can have meant, before anything is written', () => {
    const patch = save('p.json', tone)
    expect(refused('render', patch, '--out', 'o.wav', '--seconds', '36000', '--rate', '192000')).toContain(
      '--force',
    )
    expect(refused('render', patch, '--out', 'o.wav', '--play', '60@30000+1')).toContain('--force')
    refused('render', patch, '--out', 'o.wav', '--play', '60@99999999999+1')
    const many = ['--tap', 'osc.saw=a.wav', '--tap', 'osc.sine=b.wav', '--tap', 'osc.pulse=c.wav']
    expect(
      refused('render', patch, '--out', 'o.wav', '--seconds', '20000', '--rate', '192000', ...many),
    ).toContain('16')
    // Forced, it is the disk that counts.
    expect(
      refused('render', patch, '--out', 'o.wav', '--seconds', '9000000', '--rate', '192000', '--force'),
    ).toContain('free')
  })

  it('gives long renders the same bytes as short ones, and ends where the sound does', () => {
    const patch = save('p.json', {
      ...tone,
      modules: [...tone.modules, { id: 'n', type: 'notes' }, { id: 'a', type: 'amplifier' }],
      cables: [
        { from: 'osc.sine', to: 'a.in' },
        { from: 'n.gate', to: 'a.cv' },
        { from: 'a.out', to: 'out.in', amount: 0.2 },
      ],
    })
    // Longer than a step, with silence in between longer than a tail.
    const play = ['--play', '60@0.1+0.2 62@2.5+0.3']
    expect(run('render', patch, '--out', 'tail.wav', '--tap', 'osc.sine=tap.wav', ...play).status).toBe(0)
    expect(run('render', patch, '--out', 'long.wav', '--seconds', '4', ...play).status).toBe(0)
    const sound = (name: string) => {
      const result = readWav(new Uint8Array(readFileSync(at(name))))
      if (!result.ok) throw new Error(result.fault.message)
      return result.sound.channels[0]!
    }
    const tail = sound('tail.wav')
    expect(Math.abs(tail.length / 48000 - 2.8)).toBeLessThan(0.05)
    expect(tail).toEqual(sound('long.wav').subarray(0, tail.length))
    expect(sound('tap.wav').length).toBe(tail.length)
  })

  it('writes files beyond 4 GiB with sizes that hold them', () => {
    const shape = { rate: 48000, channels: 2, frames: 2 ** 30, bits: '32f' } as const
    const head = wavHeader(shape),
      view = new DataView(head.buffer)
    expect(new TextDecoder().decode(head.subarray(0, 4))).toBe('RF64')
    expect(new TextDecoder().decode(head.subarray(12, 16))).toBe('ds64')
    expect(view.getBigUint64(28, true)).toBe(2n ** 33n)
    expect(view.getBigUint64(20, true)).toBe(BigInt(head.length - 8) + 2n ** 33n)
    // Such a head before a few samples is read as what it is.
    const short = new Uint8Array(head.length + 16)
    short.set(head)
    const read = readWav(short)
    expect(read.ok && read.sound.channels[0]!.length).toBe(2)
  })
})

const zip = (entries: Record<string, Uint8Array | string>, level: 0 | 9 = 9): Uint8Array =>
  zipSync(
    Object.fromEntries(
      Object.entries(entries).map(([name, value]) => [
        name,
        typeof value === 'string' ? strToU8(value) : value,
      ]),
    ),
    { level },
  )
const sampled = (file: string, more: object = {}) => ({
  ...tone,
  assets: { quay: { kind: 'audio', file, ...more } },
})

describe('archives and folders', () => {
  it('reads an archive with its audio', () => {
    const patch = save(
      'p.zip',
      zip({ 'patch.json': JSON.stringify(sampled('assets/q.wav')), 'assets/q.wav': wav() }),
    )
    expect(run('check', patch).status).toBe(0)
  })

  it('never follows a link out of the folder, and prints nothing of what is there', () => {
    const outside = mkdtempSync(join(tmpdir(), 'ypsilon-outside-'))
    writeFileSync(join(outside, 'secret.txt'), 'THE SECRET LINE\n')
    mkdirSync(at('assets'))
    symlinkSync(join(outside, 'secret.txt'), at('assets/s.txt'))
    symlinkSync(outside, at('out'))
    for (const file of ['assets/s.txt', 'out/secret.txt', '../x', '/etc/passwd', 'a/../../x', 'a\\..\\b'])
      for (const asset of [
        { kind: 'tuning', file },
        { kind: 'audio', file },
      ]) {
        const patch = save('p.json', { ...tone, tuning: 'equal', assets: { t: asset } })
        expect(refused('check', patch)).not.toContain('SECRET')
      }
    // A link that stays inside is followed.
    writeFileSync(at('assets/q.wav'), wav())
    symlinkSync('q.wav', at('assets/r.wav'))
    expect(run('check', save('p.json', sampled('assets/r.wav'))).status).toBe(0)
  })

  it('warns of what is missing, by its id and place, and plays the rest', () => {
    for (const patch of [
      save('p.json', sampled('assets/none.wav')),
      save('p.zip', zip({ 'patch.json': JSON.stringify(sampled('assets/none.wav')) })),
    ]) {
      const { status, stderr } = run('render', patch, '--out', at('o.wav'), '--seconds', '0.01')
      expect(status).toBe(0)
      expect(stderr).toContain('assets.quay: there is no assets/none.wav')
    }
  })

  it('refuses damaged, doubled and dangerous entries', () => {
    const good = zip({ 'patch.json': JSON.stringify(tone) }, 0)
    const damaged = good.slice()
    damaged[60] = damaged[60]! ^ 1
    expect(refused('check', save('a.zip', damaged))).toContain('checksum')
    expect(refused('check', save('b.zip', good.subarray(0, good.length - 10)))).toContain('directory')
    expect(refused('check', save('c.zip', zip({ 'patch.json': '{}', '../evil': 'x' })))).toContain('../evil')
    expect(refused('check', save('d.zip', zip({ 'other.json': '{}' })))).toContain('no patch.json')
    const names = zip({ 'patch.json': JSON.stringify(tone), 'patch.jsoN': '{}' }, 0)
    const twice = Buffer.from(names)
    for (let i = twice.indexOf('patch.jsoN'); i >= 0; i = twice.indexOf('patch.jsoN', i + 1))
      twice[i + 9] = 0x6e
    expect(refused('check', save('e.zip', new Uint8Array(twice)))).toContain('twice')
  })

  it('unpacks only what is named, and no more than it may', () => {
    const zeros = new Uint8Array(2 ** 26)
    const unused = zip({ 'patch.json': JSON.stringify(tone), 'unused.bin': zeros })
    expect(run('check', save('u.zip', unused)).status).toBe(0)
    expect(refused('check', save('h.zip', zip({ 'patch.json': zeros })))).toContain('16 MiB')
    // An entry that lies about its size is caught on the way.
    const lying = zip({ 'patch.json': new Uint8Array(2 ** 22) })
    const view = new DataView(lying.buffer)
    for (let i = 0; i < lying.length - 4; i += 1)
      if (view.getUint32(i, true) === 2 ** 22) view.setUint32(i, 100, true)
    expect(refused('check', save('l.zip', lying))).toContain('longer than the archive says')
    const opened = Archive.open(unused)
    expect(opened.ok && opened.archive.read('unused.bin', 1000).ok).toBe(false)
  })

  it('refuses devices, folders and giants at once', () => {
    expect(refused('check', '/dev/zero')).toContain('device')
    expect(refused('check', folder)).toContain('folder')
    expect(refused('analyze', '/dev/zero')).toContain('device')
    expect(refused('check', save('g.json', new Uint8Array(17 * 2 ** 20).fill(32)))).toContain('16 MiB')
  })

  it('takes names that every object has for names like any other', () => {
    for (const name of ['constructor', '__proto__']) {
      const text = JSON.stringify({
        ...tone,
        modules: [...tone.modules, { id: 'w', type: 'wavetable', data: { table: name } }],
        assets: { NAME: { kind: 'audio', file: 'assets/none.wav' } },
        view: { NAME: 1 },
      }).replaceAll('NAME', name)
      const { status, stderr } = run(
        'render',
        save('p.json', text),
        '--out',
        at('o.wav'),
        '--seconds',
        '0.01',
      )
      expect(stderr).not.toContain('internal')
      expect(status, `${name}: ${stderr}`).toBe(0)
      expect(refused(name)).toContain('is no command')
      expect(refused('check', save('z.zip', zip({ [`x${name}`]: 'x' })))).toContain('no patch.json')
      const events = save(
        'e.json',
        `{"format":"ypsilon/events","version":1,"events":[{"t":0,"type":"${name}"}]}`,
      )
      expect(refused('render', at('p.json'), '--out', at('o.wav'), '--events', events)).toContain(
        'is not one of',
      )
      expect(refused('render', at('p.json'), '--out', at('o.wav'), '--set', `osc.${name}=1`)).toContain(name)
      expect(refused('render', at('p.json'), '--out', at('o.wav'), '--tap', `osc.${name}=x.wav`)).toContain(
        name,
      )
    }
  })
})

describe('words', () => {
  it('says at most fifty faults and counts the rest, each on one plain line', () => {
    const modules = Array.from({ length: 400 }, (_, n) => ({
      id: `m${n}`,
      type: 'oscillator',
      params: { [`x\n\u001b[31m\u202e${'y'.repeat(500)}`]: 1 },
    }))
    expect(refused('check', save('p.json', { ...tone, modules }))).toContain('and 352 more')
  })

  it('names the byte of a damaged MIDI file, and refuses a tempo that gives no time', () => {
    const head = [0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 0, 0, 1, 0, 96]
    const track = (...body: number[]): Uint8Array =>
      Uint8Array.from([...head, 0x4d, 0x54, 0x72, 0x6b, 0, 0, 0, body.length, ...body])
    const patch = save('p.json', tone)
    const midi = (bytes: Uint8Array): string =>
      refused('render', patch, '--out', at('o.wav'), '--midi', save('m.mid', bytes))
    expect(midi(track(0, 0x90, 60))).toMatch(/byte \d+/)
    expect(midi(track(0, 60, 60))).toMatch(/byte 2\d/)
    expect(midi(track(0, 0xff, 0x51, 3, 0, 0, 0))).toMatch(/byte 26: the tempo/)
    expect(midi(track(0xff, 0xff, 0xff, 0xff, 0x90, 60, 1))).toMatch(/four bytes/)
    expect(midi(Uint8Array.from([...head.slice(0, 12), 0, 0]))).toContain('byte 12')
    expect(midi(strToU8('no midi at all, no'))).toContain('byte 0')
  })

  it('says so when a number must be whole', () => {
    const patch = save('p.json', tone)
    expect(refused('render', patch, '--out', 'o.wav', '--rate', '44100.5')).toContain('whole')
    expect(refused('render', patch, '--out', 'o.wav', '--seed', '1.5')).toContain('whole')
    const events = save('e.json', {
      format: 'ypsilon/events',
      version: 1,
      events: [{ t: 0, type: 'control', controller: 1.5, value: 0 }],
    })
    expect(refused('render', patch, '--out', 'o.wav', '--events', events)).toContain('whole')
  })
})

describe('patches that are hard to walk', () => {
  const cases: [string, unknown][] = [
    ['a bus into itself', hard.circularBus(2)],
    ['a ring of buses', hard.ringOfBuses(22)],
    ['a row of buses', hard.rowOfBuses(22)],
    ['a row of 1000 buses', hard.rowOfBuses(1000)],
    ['a group into itself', hard.circularGroup()],
    ['bypassed modules in a ring', hard.bypassedRing(4)],
    ['25 layers of formulas', hard.layeredFormulas(25)],
    ['4000 chained formulas', hard.chainedFormulas(4000)],
    ['the same from the end', hard.chainedFormulas(4000, true)],
    ['30 layers of macros', hard.layeredMacros(30)],
    ['5000 modules with 20000 cables', hard.large(5000, 20000)],
    ['the same with ways back', hard.large(5000, 20000, 50)],
    ['a macro on 20000 cables', hard.macroOnAll(5000, 20000)],
    ['4000 open amplifiers', hard.openAmplifiers(4000)],
    ['2400 random sources', hard.randomSources(2400)],
    ['a loop of 4000 delays', hard.ringOfDelays(4000)],
    ['2400 loops', hard.manyLoops(2400)],
  ]
  it.each(cases)('%s', (_name, value) => {
    const patch = save('p.json', value)
    expect(run('check', patch, '--json').status).toBe(0)
    const { status, stderr } = run('render', patch, '--out', at('o.wav'), '--seconds', '0.02')
    expect(status, stderr).toBe(0)
  })

  it('refuses circles of formulas and macros, too much, and too deep', () => {
    refused('check', save('p.json', hard.layeredFormulas(25, true)))
    refused('check', save('p.json', hard.ringOfMacros(5)))
    refused('check', save('p.json', hard.deepData(7000)))
    expect(refused('check', save('p.json', hard.large(5200, 10)))).toContain('5')
    const inner = hard.large(3000, 10) as { modules: { id: string }[] }
    const outer = {
      ...hard.large(3000, 10),
      modules: [
        ...(hard.large(3000, 10)['modules'] as unknown[]),
        {
          id: 'g',
          type: 'group',
          inside: { modules: inner.modules.map((m) => ({ ...m, id: `i${m.id}` })), cables: [] },
        },
      ],
    }
    expect(refused('check', save('p.json', outer))).toContain('groups opened')
  })

  it('takes lists of hundreds of thousands for lists, not for arguments', () => {
    const many = <T>(count: number, make: (n: number) => T): T[] =>
      Array.from({ length: count }, (_, n) => make(n))
    const params = Object.fromEntries(many(200_000, (n) => [`p${n}`, 1]))
    expect(
      refused('check', save('p.json', { ...tone, modules: [{ id: 'm', type: 'mix', params }] })),
    ).toContain('and 199')
    const macros = many(1500, (n) => ({
      id: `m${n}`,
      name: 'm',
      targets: [{ param: `macro:m${(n + 1) % 1500}`, from: 0, to: 1 }],
    }))
    expect(refused('check', save('m.json', { ...tone, macros }))).toContain('in a ring')
    const keys = Object.fromEntries(many(200_000, (n) => [`osc.k${n}`, 1]))
    refused('check', save('s.json', { ...tone, snapshots: [{ id: 's', name: 's', params: keys }] }))
  })

  it('refuses values beyond what a patch may hold, by their place', () => {
    const wrong: [object, string][] = [
      [{ cables: [{ from: 'osc.sine', to: 'out.in', amount: 3e38 }] }, 'cables[0].amount'],
      [{ assets: { a: null } }, 'assets.a'],
      [{ assets: { a: { kind: 'x' } } }, 'assets.a.kind'],
      [{ snapshots: [{ id: 's', name: 's', params: { 'osc.fine': 'loud' } }] }, 'snapshots[0].params'],
      [{ snapshots: [{ id: 's', name: 's', params: { 'cable:c': 1e9 } }] }, 'snapshots[0].params'],
      [{ snapshots: [{ id: 's', name: 's', bypass: { nobody: true } }] }, 'snapshots[0].bypass'],
      [{ snapshots: [{ id: 's', name: 's', fire: { note: 400 } }] }, 'snapshots[0].fire.note'],
      [{ snapshots: [{ id: 's', name: 's', data: { 'osc.none': [1] } }] }, 'snapshots[0].data'],
      [{ macros: [{ id: 'm', name: 'm', targets: [{ param: 'macro:m', from: 0, to: 1 }] }] }, 'macros[0]'],
      [
        { macros: [{ id: 'm', name: 'm', targets: [{ param: 'osc.startPhase', from: 0, to: 1 }] }] },
        'macros[0]',
      ],
      [{ macros: [{ id: 'm', name: 'm', targets: [{ param: 'osc.fine', from: 0, to: 1e9 }] }] }, 'macros[0]'],
      [{ controllers: [{ target: 'osc.fine', controller: 1.5 }] }, 'controllers[0].controller'],
      [{ controllers: [{ target: 'osc.fine', source: { kind: 'foot' } }] }, 'controllers[0].source.kind'],
      [{ controllers: [{ target: 'osc.none' }] }, 'controllers[0].target'],
    ]
    for (const [part, place] of wrong)
      expect(refused('check', save('p.json', { ...tone, ...part }))).toContain(place)
  })
})

describe('several files at once', () => {
  it('come back to what they were when one of them cannot take its place', () => {
    save('a.wav', 'old a')
    const targets = targetsFor([at('a.wav'), at('new.wav'), at('b.wav')], [])
    for (const target of targets) {
      target.open()
      target.write(new Uint8Array([1, 2, 3]))
    }
    // Somebody makes a folder where the last one is to go.
    mkdirSync(at('b.wav'))
    writeFileSync(at('b.wav/inside'), '')
    expect(() => {
      takeAll(targets)
    }).toThrow('b.wav')
    expect(readFileSync(at('a.wav'), 'utf8')).toBe('old a')
    expect(existsSync(at('new.wav'))).toBe(false)
    for (const target of targets) target.drop()
    expect(leftovers()).toEqual([])
  })
})
