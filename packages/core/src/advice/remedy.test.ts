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

describe('remedies', () => {
  const all = findings(MESS)
  it('are there for nearly all that is found', () => {
    const bare = all.filter(({ remedies }) => remedies.length === 0)
    expect(bare.map(wordsOf)).toEqual([])
    expect(all.length).toBeGreaterThan(9)
  })
  it.each(all.map((finding) => [wordsOf(finding), finding] as const))('%s', (words, finding) => {
    for (const { label, apply, ask } of finding.remedies) {
      expect(apply !== undefined || ask !== undefined, label).toBe(true)
      if (!apply) continue
      const result = edit(MESS, label, apply)
      expect(result.ok, label).toBe(true)
      if (!result.ok) continue
      // A file that may be opened again, and the finding is gone.
      expect(checkPatch(JSON.parse(JSON.stringify(result.patch))).ok, label).toBe(true)
      expect(findings(result.patch).map(wordsOf), label).not.toContain(words)
    }
  })
  it('of patches wired at random are edits that are taken', () => {
    for (const seed of [3, 4, 5, 9]) {
      const patch = generatedPatch(40, seed)
      for (const { remedies } of findings(patch))
        for (const { label, apply } of remedies)
          if (apply) expect(edit(patch, label, apply).ok, label).toBe(true)
    }
  })
})
