/** Lining up and spacing: what moves, to where, and that a second time changes nothing. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { aligned, EDGES, type PlacedBox, spaced } from './arrange.ts'
import { GRID } from './grid.ts'

const boxes: readonly PlacedBox[] = [
  { id: 'a', x: 0, y: 24, width: 192, height: 100 },
  { id: 'b', x: 300, y: 240, width: 192, height: 60 },
  { id: 'c', x: 120, y: 480, width: 384, height: 148 },
]
const moved = (list: readonly PlacedBox[], places: ReturnType<typeof aligned>): PlacedBox[] =>
  list.map((box) => ({ ...box, ...places.get(box.id) }))
const anyBoxes = fc
  .array(
    fc.record({
      x: fc.integer({ min: -200, max: 200 }).map((n) => n * GRID),
      y: fc.integer({ min: -200, max: 200 }).map((n) => n * GRID),
      width: fc.constantFrom(192, 384),
      height: fc.integer({ min: 40, max: 600 }),
    }),
    { minLength: 2, maxLength: 9 },
  )
  .map((list) => list.map((box, n): PlacedBox => ({ id: `m${n}`, ...box })))

describe('aligned', () => {
  it('at every edge of what they cover', () => {
    const at = (edge: (typeof EDGES)[number]) => moved(boxes, aligned(boxes, edge))
    expect(at('left').map(({ x }) => x)).toEqual([0, 0, 0])
    expect(at('right').map(({ x, width }) => x + width)).toEqual([504, 504, 504])
    expect(at('top').map(({ y }) => y)).toEqual([24, 24, 24])
    // On the grid, as near to 628 as that lets them.
    for (const { y, height } of at('bottom')) expect(Math.abs(y + height - 628)).toBeLessThanOrEqual(GRID / 2)
    for (const { y, height } of at('middle'))
      expect(Math.abs(y + height / 2 - 326)).toBeLessThanOrEqual(GRID / 2)
    for (const { x, width } of at('centre')) expect(x + width / 2).toBe(252)
  })
  it('moves one way alone, stays on the grid, and a second time changes nothing', () => {
    fc.assert(
      fc.property(anyBoxes, fc.constantFrom(...EDGES), (list, edge) => {
        const once = moved(list, aligned(list, edge))
        once.forEach((box, n) => {
          const isAcross = ['left', 'right', 'centre'].includes(edge)
          expect(isAcross ? box.y : box.x).toBe(isAcross ? list[n]!.y : list[n]!.x)
          expect([Math.abs(box.x % GRID), Math.abs(box.y % GRID)]).toEqual([0, 0])
        })
        // What is rounded to the grid may end lower than it was: those edges are the tops' and the lefts'.
        if (edge === 'left' || edge === 'top') expect(aligned(once, edge).size).toBe(0)
      }),
    )
  })
})

describe('spaced', () => {
  it('has the same gaps to within the grid, in the same order, the ends where they were', () => {
    fc.assert(
      fc.property(anyBoxes, fc.constantFrom('across' as const, 'down' as const), (list, axis) => {
        const at = (box: PlacedBox): number => (axis === 'across' ? box.x : box.y),
          size = (box: PlacedBox): number => (axis === 'across' ? box.width : box.height)
        const order = [...list].sort((a, b) => at(a) - at(b) || (a.id < b.id ? -1 : 1)).map(({ id }) => id)
        const after = new Map(moved(list, spaced(list, axis)).map((box) => [box.id, box]))
        const now = order.map((id) => after.get(id)!)
        expect(at(now[0]!)).toBe(at(list.find(({ id }) => id === order[0])!))
        expect(at(now.at(-1)!)).toBe(at(list.find(({ id }) => id === order.at(-1))!))
        if (now.length < 3) return
        const gaps = now.slice(1).map((box, n) => at(box) - at(now[n]!) - size(now[n]!))
        for (const gap of gaps) expect(Math.abs(gap - gaps[0]!)).toBeLessThanOrEqual(2 * GRID)
      }),
    )
  })
  it('leaves two alone', () => {
    expect(spaced(boxes.slice(0, 2), 'across').size).toBe(0)
  })
})
