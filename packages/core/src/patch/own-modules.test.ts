import { describe, expect, it } from 'vitest'
import { compile } from '../compile/compile.ts'
import { edited, grouped, heard, voice } from '../testing/groups.ts'
import { duplicate } from './duplicate.ts'
import { setParam } from './edits.ts'
import { toggleFace } from './face.ts'
import { ungrouped } from './grouping.ts'
import { patchIndex } from './index.ts'
import { asOwn, copiesOf, replaceInside } from './own-modules.ts'
import type { Patch, PatchModule } from './types.ts'
import { checkPatch } from './validate.ts'

describe('how a group runs', () => {
  const voicesOf = (patch: Patch, id: string): number => {
    const result = compile(patch)
    if (!result.ok) throw new Error(result.faults[0]!.message)
    return result.plan.modules.find((module) => module.id === id)!.voices
  }
  const set = (patch: Patch, id: string, per: string): Patch =>
    edited(patch, (draft) => {
      setParam(draft, id, 'per', per)
    })

  it('is as its modules say, or each voice on its own, or once for all', () => {
    const { patch, id } = grouped(voice(), ['filter', 'amp', 'echo'])
    expect(['filter', 'amp', 'echo'].map((one) => voicesOf(patch, one))).toEqual([4, 4, 1])
    const each = set(patch, id, 'voice')
    expect(['filter', 'amp', 'echo'].map((one) => voicesOf(each, one))).toEqual([4, 4, 4])
    const once = set(patch, id, 'sum')
    expect(['osc', 'filter', 'amp', 'echo'].map((one) => voicesOf(once, one))).toEqual([4, 1, 1, 1])
    expect(patchIndex(set(each, id, 'own')).module.get('echo')).toEqual(patchIndex(patch).module.get('echo'))
  })

  it('once for all is what a module that adds voices before it would give', () => {
    const { patch, id } = grouped(voice(), ['filter', 'amp', 'echo'])
    const once = set(patch, id, 'sum'),
      flat = ungrouped(once)
    expect(flat.modules.filter(({ type }) => type === 'sum')).toHaveLength(2)
    expect(heard(flat)).toEqual(heard(once))
  })

  it('bypassed passes on what comes in', () => {
    const { patch, id } = grouped(voice(), ['filter', 'amp'])
    const bypassed = edited(patch, (draft) => {
      draft.modules.find((module) => module.id === id)!.bypass = true
    })
    expect(heard(bypassed)).toContain('osc.saw > out.in * 1.000000000')
    expect(heard(bypassed).some((feed) => feed.startsWith('amp.'))).toBe(false)
  })
})

describe('a module of one’s own', () => {
  it('replaced where it was put keeps ids, cables and the values of what it shows', () => {
    const made = grouped(voice(), ['filter', 'amp'])
    let patch = edited(made.patch, (draft) => {
      toggleFace(draft, made.id, 'filter.cutoff')
    })
    const kept = asOwn(patchIndex(patch).module.get(made.id)!, 'own1', 'Tone')
    patch = edited(patch, (draft) => {
      Object.assign(
        draft.modules.find(({ id }) => id === made.id)!,
        { own: 'own1' },
      )
      duplicate(draft, [made.id], 36, true)
      setParam(draft, 'filter', 'cutoff', 300)
      setParam(draft, 'filter', 'resonance', 0.9)
    })
    const [first, second] = copiesOf(patch, 'own1')
    expect(first).toBe(made.id)
    const changed = JSON.parse(JSON.stringify(kept)) as PatchModule & {
      inside: { modules: { id: string; params?: object; type: string }[]; cables: object[] }
    }
    changed.inside.modules.push({ id: 'drive', type: 'drive' })
    for (const module of changed.inside.modules)
      if (module.id === 'filter') module.params = { cutoff: 5000, resonance: 0.4 }
    const next = edited(patch, (draft) => {
      replaceInside(draft, first!, changed)
      replaceInside(draft, second!, changed)
    })
    const values = (id: string): unknown => patchIndex(next).module.get(id)!.params
    // What is shown is each copy's own; all else is as it is kept.
    expect(values('filter')).toEqual({ cutoff: 300, resonance: 0.4 })
    expect(values('filter2')).toEqual({ cutoff: 800, resonance: 0.4 })
    expect(patchIndex(next).module.has('drive') && patchIndex(next).module.has('drive2')).toBe(true)
    expect(heard(next)).toEqual(heard(patch))
    expect(checkPatch(JSON.parse(JSON.stringify(next))).ok).toBe(true)
  })

  it('that has lost a port loses what was connected there, and nothing else', () => {
    const made = grouped(voice(), ['filter', 'amp'])
    const patch = edited(made.patch, (draft) => {
      draft.macros = [{ id: 'm', name: 'M', value: 0, targets: [{ param: 'amp.level', from: -12, to: 0 }] }]
    })
    const kept = JSON.parse(
      JSON.stringify(asOwn(patchIndex(patch).module.get(made.id)!, 'own1', 'Tone')),
    ) as PatchModule & {
      inside: { modules: { id: string; type: string }[]; cables: { from: string; to: string }[] }
    }
    kept.inside.modules = kept.inside.modules.filter(({ id }) => id !== 'amp')
    kept.inside.cables = kept.inside.cables.filter(({ from, to }) => !/amp\./.test(`${from} ${to}`))
    kept.inside.modules = kept.inside.modules.filter(({ type }) => type !== 'portout')
    const next = edited(patch, (draft) => {
      replaceInside(draft, made.id, kept)
    })
    expect(next.cables.some(({ from }) => from.startsWith(`${made.id}.`))).toBe(false)
    expect(next.cables.filter(({ to }) => to.startsWith(`${made.id}.`))).toHaveLength(2)
    expect(next.macros![0]!.targets).toEqual([])
  })
})
