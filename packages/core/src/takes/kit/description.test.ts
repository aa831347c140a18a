/** What a kit may be: descriptions with every field wrong in turn, names, and the plan they give. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { patchOf } from '../../testing/bench.ts'
import { kitOf, planOf } from '../../testing/kits.ts'
import { steadyVoice } from '../../testing/patches.ts'
import { parseKit } from './description.ts'
import { keyReach, velocityReach } from './file.ts'
import { fileWord, nameOf } from './names.ts'
import { filesOf, planKit } from './plan.ts'

const faultsOf = (fields: object): string[] => {
  const parsed = parseKit({ format: 'ypsilon/kit', version: 1, patch: 'it', ...fields })
  return parsed.ok ? [] : parsed.faults.map(({ place, message }) => `${place}: ${message}`)
}
const planFaults = (fields: object, patch = steadyVoice()): string[] => {
  const planned = planKit(kitOf({ ...fields }), { patch, lookup: { patch: () => undefined } })
  return planned.ok ? [] : planned.faults.map(({ place, message }) => `${place}: ${message}`)
}

describe('a description', () => {
  it.each([
    [{ format: 'kit' }, /^format: "kit" is not/],
    [{ version: 2 }, /^version: 2 is above 1/],
    [{ patch: 7 }, /^patch: expected a text/],
    [{ notes: { from: 60 } }, /^notes\.to: is missing/],
    [{ notes: { from: 60, to: 72, step: 0 } }, /^notes\.step: 0 is below 1/],
    [{ notes: { from: 72, to: 60 } }, /^notes: holds no key/],
    [{ notes: [60, 128] }, /^notes\[1\]: 128 is above 127/],
    [{ notes: [60.5] }, /^notes\[0\]: is not a whole number/],
    [{ notes: [] }, /^notes: is empty/],
    [{ notes: 'all' }, /^notes: expected a range of keys/],
    [{ velocities: [0.4, 0] }, /^velocities\[1\]: is 0/],
    [{ velocities: [0.4, 0.401] }, /^velocities: 0.4 and 0.401 are the same/],
    [{ velocities: 'soft' }, /^velocities: expected a list/],
    [{ takes: 0 }, /^takes: 0 is below 1/],
    [{ takes: 2.5 }, /^takes: is not a whole/],
    [{ variations: -1 }, /^variations: -1 is below 0/],
    [{ seed: 'x' }, /^seed: expected a number/],
    [{ hold: NaN }, /^hold: /],
    [{ hold: 0 }, /^hold: 0 is below/],
    [{ tail: { db: 3 } }, /^tail\.db: 3 is above -20/],
    [{ tail: { most: 1e9 } }, /^tail\.most: /],
    [{ rate: 44100.5 }, /^rate: is not a whole/],
    [{ bits: 24 }, /^bits: expected a text/],
    [{ bits: '20' }, /^bits: "20" is not one of 16, 24, 32f/],
    [{ align: { mode: 'layers' } }, /^align\.mode: /],
    [{ align: { mode: 'notes', lufs: 3 } }, /^align\.lufs: 3 is above 0/],
    [{ trim: 'yes' }, /^trim: expected true or false/],
    [{ loop: true }, /^loop: expected a text/],
    [{ chain: {} }, /^chain: expected a list of steps/],
    [{ name: 'x', takes: 2 }, /^name: \{note\} is missing: there are 17 notes/],
    [{ name: '{note}', takes: 2 }, /^name: \{take\} is missing/],
    [{ name: '{note}-{kind}' }, /^name: \{kind\} is not known/],
    [{ name: '../{note}' }, /^name: ".*" does not stay/],
    [{ name: '/{note}' }, /^name: ".*" does not stay/],
    [{ name: '{note}#' }, /^name: holds what no file name may hold/],
    [{ name: 'a\\{note}' }, /^name: holds what no file name may hold/],
    [{ name: '{note' }, /^name: /],
    [{ name: 'con/{note}' }, /^name: some systems take this name for a device/],
    [{ name: '{note}. /x' }, /^name: a part of it begins or ends/],
    [{ name: ' ', notes: [60] }, /^name: is empty/],
    [{ choke: [[61]], notes: [60] }, /^choke\[0\]: 61 is no key/],
    [{ choke: [[60], [60]], notes: [60] }, /^choke\[1\]: 60 is in another group/],
    [{ crossfade: 5 }, /^crossfade: there is one layer alone/],
    [
      { notes: { from: 0, to: 127, step: 1 }, velocities: [0.5, 1], takes: 64, release: true },
      /32768 files, more than/,
    ],
  ])('%j is refused with its place', (fields, expected) => {
    expect(faultsOf(fields).join('\n')).toMatch(expected)
  })
  it('names what it does not know, and takes it all the same', () => {
    const parsed = parseKit({ format: 'ypsilon/kit', version: 1, patch: 'it', velocites: [1] })
    expect(parsed.ok && parsed.warnings).toEqual([
      { place: 'velocites', message: 'is not known; it changes nothing' },
    ])
  })
  it('never stumbles, whatever stands in it, and gives a plan or a fault with a place', () => {
    const FIELDS = [
      'notes',
      'velocities',
      'takes',
      'variations',
      'hold',
      'tail',
      'rate',
      'bits',
      'align',
      'trim',
    ]
    const MORE = ['loop', 'chain', 'name', 'sfz', 'release', 'crossfade', 'choke', 'correct', 'seed', 'patch']
    const value = fc.oneof(fc.jsonValue({ maxDepth: 2 }), fc.integer({ min: -2, max: 130 }), fc.double())
    fc.assert(
      fc.property(fc.dictionary(fc.constantFrom(...FIELDS, ...MORE), value, { maxKeys: 4 }), (fields) => {
        const parsed = parseKit({ format: 'ypsilon/kit', version: 1, patch: 'it', ...fields })
        if (!parsed.ok) {
          for (const { message } of parsed.faults) expect(message).not.toBe('')
          return
        }
        const planned = planKit(parsed.value, { patch: steadyVoice(), lookup: { patch: () => undefined } })
        if (planned.ok) expect(new Set(filesOf(planned.value)).size).toBe(filesOf(planned.value).length)
      }),
      { numRuns: 300 },
    )
  })
  it('takes only what an object holds itself', () => {
    const fields: object = Object.assign(Object.create({ takes: 9, name: '{note}-{take}' }) as object, {
      format: 'ypsilon/kit',
      version: 1,
      patch: 'p',
    })
    const parsed = parseKit(fields)
    expect(parsed.ok && [parsed.value.takes, parsed.value.name]).toEqual([1, '{patch}-{note}'])
  })
})

describe('names', () => {
  it('say the patch, the key, the layer and the take, in letters every system takes', () => {
    const parts = { patch: 'Grüße #3/é', note: 61, velocity: 51, take: 2, variation: 1 }
    expect(nameOf('{patch}-{note}-{key}-{velocity}-{take}-{variation}', parts)).toBe(
      'Grusse_3_e-61-Cs4-51-2-1'.replace('Grusse', fileWord('Grüße')),
    )
    expect(fileWord('###')).toBe('patch')
    expect(fileWord('con')).toBe('patch_con')
    expect(fileWord('..')).toBe('patch')
  })
  it('that would write one file twice are refused, whatever the letters', () => {
    expect(planFaults({ notes: [1, 11], velocities: [1 / 127, 11 / 127], name: '{note}{velocity}' })).toEqual(
      ['name: two files would be called 111.wav'],
    )
    expect(planFaults({ notes: [60], name: 'Test.sfz', sfz: true })).toEqual([])
    expect(planFaults({ notes: [60], name: 'test.SFZ/{note}', sfz: true }).join()).toMatch(
      /Test\.sfz would be a file and the folder of/,
    )
  })
})

describe('a plan', () => {
  it('is one render a file, a take moving the seed', () => {
    const plan = planOf(
      kitOf({ notes: [60, 48], velocities: [1, 0.4], takes: 2, seed: 5, sfz: true, zip: true }),
      steadyVoice(),
    )
    expect(plan.jobs.map(({ note, step, layer, seed, name }) => [note, step, layer, seed, name])).toEqual([
      [48, 51, 0, 5, 'Test-48-51-1'],
      [48, 51, 0, 6, 'Test-48-51-2'],
      [48, 127, 1, 5, 'Test-48-127-1'],
      [48, 127, 1, 6, 'Test-48-127-2'],
      [60, 51, 0, 5, 'Test-60-51-1'],
      [60, 51, 0, 6, 'Test-60-51-2'],
      [60, 127, 1, 5, 'Test-60-127-1'],
      [60, 127, 1, 6, 'Test-60-127-2'],
    ])
    expect(filesOf(plan).slice(-2)).toEqual(['Test.sfz', 'Test.zip'])
  })
  it('names faults of its chain by step and field, and a patch that is not there', () => {
    expect(
      planFaults({
        chain: [
          { id: 'a', kind: 'gain', db: 900 },
          { id: 'b', kind: 'patch', patch: 'no' },
        ],
      }),
    ).toEqual(['chain.0.db: 900 is above 60 dB'])
    expect(planFaults({ chain: [{ id: 'b', kind: 'patch', patch: 'no' }] })).toEqual([
      'chain.0.patch: "no" is not here',
    ])
  })
  it('says what is hardly meant: keys that all sound the same, outputs that are left out', () => {
    const drone = patchOf(
      [
        ['o', 'oscillator'],
        ['out', 'output'],
        ['more', 'output', { pair: 2 }],
      ],
      ['o.saw > out.in', 'o.saw > more.in'],
    )
    const planned = planKit(kitOf({}), { patch: drone, lookup: { patch: () => undefined } })
    expect(planned.ok && planned.warnings.map(({ place }) => place)).toEqual(['notes', 'patch'])
    const voiced = planKit(kitOf({}), { patch: steadyVoice(), lookup: { patch: () => undefined } })
    expect(voiced.ok && voiced.warnings).toEqual([])
  })
  it('of a patch without an output is refused', () => {
    expect(planFaults({}, patchOf([['o', 'oscillator']], []))).toEqual([
      'patch: it has no output: nothing of it can be heard',
    ])
  })
  it('shares keys and velocities out without a gap', () => {
    for (const notes of [[60], [36, 39, 42, 45], [30, 31, 40, 64, 65]]) {
      const reach = notes.map((note) => keyReach(notes, note))
      reach.forEach(([low, high], n) => {
        expect(low).toBeLessThanOrEqual(notes[n]!)
        expect(high).toBeGreaterThanOrEqual(notes[n]!)
        if (n > 0) expect(low).toBe(reach[n - 1]![1] + 1)
      })
    }
    expect([0, 1, 2].map((layer) => velocityReach([30, 51, 120], layer))).toEqual([
      [1, 30],
      [31, 51],
      [52, 127],
    ])
  })
})
