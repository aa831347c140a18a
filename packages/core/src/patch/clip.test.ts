import { describe, expect, it } from 'vitest'
import { compile } from '../compile/compile.ts'
import { patchOf } from '../testing/bench.ts'
import { demoPatch, DEMOS } from '../testing/patches.ts'
import { clipOf, clipText, pasteClip, readClip } from './clip.ts'
import { edit } from './document.ts'
import { emptyPatch, type Patch } from './types.ts'
import { checkPatch } from './validate.ts'
import { everyModule } from './walk.ts'

const pasted = (into: Patch, text: string): { patch: Patch; ids: string[] } => {
  const read = readClip(text)
  if (!read.ok) throw new Error(read.faults[0]?.message ?? 'no clip')
  let ids: string[] = []
  const result = edit(into, 'Paste', (draft) => {
    ids = pasteClip(draft, read.clip, 36, 36)
  })
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return { patch: result.patch, ids }
}
const all = (patch: Patch): string => clipText(clipOf(patch, new Set(patch.modules.map(({ id }) => id))))

describe('a clip', () => {
  it('of a whole demo, pasted into an empty patch, is the same sound but for its places; twice, every id is its own', () => {
    for (const name of DEMOS) {
      const demo = demoPatch(name)
      const { assets, tuning, tempo } = demo as { assets?: unknown; tuning?: unknown; tempo?: number }
      const empty = {
        ...emptyPatch(),
        ...(assets ? { assets } : {}),
        ...(tuning ? { tuning } : {}),
        tempo,
      } as Patch
      // Formulas that read macros need them.
      const bare = { ...empty, macros: demo.macros ?? [] }
      const once = pasted({ ...bare, macros: [] }, all({ ...demo, macros: [] })).patch
      expect(once.modules.map(({ id }) => id)).toEqual(demo.modules.map(({ id }) => id))
      expect(once.cables.map(({ from, to, amount }) => [from, to, amount])).toEqual(
        demo.cables.map(({ from, to, amount }) => [from, to, amount]),
      )
      const { patch: twice, ids } = pasted(once, all(demo))
      const names = everyModule(twice).map(({ module }) => module.id)
      expect(new Set(names).size, name).toBe(names.length)
      expect(ids).toHaveLength(demo.modules.length)
      expect(twice.cables).toHaveLength(2 * demo.cables.length)
      expect(new Set(twice.cables.map(({ id }) => id)).size).toBe(
        twice.cables.filter(({ id }) => id).length || 1,
      )
      expect(checkPatch(JSON.parse(JSON.stringify(twice))).ok, name).toBe(true)
      expect(compile(twice).ok, name).toBe(true)
    }
  })

  it('has formulas name what came with them, and leaves those that name what stays', () => {
    const patch = patchOf(
      [
        ['lfo', 'lfo'],
        ['osc', 'oscillator', { fine: '= lfo.out * 10' }],
        ['out', 'output'],
      ],
      ['osc.saw > out.in'],
    )
    const { patch: both, ids } = pasted(patch, clipText(clipOf(patch, new Set(['lfo', 'osc']))))
    expect(both.modules.find(({ id }) => id === ids[1])?.params?.['fine']).toBe(`= ${ids[0]}.out * 10`)
    const alone = pasted(patch, clipText(clipOf(patch, new Set(['osc']))))
    expect(alone.patch.modules.find(({ id }) => id === alone.ids[0])?.params?.['fine']).toBe('= lfo.out * 10')
    // Where there is none of that name, the field goes back to its default.
    const elsewhere = pasted(emptyPatch(), clipText(clipOf(patch, new Set(['osc']))))
    expect(elsewhere.patch.modules[0]!.params).toEqual({})
    // Only cables between what was copied come along.
    expect(alone.patch.cables).toHaveLength(1)
  })

  it('is told from other text, and what is wrong in it has its place', () => {
    for (const text of ['', 'hello', '{"format": "else"}', '[1]', 'null'])
      expect(readClip(text)).toEqual({ ok: false, faults: [] })
    const wrong = readClip(
      '{"format": "ypsilon/clip", "version": 1, "modules": [{ "id": 7, "type": "filter" }]}',
    )
    expect(wrong.ok).toBe(false)
    expect(wrong.ok ? '' : wrong.faults[0]!.place).toBe('modules[0].id')
    // What cannot be is refused where it is pasted, and changes nothing.
    const params = { cutoff: 9e9 }
    const high = readClip(clipText({ modules: [{ id: 'f', type: 'filter', params }], cables: [] }))
    expect(high.ok).toBe(true)
    const refused = edit(emptyPatch(), 'Paste', (draft) => {
      if (high.ok) pasteClip(draft, high.clip, 0, 0)
    })
    expect(refused.ok).toBe(false)
    expect(refused.ok ? '' : refused.faults[0]!.place).toBe('modules[0].params.cutoff')
    expect(readClip(JSON.stringify(demoPatch('reed-lamp'))).ok).toBe(true)
  })
})

describe('assets of a clip', () => {
  const withSound = (assets: object): Patch =>
    patchOf([['player', 'player', { asset: 'gull' }]], [], { assets } as object)
  const GULL = { kind: 'audio', file: 'assets/gull.wav', hash: 'a'.repeat(64) }
  const namedIn = (patch: Patch): unknown => patch.modules.at(-1)!.params!['asset']

  it('come with the modules that name them, once', () => {
    const text = all(withSound({ gull: GULL, surf: { ...GULL, hash: 'b'.repeat(64) } }))
    const { patch } = pasted(emptyPatch(), text)
    expect(patch['assets']).toEqual({ gull: GULL })
    expect(namedIn(patch)).toBe('gull')
    const twice = pasted(patch, text).patch
    expect(twice['assets']).toEqual({ gull: GULL })
    expect(namedIn(twice)).toBe('gull')
  })

  it('get another name where another one has theirs', () => {
    const other = { ...GULL, hash: 'c'.repeat(64) }
    const { patch } = pasted(withSound({ gull: other }), all(withSound({ gull: GULL })))
    expect(patch['assets']).toEqual({ gull: other, gull2: GULL })
    expect(namedIn(patch)).toBe('gull2')
  })
})
