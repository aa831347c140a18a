import { expect, it } from 'vitest'
import { demoPatch, DEMOS } from '../testing/patches.ts'
import { patchIndex } from '../patch/index.ts'
import { splitTarget } from '../patch/walk.ts'
import { cardRect } from './free.ts'
import { focusPlaces } from './focus.ts'

it('brings what a module is connected to beside it, and lets no card cover another, in every demo', () => {
  for (const name of DEMOS) {
    const patch = demoPatch(name),
      { module: modules } = patchIndex(patch)
    for (const { id, x = 0, y = 0 } of patch.modules) {
      const places = focusPlaces(patch, id)
      const wanted = new Set([
        id,
        ...patch.cables.flatMap(({ from, to }) => {
          const [a, b] = [splitTarget(from)![0], splitTarget(to)![0]]
          return a === id ? [b] : b === id ? [a] : []
        }),
      ])
      expect(new Set(places.keys()), `${name} ${id}`).toEqual(wanted)
      expect(places.get(id)).toEqual({ x, y })
      const rects = [...places].map(([one, place]) => ({ ...cardRect(patch, modules.get(one)!), ...place }))
      rects.forEach((a, n) => {
        for (const b of rects.slice(n + 1))
          expect(
            a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height,
            `${name} ${id}`,
          ).toBe(false)
      })
    }
  }
})
