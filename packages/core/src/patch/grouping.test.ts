import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import { compile } from '../compile/compile.ts'
import { flatten } from '../compile/flatten.ts'
import { patchOf } from '../testing/bench.ts'
import { demoPatch, DEMOS } from '../testing/patches.ts'
import { generatedPatch } from '../testing/generated.ts'
import { edit, revertChange } from './document.ts'
import { duplicate } from './duplicate.ts'
import { removeModules, setParam, withCableIds } from './edits.ts'
import { dissolveGroup, faceChoices, makeGroup, toggleFace, ungrouped } from './grouping.ts'
import { descriptionOf } from './groups.ts'
import { patchIndex } from './index.ts'
import { groupsAround, levelPatch } from './levels.ts'
import { labelOf } from './names.ts'
import { asOwn, copiesOf, replaceInside } from './own-modules.ts'
import { sourceBehind } from './passed.ts'
import { movePort } from './ports.ts'
import type { Patch, PatchModule } from './types.ts'
import { checkPatch } from './validate.ts'
import { everyCable, everyModule } from './walk.ts'

type Recipe = Parameters<typeof edit>[2]

/** The patch after an edit that is taken, whose inverse gives back what was before. */
const edited = (patch: Patch, recipe: Recipe): Patch => {
  const result = edit(patch, 'Edit', recipe)
  if (!result.ok)
    throw new Error(result.faults.map(({ place, message }) => `${place}: ${message}`).join('\n'))
  expect(revertChange(result.patch, result.change)).toEqual(patch)
  return result.patch
}
const grouped = (patch: Patch, ids: readonly string[]): { patch: Patch; id: string } => {
  let id: string | undefined
  const next = edited(patch, (draft) => {
    id = makeGroup(draft, new Set(ids))
  })
  return { patch: next, id: id! }
}
const apart = (patch: Patch, id: string): Patch =>
  edited(patch, (draft) => {
    dissolveGroup(draft, id)
  })

/** What ends where, and how much of it, once everything that is dissolved is. */
const heard = (patch: Patch): string[] =>
  [...flatten(patch, CATALOGUE).feeds]
    .flatMap(([to, feeds]) => feeds.map((feed) => `${feed.from} > ${to} * ${feed.amount.toPrecision(10)}`))
    .sort()

/** Numbers from 0 up to a limit, the same for the same seed. */
const rolling = (seed: number): ((limit: number) => number) => {
  let state = seed >>> 0
  return (limit) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 2 ** 32) * limit)
  }
}

const cablesOf = (patch: Patch): string[] =>
  patch.cables
    .map(
      (cable) => `${cable.id ?? ''}: ${cable.from} > ${cable.to} * ${cable.amount ?? 1} ${cable.muted ?? ''}`,
    )
    .sort()

const voice = (more: object = {}): Patch =>
  patchOf(
    [
      ['notes', 'notes', { voices: 4 }],
      ['osc', 'oscillator'],
      ['env', 'envelope'],
      ['filter', 'filter', { cutoff: 800 }],
      ['amp', 'amplifier'],
      ['echo', 'delay'],
      ['out', 'output'],
    ],
    [
      'pitch: notes.pitch > osc.pitch',
      'gate: notes.gate > env.gate',
      'saw: osc.saw > filter.in',
      'sweep: env.env > filter.cutoff * 2',
      'level: env.env > amp.cv',
      'low: filter.low > amp.in',
      'send: amp.out > echo.in * 0.5',
      'dry: amp.out > out.in',
      'wet: echo.out > out.in',
    ],
    more,
  )

describe('a group', () => {
  it('of anything in any patch sounds as before, and is taken apart into what it was made of', () => {
    const patches = [
      ...DEMOS.map((name) => demoPatch(name)),
      ...[1, 2, 3, 4].map((seed) => generatedPatch(30, seed)),
    ]
    patches.forEach((given, seed) => {
      const patch = withCableIds(given),
        roll = rolling(seed + 1)
      for (let round = 0; round < 4; round += 1) {
        const ids = patch.modules.filter(() => roll(3) === 0).map(({ id }) => id)
        if (ids.length === 0) continue
        const words = `patch ${seed} ${given.name}, round ${round}: ${ids.join(' ')}`
        const whole = grouped(patch, ids)
        expect(checkPatch(JSON.parse(JSON.stringify(whole.patch))).ok, words).toBe(true)
        expect(heard(whole.patch), words).toEqual(heard(patch))
        const back = apart(whole.patch, whole.id)
        expect(cablesOf(back), words).toEqual(cablesOf(patch))
        expect(back.modules.map(({ id }) => id).sort(), words).toEqual(
          patch.modules.map(({ id }) => id).sort(),
        )
      }
    })
  })

  it('in a group in a group sounds as before, from the inside out and from the outside in', () => {
    const patch = voice()
    const one = grouped(patch, ['filter', 'amp']),
      two = grouped(one.patch, [one.id, 'env']),
      three = grouped(two.patch, [two.id, 'osc'])
    expect(groupsAround(three.patch, 'amp')).toEqual([three.id, two.id, one.id])
    expect(heard(three.patch)).toEqual(heard(patch))
    expect(cablesOf(ungrouped(three.patch))).toEqual(cablesOf(patch))
    const inner = apart(three.patch, two.id)
    expect(heard(inner)).toEqual(heard(patch))
    expect(levelPatch(inner, three.id).modules.map(({ id }) => id)).toContain(one.id)
  })

  it('has ports named as what it was cut at, each source once, of the kind it carries', () => {
    const { patch, id } = grouped(voice(), ['osc', 'filter', 'amp'])
    const description = descriptionOf(patchIndex(patch).module.get(id)!)!
    expect(description.inputs).toEqual([
      { name: 'pitch', kind: 'pitch' },
      { name: 'env', kind: 'control' },
    ])
    expect(description.outputs).toEqual([{ name: 'out', kind: 'audio' }])
    expect(sourceBehind(patch, `${id}.out`)).toBe('amp.out')
    const port = patchIndex(patch)
      .module.get(id)!
      .inside!.modules.find(({ type }) => type === 'portin')!
    expect(sourceBehind(patch, `${port.id}.out`)).toBe('notes.pitch')
    expect(sourceBehind(patch, 'osc.saw')).toBe('osc.saw')
  })

  it('keeps what moves its cables, whichever of the two it becomes', () => {
    const patch = voice({
      macros: [{ id: 'm', name: 'M', value: 0.5, targets: [{ param: 'cable:dry', from: 0, to: 1 }] }],
      snapshots: [{ id: 's', name: 'S', params: { 'cable:sweep': 1, 'filter.cutoff': 300 } }],
    })
    const { patch: next, id } = grouped(patch, ['filter', 'amp', 'env'])
    expect(next.macros).toEqual(patch.macros)
    const back = apart(next, id)
    expect([back.macros, back.snapshots]).toEqual([patch.macros, patch.snapshots])
    expect(cablesOf(back)).toEqual(cablesOf(patch))
  })

  it('keeps every connection when a port is named otherwise; a name that is taken gets a number', () => {
    const { patch, id } = grouped(voice(), ['osc', 'filter', 'amp'])
    const port = (name: string, of: Patch): PatchModule =>
      patchIndex(of)
        .module.get(id)!
        .inside!.modules.find((inner) => inner.params?.['name'] === name)!
    const renamed = edited(patch, (draft) => {
      setParam(draft, port('env', patch).id, 'name', 'Bright.ness')
    })
    expect(heard(renamed)).toEqual(heard(patch))
    expect(labelOf(renamed, port('Bright ness', renamed).id)).toBe('Bright ness')
    const twice = edited(renamed, (draft) => {
      setParam(draft, port('Bright ness', renamed).id, 'name', 'pitch')
    })
    expect(descriptionOf(patchIndex(twice).module.get(id)!)!.inputs.map(({ name }) => name)).toEqual([
      'pitch',
      'pitch 2',
    ])
    expect(heard(twice)).toEqual(heard(patch))
    const moved = edited(twice, (draft) => {
      movePort(draft, port('pitch 2', twice).id, -1)
    })
    expect(descriptionOf(patchIndex(moved).module.get(id)!)!.inputs.map(({ name }) => name)).toEqual([
      'pitch 2',
      'pitch',
    ])
    expect(heard(moved)).toEqual(heard(patch))
  })

  it('loses with a module inside what moved it, showed it and led through it', () => {
    const made = grouped(voice(), ['osc', 'filter', 'amp'])
    const patch = edited(made.patch, (draft) => {
      toggleFace(draft, made.id, 'filter.cutoff')
      draft.macros = [
        { id: 'm', name: 'M', value: 0, targets: [{ param: 'filter.resonance', from: 0, to: 1 }] },
      ]
    })
    const inside = patchIndex(patch).module.get(made.id)!.inside!
    const out = inside.modules.find(({ type }) => type === 'portout')!
    const next = edited(patch, (draft) => {
      removeModules(draft, new Set(['filter', out.id]))
    })
    expect(patchIndex(next).module.get(made.id)!['face']).toEqual([])
    expect(next.macros![0]!.targets).toEqual([])
    expect(everyCable(next).some(({ cable }) => cable.from.startsWith(`${made.id}.`))).toBe(false)
    const gone = edited(patch, (draft) => {
      removeModules(draft, new Set([made.id]))
    })
    expect(gone.macros![0]!.targets).toEqual([])
    expect(everyModule(gone).map(({ module }) => module.id)).toEqual(['notes', 'env', 'echo', 'out'])
  })

  it('that is copied has ids of its own inside, down to its cables and what it shows', () => {
    const inner = grouped(voice(), ['filter', 'amp'])
    const made = grouped(inner.patch, [inner.id, 'osc', 'env'])
    const patch = edited(made.patch, (draft) => {
      toggleFace(draft, made.id, 'filter.cutoff')
    })
    let ids: string[] = []
    const next = edited(patch, (draft) => {
      ids = duplicate(draft, [made.id], 36, true)
    })
    expect(checkPatch(JSON.parse(JSON.stringify(next))).ok).toBe(true)
    const copy = patchIndex(next).module.get(ids[0]!)!
    expect(copy['face']).toMatchObject([{ param: 'filter2.cutoff' }])
    expect(descriptionOf(copy)!.params.map(({ name }) => name)).toEqual(['per', 'filter2.cutoff'])
    expect(sourceBehind(next, `${ids[0]!}.out`)).toBe('amp2.out')
  })

  it('shows rows of what is in it, each once, set and fed under their own names', () => {
    const made = grouped(voice(), ['osc', 'filter', 'amp'])
    const group = (patch: Patch): PatchModule => patchIndex(patch).module.get(made.id)!
    expect(faceChoices(group(made.patch)).map(({ target }) => target)).toContain('filter.resonance')
    const shown = edited(made.patch, (draft) => {
      toggleFace(draft, made.id, 'filter.cutoff')
      toggleFace(draft, made.id, 'filter.resonance')
      draft.cables.push({ id: 'wobble', from: 'env.env', to: 'filter.resonance', amount: 0.2 })
    })
    expect(descriptionOf(group(shown))!.params.map(({ name, label }) => [name, label])).toEqual([
      ['per', 'Voices'],
      ['filter.cutoff', 'Cutoff'],
      ['filter.resonance', 'Resonance'],
    ])
    expect(faceChoices(group(shown)).map(({ target }) => target)).not.toContain('filter.resonance')
    expect(heard(shown)).toContain('env.env > filter.resonance * 0.2000000000')
    const back = apart(shown, made.id)
    expect(cablesOf(back)).toContain('wobble: env.env > filter.resonance * 0.2 ')
  })
})

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
