/* eslint max-lines: ["error", 500] -- one built program */
/** Kits from the command line: the same bytes whatever runs them, files that others read, nothing half-written. */
import { spawn, spawnSync } from 'node:child_process'
import { copyFileSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { hostname, userInfo } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { loudness } from '../packages/core/src/analysis/loudness.ts'
import { Archive } from '../packages/core/src/formats/archive.ts'
import { readWav } from '../packages/core/src/formats/wav.ts'
import { sfzRegions } from '../packages/core/src/testing/kits.ts'
import { ROOT } from './support/browser.ts'
import { filesIn, hashOf, PROGRAM, run, SLIP_REED, workFolder } from './support/command.ts'

const { folder, at, save, wav } = workFolder('kits')
const room = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'Slip',
  modules: [
    { id: 'in', type: 'input' },
    { id: 'room', type: 'reverb', params: { decay: 0.3, mix: 0.2 } },
    { id: 'out', type: 'output', params: { level: 0 } },
  ],
  cables: [
    { from: 'in.out', to: 'room.in' },
    { from: 'room.out', to: 'out.in' },
  ],
}
const patch = save('voice.ypatch.json', SLIP_REED)
save('room.ypatch.json', room)
/** Everything at once. */
const everything = save('all.kit.json', {
  format: 'ypsilon/kit',
  version: 1,
  patch: 'voice.ypatch.json',
  notes: { from: 48, to: 60, step: 6 },
  velocities: [0.4, 1],
  takes: 2,
  hold: 0.5,
  tail: { db: -50, most: 1 },
  bits: '16',
  align: { mode: 'notes', lufs: -20 },
  chain: [{ id: 'c', kind: 'patch', patch: 'room.ypatch.json', tail: 0.3 }],
  loop: 'auto',
  release: true,
  crossfade: 12,
  correct: true,
  name: '{velocity}/{patch}-{note}-{take}',
  sfz: true,
  zip: true,
})
const plain = ['--notes', '48..60/6', '--hold', '0.3', '--tail', '-60/0.5']

const hasSox = spawnSync('sox', ['--version']).status === 0
const sox = (...args: readonly string[]): string => spawnSync('sox', args, { encoding: 'utf8' }).stdout.trim()

describe('./ypsilon kit', () => {
  /** Of the kit that nothing disturbed. */
  let whole = ''

  it('gives the same bytes with one, two and five threads', { timeout: 120_000 }, () => {
    const hashes = ['1', '2', '5'].map((threads) => {
      const done = run('kit', everything, '--out', at(`all${threads}`), '--workers', threads)
      expect(done.stderr).not.toMatch(/ypsilon: (?!warning)/)
      expect(done.status).toBe(0)
      return hashOf(at(`all${threads}`))
    })
    expect(filesIn(at('all1'))).toHaveLength(3 * 2 * 2 * 2 + 2)
    expect(new Set(hashes).size).toBe(1)
    whole = hashes[0]!
  })

  it.each(['SIGINT', 'SIGKILL'] as const)('goes on after %s, and has the same bytes', async (signal) => {
    const out = at(signal)
    const stopped = spawn(process.execPath, [PROGRAM, 'kit', everything, '--out', out, '--workers', '1'])
    let words = ''
    stopped.stderr.on('data', (data: Buffer) => (words += data.toString()))
    // As soon as something is rendered.
    const journal = join(out, '.ypsilon-kit', 'journal.jsonl')
    const isUnderWay = (): boolean =>
      existsSync(journal) && readFileSync(journal, 'utf8').split('\n').length > 3
    while (!isUnderWay() && stopped.exitCode === null) await new Promise((ok) => setTimeout(ok, 5))
    const exit = new Promise((ok) => stopped.on('exit', ok))
    stopped.kill(signal)
    expect(await exit).toBe(signal === 'SIGINT' ? 130 : null)
    if (signal === 'SIGINT') expect(words).toMatch(/stopped; what is rendered is kept in .*--resume/)
    // No file of the kit is there before it is whole.
    for (const name of filesIn(out).filter((file) => !file.startsWith('.')))
      expect(readWav(new Uint8Array(readFileSync(join(out, name)))).ok).toBe(true)
    const done = run('kit', everything, '--out', out, '--resume')
    expect(done.status).toBe(0)
    expect(done.stderr).not.toMatch(/^0 of/)
    expect(hashOf(out)).toBe(whole)
  })

  it('of many short files comes whole from threads that do the same at the same moment', () => {
    const step = (id: string, kind: string) => ({ id, kind })
    const short = save('short.kit.json', {
      format: 'ypsilon/kit',
      version: 1,
      patch: 'voice.ypatch.json',
      notes: { from: 20, to: 99, step: 1 },
      hold: 0.01,
      tail: { most: 0.02 },
      chain: [step('a', 'equaliser'), step('b', 'transient'), step('c', 'equaliser'), step('d', 'transient')],
    })
    const done = run('kit', short, '--out', at('short'), '--workers', '8')
    expect([done.status, done.stderr.includes('failed')]).toEqual([0, false])
    expect(filesIn(at('short'))).toHaveLength(80)
  })

  it('gives a file that was kept first the bytes of one that was written at once', () => {
    const named = [...plain, '--name', '{note}-{take}', '--loop', 'auto']
    // The lowest and the highest key of several takes are compared before anything is written.
    expect(run('kit', patch, ...named, '--takes', '2', '--out', at('kept')).status).toBe(0)
    expect(run('kit', patch, ...named, '--takes', '1', '--out', at('at-once')).status).toBe(0)
    expect(filesIn(at('at-once'))).toHaveLength(3)
    for (const name of filesIn(at('at-once')))
      expect(Buffer.compare(readFileSync(at('kept', name)), readFileSync(at('at-once', name)))).toBe(0)
  })

  it('writes no date, no name of this machine and no place on it', () => {
    for (const name of filesIn(at('all1'))) {
      const text = readFileSync(at('all1', name)).toString('latin1')
      for (const word of [folder, hostname(), ROOT, String(new Date().getFullYear())])
        if (word.length > 3) expect([name, text.includes(word)]).toEqual([name, false])
      if (userInfo().username.length > 4) expect(text.includes(userInfo().username)).toBe(false)
    }
  })

  it('packs an archive that is stored, sorted and of one time', () => {
    const bytes = new Uint8Array(readFileSync(at('all1', 'Slip_Reed.zip'))),
      opened = Archive.open(bytes)
    if (!opened.ok) throw new Error(opened.fault.message)
    const names = filesIn(at('all1')).filter((name) => !name.endsWith('.zip'))
    for (const name of names) {
      const read = opened.archive.read(name, 1e9)
      expect(read.ok && Buffer.compare(read.bytes, readFileSync(at('all1', name)))).toBe(0)
    }
    const view = new DataView(bytes.buffer, bytes.byteOffset)
    const end = bytes.length - 22
    let entry = view.getUint32(end + 16, true)
    const found: string[] = []
    for (let n = 0; n < view.getUint16(end + 10, true); n += 1) {
      expect(view.getUint16(entry + 10, true)).toBe(0)
      // 1 January 1980, midnight.
      expect(view.getUint32(entry + 12, true)).toBe(0x210000)
      const length = view.getUint16(entry + 28, true)
      found.push(new TextDecoder().decode(bytes.subarray(entry + 46, entry + 46 + length)))
      entry += 46 + length + view.getUint16(entry + 30, true)
    }
    expect(found).toEqual([...names].sort())
  })

  it('tells samplers of every file: key, velocities, turn, loop as in the file; levels as asked for', () => {
    const text = readFileSync(at('all1', 'Slip_Reed.sfz'), 'utf8')
    const regions = sfzRegions(text)
    expect(regions).toHaveLength(24)
    expect(text).not.toMatch(/[#\\]/)
    for (const region of regions) {
      const name = region.get('sample')!,
        sound = wav('all1', name)
      const [, step, note, take] = /^(51|127)\/Slip_Reed-(\d+)-(\d)(?:-release)?\.wav$/.exec(name)!
      expect(region.get('pitch_keycenter')).toBe(note)
      expect(sound.root).toBe(Number(note))
      expect(region.get('seq_position')).toBe(take)
      expect(region.get('seq_length')).toBe('2')
      if (name.includes('-release')) {
        expect(region.get('trigger')).toBe('release')
        continue
      }
      if (region.get('loop_mode') === 'loop_continuous')
        expect({ start: Number(region.get('loop_start')), end: Number(region.get('loop_end')) + 1 }).toEqual(
          sound.loop,
        )
      else expect(sound.loop).toBeUndefined()
      if (step === '127') expect(Math.abs(loudness(sound) + 20)).toBeLessThan(0.5)
    }
    const soft = regions
      .filter((region) => /^51\/.*\d\.wav$/.test(region.get('sample')!))
      .map((region) => loudness(wav('all1', region.get('sample')!)))
    expect(Math.max(...soft) - Math.min(...soft)).toBeLessThan(0.5)
    expect(Math.max(...soft)).toBeLessThan(-21)
  })

  it.skipIf(!hasSox)('writes what SoX reads: rate, depth, length and every chunk', () => {
    const done = run(
      'kit',
      patch,
      ...plain,
      '--hold',
      '1.2',
      '--loop',
      'auto',
      '--bits',
      '24',
      '--rate',
      '44100',
      '--out',
      at('sox'),
    )
    expect(done.status).toBe(0)
    for (const name of filesIn(at('sox'))) {
      const sound = wav('sox', name)
      expect(sox('--i', '-s', at('sox', name))).toBe(String(sound.channels[0]!.length))
      expect(sox('--i', '-r', at('sox', name))).toBe('44100')
      expect(sox('--i', '-b', at('sox', name))).toBe('24')
      const { stderr } = spawnSync('sox', ['-V6', at('sox', name), '-n'], { encoding: 'utf8' })
      expect(stderr).not.toMatch(/WARN|FAIL/)
      expect([...stderr.matchAll(/WAV Chunk (....)/g)].map(([, chunk]) => chunk)).toEqual([
        'fmt ',
        'data',
        'smpl',
        'inst',
        'cue ',
        'LIST',
      ])
    }
    expect(filesIn(at('sox')).some((name) => wav('sox', name).loop)).toBe(true)
  })

  it('takes options before its description, and makes one take where nothing is random', () => {
    const done = run(
      'kit',
      everything,
      '--takes',
      '1',
      '--notes',
      'C3,48',
      '--velocities',
      '1',
      '--bits',
      '32f',
      '--name',
      '{key}',
      '--crossfade',
      '0',
      '--out',
      at('flags'),
    )
    expect(done.status).toBe(0)
    expect(filesIn(at('flags'))).toEqual(['C3-release.wav', 'C3.wav', 'Slip_Reed.sfz', 'Slip_Reed.zip'])
    const steady = save('steady.ypatch.json', {
      ...SLIP_REED,
      cables: SLIP_REED.cables.filter(({ from }) => from !== 'noise.pink'),
    })
    const one = run('kit', steady, ...plain, '--takes', '3', '--out', at('one'))
    expect(one.stderr).toMatch(/nothing in this patch is random/)
    expect(filesIn(at('one'))).toHaveLength(3)
  })

  it('makes variations, each with a text of its own', () => {
    const done = run(
      'kit',
      patch,
      ...plain,
      '--notes',
      '60',
      '--variations',
      '3',
      '--sfz',
      '--out',
      at('varied'),
    )
    expect(done.status).toBe(0)
    expect(filesIn(at('varied')).filter((name) => name.endsWith('.sfz'))).toEqual(
      [1, 2, 3].map((n) => `Slip_Reed-${n}.sfz`),
    )
    expect(
      new Set([1, 2, 3].map((n) => readFileSync(at('varied', `Slip_Reed-${n}-60.wav`)).toString('latin1')))
        .size,
    ).toBe(3)
  })
})

describe('a kit that cannot be made', () => {
  const refused = (expected: RegExp, ...args: readonly string[]): void => {
    const done = run('kit', ...args)
    expect(done.stderr).toMatch(expected)
    expect(done.stderr).not.toMatch(/ at .*\.js/)
    expect(done.status).toBe(2)
  }
  it('says why, by option, field or file', () => {
    refused(/--out DIR is missing/, patch)
    refused(/KIT\.json or PATCH is missing/, '--out', at('x'))
    refused(/nothing\.json: there is no such file/, at('nothing.json'), '--out', at('x'))
    refused(/--notes\.to|--notes: /, patch, '--notes', '60..40', '--out', at('x'))
    refused(/--notes: "H2" is no key/, patch, '--notes', 'H2', '--out', at('x'))
    refused(/--velocities\[1\]: 3 is above 1/, patch, '--velocities', '1,3', '--out', at('x'))
    refused(/--name: \{note\} is missing/, patch, '--name', 'x', '--out', at('x'))
    refused(
      /bad\.kit\.json: takes: expected a number/,
      save('bad.kit.json', { format: 'ypsilon/kit', version: 1, patch: 'voice.ypatch.json', takes: 'two' }),
      '--out',
      at('x'),
    )
    refused(
      /no\.ypatch\.json: there is no such file/,
      save('lost.kit.json', { format: 'ypsilon/kit', version: 1, patch: 'no.ypatch.json' }),
      '--out',
      at('x'),
    )
    refused(
      /chain\.0\.patch: "no" is not here|no: there is no such file/,
      save('chain.kit.json', {
        format: 'ypsilon/kit',
        version: 1,
        patch: 'voice.ypatch.json',
        chain: [{ id: 'a', kind: 'patch', patch: 'no' }],
      }),
      '--out',
      at('x'),
    )
    expect(existsSync(at('x'))).toBe(false)
  })
  it('where the folder cannot be written', () => {
    writeFileSync(at('file'), '')
    refused(
      /file.*: a part of the path is not a folder|file.*: this is no folder|EEXIST|exists/,
      patch,
      ...plain,
      '--out',
      at('file', 'kit'),
    )
  })
  it('where it would write over what it reads', () => {
    mkdirSync(at('own'))
    copyFileSync(patch, at('own', 'it.ypatch.json'))
    writeFileSync(at('own', 'Slip_Reed.sfz'), readFileSync(patch))
    refused(/Slip_Reed\.sfz: this is read/, at('own', 'Slip_Reed.sfz'), ...plain, '--sfz', '--out', at('own'))
  })
  it('on a full disk: a sentence, nothing half-written, and it goes on when there is room', () => {
    const whole = run('kit', patch, ...plain, '--align', '-20', '--out', at('room'))
    expect(whole.status).toBe(0)
    // Files of more than so many blocks of 1024 bytes cannot be written.
    const command = `ulimit -f 64; exec "${process.execPath}" "${PROGRAM}" kit "${patch}" ${plain.join(' ')} --align -20 --out "${at('full')}"`
    const done = spawnSync('bash', ['-c', `trap '' XFSZ; ${command}`], { encoding: 'utf8' })
    expect(done.stderr).toMatch(/the file is too large|the disk is full/)
    expect(done.stderr).toMatch(/--resume/)
    expect(done.status).toBe(2)
    expect(filesIn(at('full')).filter((name) => name.endsWith('.wav') && !name.startsWith('.'))).toEqual([])
    expect(filesIn(at('full')).filter((name) => name.endsWith('.part'))).toEqual([])
    expect(run('kit', patch, ...plain, '--align', '-20', '--out', at('full'), '--resume').status).toBe(0)
    expect(hashOf(at('full'))).toBe(hashOf(at('room')))
  })
  it('while another is being made in its folder, and from another patch than it was begun with', () => {
    mkdirSync(at('locked', '.ypsilon-kit'), { recursive: true })
    writeFileSync(at('locked', '.ypsilon-kit', 'lock'), String(process.pid))
    refused(/another kit is being made in this folder/, patch, ...plain, '--out', at('locked'))
    rmSync(at('locked', '.ypsilon-kit', 'lock'))
    writeFileSync(at('locked', '.ypsilon-kit', 'origin'), 'another')
    refused(/what was begun here is another kit/, patch, ...plain, '--out', at('locked'), '--resume')
    expect(run('kit', patch, ...plain, '--out', at('locked')).status).toBe(0)
    expect(filesIn(at('locked'))).toHaveLength(3)
  })
  it('renders again what was changed or half-written in between', () => {
    const whole = hashOf(at('locked'))
    const command = `ulimit -f 64; exec "${process.execPath}" "${PROGRAM}" kit "${patch}" ${plain.join(' ')} --align -20 --out "${at('torn')}"`
    spawnSync('bash', ['-c', `trap '' XFSZ; ${command}`])
    writeFileSync(
      at('torn', '.ypsilon-kit', 'journal.jsonl'),
      '{"name":"Slip_Reed-48","done":{"facts":{},"kept":[{"name":"x","bytes":3,"crc":1}],"files":[]}}\n{"name":"Slip',
    )
    rmSync(at('torn', '.ypsilon-kit', 'lock'), { force: true })
    const done = run('kit', patch, ...plain, '--align', '-20', '--out', at('torn'), '--resume')
    expect(done.status).toBe(0)
    expect(hashOf(at('torn'))).toBe(hashOf(at('room')))
    expect(whole).not.toBe('')
  })
})
