import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { emptyPatch, type Patch } from '../patch/types.ts'
import { CARD_WIDTH, cardLayout } from './card.ts'
import { freePlace } from './free.ts'
import { GRID } from './grid.ts'

const patchOf = (places: readonly (readonly [number, number])[]): Patch => ({
  ...emptyPatch('Places'),
  modules: places.map(([x, y], n) => ({ id: `m${n}`, type: 'filter', x, y })),
})
const box = (type: string, x: number, y: number) => ({
  left: x,
  top: y,
  right: x + CARD_WIDTH,
  bottom: y + cardLayout({ id: '', type }, new Set(), false).height,
})

describe('a new module', () => {
  it('stands where it was wanted, on the grid, as long as no head is hidden by it', () => {
    expect(freePlace(patchOf([]), 'filter', 101, 47)).toEqual({ x: 96, y: 48 })
    expect(freePlace(patchOf([[96, 0]]), 'filter', 101, 47)).toEqual({ x: 96, y: 48 })
  })

  it('touches no other where it would hide one, however many stand there', () => {
    const place = fc.tuple(fc.integer({ min: -20, max: 20 }), fc.integer({ min: -20, max: 20 }))
    fc.assert(
      fc.property(fc.array(place, { minLength: 1, maxLength: 12 }), (cells) => {
        const patch = patchOf(cells.map(([x, y]) => [x * GRID, y * GRID]))
        const { x = 0, y = 0 } = patch.modules[0]!
        const found = freePlace(patch, 'osc', x, y)
        expect([found.x % GRID, found.y % GRID].map(Math.abs)).toEqual([0, 0])
        const mine = box('osc', found.x, found.y)
        for (const module of patch.modules) {
          const other = box(module.type, module.x ?? 0, module.y ?? 0)
          const isApart =
            mine.left >= other.right ||
            mine.right <= other.left ||
            mine.top >= other.bottom ||
            mine.bottom <= other.top
          expect(isApart, `${found.x}, ${found.y} over ${module.id}`).toBe(true)
        }
      }),
      { numRuns: 60 },
    )
  })

  it('one after the other at one place never land on one another', () => {
    let patch = patchOf([])
    const seen = new Set<string>()
    for (let n = 0; n < 40; n += 1) {
      const { x, y } = freePlace(patch, 'filter', 0, 0)
      expect(seen.has(`${x} ${y}`)).toBe(false)
      seen.add(`${x} ${y}`)
      patch = { ...patch, modules: [...patch.modules, { id: `n${n}`, type: 'filter', x, y }] }
    }
  })
})
