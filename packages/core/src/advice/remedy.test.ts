/** What findings offer is an edit that is taken, and after which they are found no more. */
import { describe, expect, it } from 'vitest'
import { compile } from '../compile/compile.ts'
import { edit } from '../patch/document.ts'
import { checkPatch } from '../patch/validate.ts'
import type { Patch } from '../patch/types.ts'
import { patchOf } from '../testing/bench.ts'
import { generatedPatch } from '../testing/generated.ts'
import { adviseOn } from './advise.ts'
import type { Finding } from './remedy.ts'

const findings = (patch: Patch): Finding[] => {
  const result = compile(patch)
  if (!result.ok) throw new Error(result.faults[0]!.message)
  const { silent, unconnected, hints } = adviseOn(patch, result.plan)
  return [...silent, ...unconnected, ...hints]
}
const wordsOf = ({ place, message }: Finding): string => `${place} ${message}`

/** One of nearly everything that is found. */
const MESS: Patch = patchOf(
  [
    ['notes', 'notes'],
    ['drone', 'oscillator', { tracking: false }],
    ['amp', 'amplifier'],
    ['env', 'envelope'],
    ['steps', 'steps'],
    ['lost', 'filter'],
    ['bus', 'busin', { bus: 'hall' }],
    ['out', 'output'],
  ],
  ['drone.saw > amp.in', 'amp.out > out.in'],
  {
    macros: [
      { id: 'idle', name: 'Idle', value: 0.5, targets: [] },
      { id: 'wide', name: 'Wide', value: 0.5, targets: [{ param: 'lost.cutoff', from: 5, to: 40000 }] },
      { id: 'off', name: 'Off', value: 1, targets: [{ param: 'lost.resonance', from: 0, to: 0.9 }] },
    ],
    controllers: [{ id: 'k', target: 'lost.cutoff', controller: 20 }],
    snapshots: [
      { id: 's1', name: 'One', key: '1', params: { 'lost.cutoff': 300 }, bypass: { steps: true } },
      { id: 's2', name: 'Two', key: '1', params: {} },
    ],
  },
)

/** What names something that is not there, and many of one kind. */
const MORE: Patch = patchOf(
  [
    ['osc', 'wavetable'],
    ['keys', 'sampler'],
    ['head', 'reader', { name: 'quay' }],
    ['bank', 'equalizer'],
    ['filter', 'filter', { cutoff: '= 400' }],
    ['out', 'output'],
  ],
  [
    'osc.a > filter.in',
    'filter.low > bank.in',
    'bank.out > out.in',
    'keys.out > out.in',
    'head.out > out.in',
  ],
  {
    macros: [
      {
        id: 'many',
        name: 'Many',
        value: 1,
        targets: [1, 2, 3, 4, 5, 6].flatMap((n) => [
          { param: `bank.b${n}gain`, from: 0, to: 12 },
          { param: `bank.b${n}q`, from: 1, to: 4 },
        ]),
      },
    ],
    snapshots: [
      {
        id: 's1',
        name: 'One',
        key: '1',
        params: { 'filter.cutoff': 300, 'bank.output': -3 },
        scope: ['filter'],
      },
      { id: 's2', name: 'Two', key: '2', params: { 'filter.cutoff': 900, 'bank.output': 3 } },
    ],
    stage: {
      columns: 24,
      rows: 15,
      items: [
        {
          id: 'b1',
          kind: 'blend',
          x: 0,
          y: 0,
          w: 6,
          h: 6,
          marks: [
            { snapshot: 's1', x: 0, y: 0 },
            { snapshot: 's2', x: 1, y: 1 },
          ],
        },
      ],
    },
  },
)
const withData = (patch: Patch): Patch => ({
  ...patch,
  modules: patch.modules.map((module) =>
    module.id === 'osc'
      ? { ...module, data: { table: 'gone' } }
      : module.id === 'keys'
        ? { ...module, data: { zones: [{ asset: 'gone', root: 60 }] } }
        : module,
  ),
})

describe.each([
  ['remedies', MESS, 9],
  ['remedies of what is not there, and of many', withData(MORE), 12],
] as const)('%s', (_, patch, least) => {
  const all = findings(patch)
  it('are there for all that is found', () => {
    const bare = all.filter(({ remedies }) => remedies.length === 0)
    expect(bare.map(wordsOf)).toEqual([])
    expect(all.length).toBeGreaterThan(least)
  })
  it.each(all.map((finding) => [wordsOf(finding), finding] as const))('%s', (words, finding) => {
    for (const { label, apply, ask } of finding.remedies) {
      expect(apply !== undefined || ask !== undefined, label).toBe(true)
      if (!apply) continue
      const result = edit(patch, label, apply)
      expect(result.ok, label).toBe(true)
      if (!result.ok) continue
      // A file that may be opened again, and the finding is gone.
      expect(checkPatch(JSON.parse(JSON.stringify(result.patch))).ok, label).toBe(true)
      expect(findings(result.patch).map(wordsOf), label).not.toContain(words)
    }
  })
})

describe('remedies anywhere', () => {
  it('of patches wired at random are edits that are taken', () => {
    for (const seed of [3, 4, 5, 9]) {
      const patch = generatedPatch(40, seed)
      for (const { remedies } of findings(patch))
        for (const { label, apply } of remedies)
          if (apply) expect(edit(patch, label, apply).ok, label).toBe(true)
    }
  })
})
