import { describe, expect, it } from 'vitest'
import { PUBLIC_MODULES } from '../catalogue.ts'
import { compile } from '../compile/compile.ts'
import { edited, voice } from '../testing/groups.ts'
import { demoPatch } from '../testing/patches.ts'
import { withCableIds } from './edits.ts'
import { patchIndex } from './index.ts'
import { replaceModule } from './replace.ts'
import type { Patch } from './types.ts'
import { checkPatch } from './validate.ts'

const replaced = (patch: Patch, id: string, type: string): { patch: Patch; lost: number | undefined } => {
  let lost: number | undefined
  const next = edited(patch, (draft) => {
    lost = replaceModule(draft, id, type)
  })
  return { patch: next, lost }
}

describe('a module that becomes another one', () => {
  it('keeps its place, its name, its settings and its cables where the other has them', () => {
    const before = voice({
      macros: [
        {
          id: 'm',
          name: 'M',
          value: 0,
          targets: [
            { param: 'filter.cutoff', from: 100, to: 900 },
            { param: 'filter.morph', from: 0, to: 1 },
          ],
        },
      ],
    })
    const labelled = edited(before, (draft) => {
      const filter = draft.modules.find(({ id }) => id === 'filter')!
      filter.label = 'Pane'
      filter.params = { cutoff: 432, resonance: 0.7, morph: 0.2, slope: '24' }
    })
    const { patch, lost } = replaced(labelled, 'filter', 'ladder')
    const ladder = patchIndex(patch).module.get('filter')!
    expect(lost).toBe(0)
    expect([ladder.type, ladder.label, ladder.params!['cutoff']]).toEqual(['ladder', 'Pane', 432])
    expect(ladder.params!['morph']).toBeUndefined()
    const ends = patch.cables.map(({ id, from, to, amount }) => [id, from, to, amount])
    expect(ends).toContainEqual(['sweep', 'env.env', 'filter.cutoff', 2])
    expect(ends.find(([id]) => id === 'low')![1]).toMatch(/^filter\./)
    expect(patch.macros![0]!.targets).toEqual([{ param: 'filter.cutoff', from: 100, to: 900 }])
  })

  it('is a whole patch still, whatever becomes of what', () => {
    const demo = withCableIds(demoPatch('harbour-bell'))
    for (const { id, type } of demo.modules)
      for (const other of PUBLIC_MODULES) {
        if (other.type === type || other.role === 'output') continue
        const { patch } = replaced(demo, id, other.type)
        const words = `${id} becomes ${other.type}`
        const checked = checkPatch(JSON.parse(JSON.stringify(patch)))
        expect(checked.ok ? [] : checked.faults, words).toEqual([])
        if (other.shares === undefined) expect(compile(patch).ok, words).toBe(true)
      }
  })
})
