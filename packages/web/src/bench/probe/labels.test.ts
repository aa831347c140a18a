import fc from 'fast-check'
import { expect, it } from 'vitest'
import { type LabelPlace, placeLabels } from './labels.ts'

const wishes = fc.array(
  fc.record({
    x: fc.double({ min: 0, max: 600, noNaN: true }),
    width: fc.double({ min: 5, max: 90, noNaN: true }),
  }),
  { maxLength: 25 },
)

it('labels stand within their rows, none on another, none on a leader that passes', () => {
  fc.assert(
    fc.property(wishes, fc.integer({ min: 0, max: 3 }), fc.boolean(), (wanted, rows, isTaken) => {
      const taken = isTaken ? [[480, 600] as const] : []
      const places = placeLabels(wanted, { width: 600, rows, taken })
      const boxes = places.flatMap((place, n) =>
        place ? [{ ...place, right: place.left + wanted[n]!.width, x: wanted[n]!.x }] : [],
      )
      for (const [n, a] of boxes.entries()) {
        expect(a.left).toBeGreaterThanOrEqual(0)
        expect(a.right).toBeLessThanOrEqual(600)
        expect(a.row).toBeLessThan(Math.max(1, rows))
        for (const [left] of taken) expect(a.right).toBeLessThan(left)
        for (const b of boxes.slice(n + 1)) {
          if (a.row === b.row) expect(a.right < b.left || b.right < a.left).toBe(true)
          const [upper, lower] = a.row > b.row ? [a, b] : [b, a]
          if (upper.row > lower.row) expect(upper.x < lower.left || upper.x > lower.right).toBe(true)
        }
      }
    }),
    { numRuns: 400 },
  )
})

it('the first has the place it points to, and a second of the same place stands beside it or above', () => {
  const same = { x: 300, width: 60 }
  const [first, second, third] = placeLabels([same, same, same], { width: 600, rows: 1 }) as LabelPlace[]
  expect(first).toEqual({ row: 0, left: 270 })
  // Beside it would be further away than is clear.
  expect([second, third]).toEqual([undefined, undefined])
  expect(placeLabels([{ x: 2, width: 60 }], { width: 600, rows: 1 })).toEqual([{ row: 0, left: 0 }])
})
