/** What is in every file of a kit, and in the texts that go with them. */
import { describe, expect, it } from 'vitest'
import { measureLoudness } from '../../analysis/loudness.ts'
import { patchOf } from '../../testing/bench.ts'
import { kitMade, sfzRegions } from '../../testing/kits.ts'
import { centsBetween, db, frequencyOf, largest, largestStep } from '../../testing/measure.ts'
import { steadyVoice } from '../../testing/patches.ts'

const SHORT = { notes: [60], hold: 0.1, tail: { most: 0.3 } }
const noisy = steadyVoice([['h', 'noise', { level: 0.3 }]], ['h.white > f.in'])

describe('files', () => {
  it('of takes differ where something is random; where nothing is, one is made and said', async () => {
    const random = await kitMade(noisy, { ...SHORT, takes: 3, sfz: true })
    const sounds = ['1', '2', '3'].map((take) => random.store.files.get(`Test-60-${take}.wav`)!)
    expect(new Set(sounds.map((bytes) => bytes.join())).size).toBe(3)
    expect(random.report.warnings).toEqual([])
    const steady = await kitMade(steadyVoice(), { ...SHORT, takes: 3, sfz: true })
    expect([...steady.store.files.keys()].sort()).toEqual(['Test-60-1.wav', 'Test.sfz'])
    expect(steady.report.warnings.join()).toMatch(/nothing in this patch is random/)
    expect(sfzRegions(steady.store.text('Test.sfz'))[0]!.has('seq_length')).toBe(false)
  })

  it('end where nothing is heard any more, faded; untrimmed they are as long as they may be', async () => {
    const { store } = await kitMade(steadyVoice(), { ...SHORT, tail: { db: -40, most: 3 }, bits: '32f' })
    const [channel] = store.sound('Test-60.wav').channels
    const peak = largest(channel!)
    // The release of 0.2 s is exponential: below −40 dB long before it is over.
    expect(channel!.length).toBeLessThan(0.6 * 48000)
    expect(db(largest(channel!, channel!.length - 600, channel!.length - 300) / peak)).toBeGreaterThan(-46)
    expect(Math.abs(channel!.at(-1)!)).toBeLessThan(1e-6)
    const whole = await kitMade(steadyVoice(), { ...SHORT, trim: false })
    expect(whole.store.sound('Test-60.wav').channels[0]!.length).toBe(19200)
  })

  it('of one layer have one loudness; layers keep their distance', async () => {
    const soft = patchOf(
      [
        ['n', 'notes'],
        ['o', 'oscillator'],
        ['e', 'envelope', { velocityAmount: 1, sustain: 1 }],
        ['a', 'amplifier'],
        ['out', 'output', { level: -20 }],
      ],
      [
        'n.pitch > o.pitch',
        'n.gate > e.gate',
        'n.velocity > e.velocity',
        'o.saw > a.in',
        'e.env > a.cv',
        'a.out > out.in',
      ],
    )
    const { store, report } = await kitMade(soft, {
      notes: [36, 60, 84],
      velocities: [0.4, 1],
      hold: 1,
      align: { mode: 'notes', lufs: -23 },
    })
    expect(report.warnings).toEqual([])
    const lufs = (name: string): number => measureLoudness(store.sound(`Test-${name}.wav`)).integrated
    for (const note of [36, 60, 84]) expect(Math.abs(lufs(`${note}-127`) + 23)).toBeLessThan(0.05)
    const below = lufs('36-51')
    for (const note of [60, 84]) expect(Math.abs(lufs(`${note}-51`) - below)).toBeLessThan(0.05)
    // 0.4 of the level.
    expect(below + 23).toBeCloseTo(db(0.4), 0)
  })

  it('never clip: all become softer by the same, and it is said; floats are left alone', async () => {
    const fields = { ...SHORT, notes: [48, 72], hold: 0.6, align: { mode: 'notes', lufs: -1 } }
    const { store, report } = await kitMade(steadyVoice(), fields)
    expect(report.warnings.join()).toMatch(/above full scale; all files are .* dB softer/)
    const loud = ['48', '72'].map((note) => store.sound(`Test-${note}.wav`))
    expect(Math.max(...loud.map(({ channels }) => largest(channels[0]!)))).toBeCloseTo(0.99, 3)
    const [one, other] = loud.map((sound) => measureLoudness(sound).integrated)
    expect(one).toBeCloseTo(other!, 1)
    const floats = await kitMade(steadyVoice(), { ...fields, bits: '32f' })
    expect(measureLoudness(floats.store.sound('Test-48.wav')).integrated).toBeCloseTo(-1, 1)
  })

  it('go through a chain with a patch in it, and marks go along', async () => {
    const room = patchOf(
      [
        ['in', 'input'],
        ['r', 'reverb', { decay: 0.4, mix: 0.5 }],
        ['out', 'output', { level: 0 }],
      ],
      ['in.out > r.in', 'r.out > out.in'],
    )
    const { store } = await kitMade(
      steadyVoice(),
      {
        ...SHORT,
        hold: 0.5,
        chain: [
          { id: 'a', kind: 'cut', from: 4800 },
          { id: 'b', kind: 'patch', patch: 'room', tail: 0.5 },
          { id: 'c', kind: 'speed', factor: 2 },
        ],
      },
      new Map([['room', { patch: room, assets: new Map() }]]),
    )
    const bytes = store.files.get('Test-60.wav')!,
      text = new TextDecoder('latin1').decode(bytes),
      cue = text.indexOf('cue ')
    expect(text.slice(cue)).toContain('note end')
    // The note ended at 24000, 4800 were cut off, and it goes twice as fast.
    expect(new DataView(bytes.buffer).getUint32(cue + 16 + 24, true)).toBe(9600)
  })

  it('are brought to their key, where they are out of tune and where that is asked for', async () => {
    for (const [octave, fine] of [
      [0, 37],
      [-1, -22],
    ] as const) {
      const sharp = patchOf(
        [
          ['n', 'notes'],
          ['o', 'oscillator', { octave, fine }],
          ['e', 'envelope', { sustain: 1 }],
          ['a', 'amplifier'],
          ['out', 'output'],
        ],
        ['n.pitch > o.pitch', 'n.gate > e.gate', 'o.saw > a.in', 'e.env > a.cv', 'a.out > out.in'],
      )
      const { store } = await kitMade(sharp, { notes: [64], hold: 1, correct: true, bits: '32f' })
      const hz = 261.6256 * 2 ** (4 / 12 + octave),
        [channel] = store.sound('Test-64.wav').channels
      expect(Math.abs(centsBetween(frequencyOf(channel!, hz, 48000, 9600, 28800), hz))).toBeLessThan(0.2)
    }
    const noise = await kitMade(
      patchOf(
        [
          ['h', 'noise'],
          ['out', 'output'],
        ],
        ['h.white > out.in'],
      ),
      { ...SHORT, correct: true },
    )
    expect(noise.report.warnings.join()).toMatch(/no clear pitch/)
  })

  it('from the end of the note on are files of their own, and both begin and end without a click', async () => {
    const { store } = await kitMade(steadyVoice(), {
      ...SHORT,
      hold: 0.4,
      release: true,
      bits: '32f',
      sfz: true,
    })
    const note = store.sound('Test-60.wav').channels[0]!,
      release = store.sound('Test-60-release.wav').channels[0]!
    expect(note.length).toBe(19200)
    expect(release.length).toBeGreaterThan(2400)
    for (const part of [note, release]) {
      expect(Math.abs(part.at(-1)!)).toBeLessThan(1e-6)
      expect(largestStep(part)).toBeLessThan(1.2 * largestStep(note, 4800, 14400))
    }
    expect(release[0]).toBe(0)
    const [one, other] = sfzRegions(store.text('Test.sfz'))
    expect([one!.get('sample'), one!.has('trigger')]).toEqual(['Test-60.wav', false])
    expect([other!.get('sample'), other!.get('trigger'), other!.get('loop_mode')]).toEqual([
      'Test-60-release.wav',
      'release',
      'one_shot',
    ])
  })
})

describe('an SFZ', () => {
  it('has a region a file: keys, velocities, loops with their last frame, turns', async () => {
    const { store, plan } = await kitMade(noisy, {
      notes: [48, 51, 54],
      velocities: [0.25, 0.5, 1],
      takes: 2,
      hold: 0.1,
      tail: { most: 0.2 },
      sfz: true,
    })
    const regions = sfzRegions(store.text('Test.sfz'))
    expect(regions).toHaveLength(plan.jobs.length)
    regions.forEach((region, n) => {
      const job = plan.jobs[n]!
      expect(region.get('sample')).toBe(`${job.name}.wav`)
      expect(store.files.has(region.get('sample')!)).toBe(true)
      expect(region.get('pitch_keycenter')).toBe(String(job.note))
      expect(region.get('amp_veltrack')).toBe('0')
      expect([region.get('lovel'), region.get('hivel')]).toEqual(
        [
          ['1', '32'],
          ['33', '64'],
          ['65', '127'],
        ][job.layer],
      )
      expect([region.get('seq_length'), region.get('seq_position')]).toEqual(['2', String(job.take + 1)])
    })
    const keys = [...new Set(regions.map((region) => `${region.get('lokey')} ${region.get('hikey')}`))]
    expect(keys).toEqual(['47 49', '50 52', '53 55'])
  })
  it('tells loops as their files do', async () => {
    const { store } = await kitMade(steadyVoice(), { notes: [57], hold: 1.5, loop: 'auto', sfz: true })
    const [region] = sfzRegions(store.text('Test.sfz')),
      { loop, root } = store.sound('Test-57.wav')
    expect(root).toBe(57)
    expect(region!.get('loop_mode')).toBe('loop_continuous')
    expect([Number(region!.get('loop_start')), Number(region!.get('loop_end')) + 1]).toEqual([
      loop!.start,
      loop!.end,
    ])
    expect(Number(region!.get('ampeg_release'))).toBeGreaterThan(0.03)
  })
  it('lets layers go over into each other, over so many steps around where the softer one ends', async () => {
    const { store } = await kitMade(steadyVoice(), {
      ...SHORT,
      velocities: [0.3, 0.6, 1],
      crossfade: 10,
      sfz: true,
    })
    const regions = sfzRegions(store.text('Test.sfz'))
    const of = (n: number, ...names: readonly string[]): (number | undefined)[] =>
      names.map((name) => (regions[n]!.has(name) ? Number(regions[n]!.get(name)) : undefined))
    for (const n of [0, 1]) {
      const [low, high] = of(n, 'xfout_lovel', 'xfout_hivel')
      expect(high! - low!).toBe(10)
      expect(of(n + 1, 'xfin_lovel', 'xfin_hivel')).toEqual([low, high])
      expect(of(n, 'hivel')).toEqual([high])
      expect(of(n + 1, 'lovel')).toEqual([low])
    }
    expect([of(0, 'lovel', 'xfin_lovel'), of(2, 'hivel', 'xfout_lovel')]).toEqual([
      [1, undefined],
      [127, undefined],
    ])
  })
  it('says which keys end each other', async () => {
    const { store } = await kitMade(steadyVoice(), {
      ...SHORT,
      notes: [42, 44, 46, 50],
      choke: [[42, 46]],
      sfz: true,
    })
    const groups = sfzRegions(store.text('Test.sfz')).map((region) => [
      region.get('group'),
      region.get('off_by'),
    ])
    expect(groups).toEqual([
      ['1', '1'],
      [undefined, undefined],
      ['1', '1'],
      [undefined, undefined],
    ])
  })
})
