import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyChange, edit, revertChange } from './document.ts'
import { addModule, connect, removeModules, setParam } from './edits.ts'
import { dropped, EMPTY_HISTORY, type History, latestOf, record, redo, undo } from './history.ts'
import { differences, differenceWords } from './differences.ts'
import { emptyPatch, type Patch } from './types.ts'

const base: Patch = {
  ...emptyPatch('Buoy'),
  modules: [
    { id: 'osc', type: 'oscillator', x: 0, y: 0 },
    { id: 'filter', type: 'filter', params: { cutoff: 500 } },
    { id: 'out', type: 'output' },
  ],
  cables: [{ id: 'c1', from: 'osc.saw', to: 'filter.in' }],
}

type Part = 'cutoff' | 'resonance' | 'move' | 'amount' | 'tempo' | 'connect' | 'add' | 'remove'
/** One part of a gesture; what it does depends on `n`. */
const part = (patch: Patch, what: Part, n: number, gesture: string) => {
  const result = edit(
    patch,
    what,
    (draft) => {
      if (what === 'cutoff') setParam(draft, 'filter', 'cutoff', 100 + n)
      else if (what === 'resonance') setParam(draft, 'filter', 'resonance', (n % 100) / 100)
      else if (what === 'move') Object.assign(draft.modules[0]!, { x: n, y: n })
      else if (what === 'amount' && draft.cables[0]) draft.cables[0].amount = n
      else if (what === 'tempo') draft.tempo = 40 + (n % 100)
      else if (what === 'connect') connect(draft, 'filter.low', 'out.in')
      else if (what === 'add') addModule(draft, 'lfo', n, n)
      else if (what === 'remove') removeModules(draft, new Set(['lfo']))
    },
    { gesture },
  )
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result
}

const PARTS: readonly Part[] = ['cutoff', 'resonance', 'move', 'amount', 'tempo', 'connect', 'add', 'remove']

describe('a gesture', () => {
  it('of 3,000 steps is one step with one value, and its inverse is exact', () => {
    let patch = base,
      history: History = EMPTY_HISTORY
    for (let n = 1; n <= 3000; n += 1) {
      const result = part(patch, 'cutoff', n, 'drag')
      patch = result.patch
      history = record(history, result.change)
    }
    expect(history.past).toHaveLength(1)
    expect(history.past[0]!.steps).toHaveLength(1)
    expect(history.past[0]!.inverse).toHaveLength(1)
    expect(undo(patch, history)!.patch).toEqual(base)
    expect(applyChange(base, history.past[0]!)).toEqual(patch)
  })

  it('of anything in any order goes there and back as its parts do', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(...PARTS), fc.integer({ min: 1, max: 900 })), { maxLength: 25 }),
        (parts) => {
          let patch = base,
            history: History = EMPTY_HISTORY
          for (const [what, n] of parts) {
            const result = part(patch, what, n, 'one')
            if (result.patch === patch) continue
            patch = result.patch
            history = record(history, result.change)
          }
          expect(history.past.length).toBeLessThanOrEqual(1)
          const [all] = history.past
          if (!all) return
          expect(applyChange(base, all)).toEqual(patch)
          expect(revertChange(patch, all)).toEqual(base)
          const back = undo(patch, history)!
          expect(back.patch).toEqual(base)
          expect(redo(back.patch, back.history)!.patch).toEqual(patch)
          expect(dropped(patch, history)!.history.future).toEqual([])
        },
      ),
      { numRuns: 300, endOnFailure: true },
    )
  })

  it('is over when another step was made or it was taken back', () => {
    const first = part(base, 'cutoff', 1, 'drag'),
      other = part(first.patch, 'tempo', 5, 'other'),
      again = part(other.patch, 'cutoff', 9, 'drag')
    const history = [first, other, again].reduce((all, { change }) => record(all, change), EMPTY_HISTORY)
    expect(history.past.map(({ name }) => name)).toEqual(['cutoff', 'tempo', 'cutoff'])
    const back = undo(again.patch, history)!
    expect(record(back.history, again.change).past).toHaveLength(3)
    expect(latestOf(history, 2).past.map(({ name }) => name)).toEqual(['tempo', 'cutoff'])
  })
})

describe('differences', () => {
  it('are told in the terms of a designer', () => {
    const then = part(
      part(part(base, 'cutoff', 900, 'a').patch, 'add', 5, 'b').patch,
      'connect',
      0,
      'c',
    ).patch
    const found = differences(base, { ...then, tempo: 90, view: { zoom: 2 } })
    expect(found).toMatchObject({
      modulesAdded: ['lfo'],
      modulesRemoved: [],
      cablesAdded: ['filter.low > out.in'],
      values: [{ target: 'filter.cutoff', before: '500 Hz', after: '1 kHz' }],
      fields: ['tempo'],
    })
    expect(differenceWords(found)).toBe('1 module added, 1 cable added, 1 value changed, tempo')
    expect(differenceWords(differences(base, structuredClone(base)))).toBe('no difference')
  })

  it('are none where a value is only written out, or a card moved', () => {
    const moved = part(base, 'move', 50, 'a').patch
    const written = edit(moved, 'x', (draft) => {
      setParam(draft, 'osc', 'octave', 0)
    })
    expect(written.ok && differenceWords(differences(base, written.patch))).toBe('no difference')
  })

  it('of amounts and names are told', () => {
    const found = differences(
      base,
      part(
        {
          ...base,
          modules: base.modules.map((module) =>
            module.id === 'osc' ? { ...module, label: 'Reed' } : module,
          ),
        },
        'amount',
        2,
        'a',
      ).patch,
    )
    expect(found.modulesChanged).toEqual(['osc'])
    expect(found.values).toEqual([{ target: 'cable:c1', before: '× 1', after: '× 2' }])
  })
})
