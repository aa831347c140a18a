import { describe, expect, it } from 'vitest'
import { isSignalParam } from '../describe/slots.ts'
import { connect, setParam } from '../patch/edits.ts'
import { edit } from '../patch/document.ts'
import { descriptionOf } from '../patch/groups.ts'
import { placeModules } from '../patch/levels.ts'
import type { Patch } from '../patch/types.ts'
import { generatedPatch } from '../testing/generated.ts'
import { cardRect } from './free.ts'
import { placed } from './place.ts'
import { roomFor } from './room.ts'

/** An edit with the room it takes. */
const edited = (patch: Patch, recipe: Parameters<typeof edit>[2]): Patch => {
  const result = edit(patch, 'Edit', recipe)
  if (!result.ok) throw new Error(result.faults[0]!.message)
  const places = roomFor(patch, result.patch)
  const again = edit(patch, 'Edit', (draft) => {
    recipe(draft)
    placeModules(draft, places)
  })
  if (!again.ok) throw new Error('no room')
  return again.patch
}
const covered = (patch: Patch): string[] => {
  const rects = patch.modules.map((module) => ({ id: module.id, ...cardRect(patch, module) }))
  return rects.flatMap((a, n) =>
    rects
      .slice(n + 1)
      .filter(
        (b) => a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height,
      )
      .map((b) => `${a.id} ${b.id}`),
  )
}

describe('a card that grows', () => {
  const column = (): Patch =>
    ({
      ...generatedPatch(0, 1),
      modules: [
        { id: 'filter', type: 'filter', x: 0, y: 0 },
        { id: 'amp', type: 'amplifier', x: 0, y: 192 },
        { id: 'pan', type: 'pan', x: 96, y: 336 },
        { id: 'lfo', type: 'lfo', x: 300, y: 0 },
      ],
      cables: [],
    }) as unknown as Patch

  it('pushes what stands below it down, and that what it comes to, and nothing beside', () => {
    const before = column()
    expect(covered(before)).toEqual([])
    const after = edited(before, (draft) => {
      for (const name of ['drive', 'tracking', 'morph', 'slope'])
        setParam(draft, 'filter', name, name === 'slope' ? '24' : 0.5)
    })
    expect(covered(after)).toEqual([])
    const [filter, amp, pan, lfo] = after.modules
    expect([filter!.y, lfo!.y]).toEqual([0, 0])
    expect(amp!.y).toBeGreaterThan(192)
    expect(pan!.y).toBeGreaterThan(336)
    expect([amp!.x, pan!.x]).toEqual([0, 96])
  })

  it('has pushed enough already when it grows no further', () => {
    const once = edited(column(), (draft) => {
      setParam(draft, 'filter', 'drive', 6)
    })
    const twice = edited(once, (draft) => {
      setParam(draft, 'filter', 'drive', 7)
    })
    expect(twice.modules.map(({ y }) => y)).toEqual(once.modules.map(({ y }) => y))
  })

  it('never leaves a card covered that was not, whatever is connected', () => {
    let patch: Patch = placed(generatedPatch(30, 5))
    expect(covered(patch)).toEqual([])
    for (let n = 0; n < 60; n += 1) {
      const [from, to] = [patch.modules[(7 * n) % 30]!, patch.modules[(11 * n + 3) % 30]!]
      const output = descriptionOf(from)!.outputs[0],
        params = descriptionOf(to)!.params.filter(isSignalParam)
      const param = params[n % (params.length || 1)]
      if (!output || !param) continue
      patch = edited(patch, (draft) => {
        connect(draft, `${from.id}.${output.name}`, `${to.id}.${param.name}`, 0.001)
      })
      expect(covered(patch), `step ${n}`).toEqual([])
    }
  })
})
