import { describe, expect, it } from 'vitest'
import { generatedPatch } from '../testing/generated.ts'
import { apart, cablesOf, edited, grouped, heard, voice } from '../testing/groups.ts'
import { demoPatch, DEMOS } from '../testing/patches.ts'
import { duplicate } from './duplicate.ts'
import { connect, removeModules, setParam, withCableIds } from './edits.ts'
import { faceChoices, toggleFace } from './face.ts'
import { ungrouped } from './grouping.ts'
import { descriptionOf } from './groups.ts'
import { patchIndex } from './index.ts'
import { groupsAround, levelPatch } from './levels.ts'
import { labelOf } from './names.ts'
import { sourceBehind } from './passed.ts'
import { movePort } from './ports.ts'
import type { Patch, PatchModule } from './types.ts'
import { checkPatch } from './validate.ts'
import { everyCable, everyModule } from './walk.ts'

/** Numbers from 0 up to a limit, the same for the same seed. */
const rolling = (seed: number): ((limit: number) => number) => {
  let state = seed >>> 0
  return (limit) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 2 ** 32) * limit)
  }
}

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

  it('that adds up its voices is taken apart into the same sound, whether its ports say their kind or not', () => {
    const { patch, id } = grouped(voice(), ['env', 'filter', 'amp'])
    for (const saying of [true, false]) {
      const whole = edited(patch, (draft) => {
        setParam(draft, id, 'per', 'sum')
        const group = draft.modules.find((module) => module.id === id)!
        for (const port of group.inside!.modules) if (!saying) delete port.params?.['kind']
      })
      const kinds = descriptionOf(whole.modules.find((module) => module.id === id)!)!.inputs
      expect(kinds.map(({ kind }) => kind).sort(), String(saying)).toEqual(['audio', 'gate'])
      const back = apart(whole, id)
      expect(
        back.modules.filter(({ type }) => type === 'sum').map(({ label }) => label),
        String(saying),
      ).toEqual(kinds.filter(({ kind }) => kind === 'audio').map(({ name }) => name))
      expect(cablesOf(back).some((cable) => cable.startsWith('gate: notes.gate > env.gate'))).toBe(true)
    }
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

  it('is connected through a port where one end stands in it and the other does not', () => {
    const inner = grouped(voice(), ['filter', 'amp']),
      made = grouped(inner.patch, [inner.id, 'osc'])
    const next = edited(made.patch, (draft) => {
      connect(draft, 'env.env', 'filter.resonance', 0.3)
      connect(draft, 'filter.band', 'echo.in')
    })
    expect(heard(next)).toEqual(
      [
        ...heard(made.patch),
        'env.env > filter.resonance * 0.3000000000',
        'filter.band > echo.in * 1.000000000',
      ].sort(),
    )
    expect(next.cables.slice(-2)).toMatchObject([
      { from: 'env.env', to: `${made.id}.resonance` },
      { from: `${made.id}.band`, to: 'echo.in' },
    ])
    // A port that leads there alone is used again.
    const again = edited(next, (draft) => {
      connect(draft, 'notes.velocity', 'filter.resonance', 0.1)
    })
    expect(again.cables.at(-1)).toMatchObject({ from: 'notes.velocity', to: `${made.id}.resonance` })
    expect(descriptionOf(patchIndex(again).module.get(made.id)!)!.inputs).toHaveLength(3)
  })
})
