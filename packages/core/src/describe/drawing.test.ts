import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import { dataFaults } from '../patch/values.ts'
import { movePoint, spotOf } from './drawing.ts'
import { addPoint, bendPoint, heightOf, pointsOfShape, removePoint, SHAPES, snapped } from './redrawing.ts'
import type { Point } from './points.ts'

const TIMED = { across: 't', up: 'v', left: 0, right: 1, foot: -1, top: 1, length: 'length' } as const
const PLAIN = { across: 'x', up: 'y', left: -1, right: 1, foot: -1, top: 1 } as const

const spot = fc.tuple(
  fc.double({ min: -0.5, max: 1.5, noNaN: true }),
  fc.double({ min: -0.5, max: 1.5, noNaN: true }),
)
/** What hands do, one after the other. */
const acts = fc.array(
  fc.oneof(
    fc.record({ do: fc.constant('add' as const), spot }),
    fc.record({ do: fc.constant('move' as const), at: fc.nat(12), spot }),
    fc.record({ do: fc.constant('remove' as const), at: fc.nat(12) }),
    fc.record({
      do: fc.constant('bend' as const),
      at: fc.nat(12),
      curve: fc.double({ min: -2, max: 2, noNaN: true }),
    }),
  ),
  { maxLength: 20 },
)

describe('a drawn curve', () => {
  it.each([
    ['contour', TIMED],
    ['curve', PLAIN],
  ] as const)('stays one that %s takes, in order and from side to side, whatever hands do', (type, spans) => {
    const data = CATALOGUE.get(type)!.description.data![0]!
    expect(data.spans).toEqual(spans)
    fc.assert(
      fc.property(acts, (all) => {
        let points: readonly Point[] = pointsOfShape(SHAPES.get('arch')!, spans)
        for (const act of all) {
          if (act.do === 'add') points = addPoint(points, act.spot, spans).points
          else {
            const at = act.at % points.length
            if (act.do === 'move') points = movePoint(points, at, act.spot, spans)
            else if (act.do === 'remove') points = removePoint(points, at)
            else points = bendPoint(points, at, act.curve)
          }
          expect(dataFaults(data, points, 'points')).toEqual([])
          const spots = points.map((point) => spotOf(point, spans))
          expect(spots[0]![0]).toBe(0)
          expect(spots.at(-1)![0]).toBe(1)
          for (const [n, [x, y]] of spots.entries()) {
            expect(x).toBeGreaterThanOrEqual(spots[n - 1]?.[0] ?? 0)
            expect(y).toBeGreaterThanOrEqual(0)
            expect(y).toBeLessThanOrEqual(1)
          }
        }
      }),
    )
  })

  it('goes through the point that is added, and comes back when it is taken away', () => {
    const points = pointsOfShape(SHAPES.get('swell')!, TIMED)
    const { points: more, index } = addPoint(points, [0.3, 0.9], TIMED)
    expect(more).toHaveLength(points.length + 1)
    expect(heightOf(more, TIMED, 0.3)).toBeCloseTo(0.9, 9)
    expect(removePoint(more, index)).toEqual(points)
  })

  it('keeps what else a point carries, and names its places as the module does', () => {
    const points: Point[] = [
      { t: 0, v: 0 },
      { t: 0.5, v: 1, curve: 0.3, sustain: true } as Point,
      { t: 1, v: 0 },
    ]
    expect(movePoint(points, 1, [0.25, 0.5], TIMED)[1]).toEqual({ t: 0.25, v: 0, curve: 0.3, sustain: true })
    expect(bendPoint(points, 1, 0)[1]).toEqual({ t: 0.5, v: 1, sustain: true })
    expect(
      Object.keys(addPoint(pointsOfShape(SHAPES.get('rise')!, PLAIN), [0.5, 0.2], PLAIN).points[1]!),
    ).toEqual(['x', 'y'])
  })

  it('snaps to the lines of a grid, or to none', () => {
    expect(snapped([0.13, 0.52], 8, 4)).toEqual([0.125, 0.5])
    expect(snapped([0.13, 0.52], 0, 2)).toEqual([0.13, 0.5])
  })

  it('begins from shapes that lie in the picture, from side to side', () => {
    for (const [name, shape] of SHAPES) {
      const spots = pointsOfShape(shape, PLAIN, 0.5).map((point) => spotOf(point, PLAIN))
      expect(spots[0]![0], name).toBe(0)
      expect(spots.at(-1)![0], name).toBe(1)
      for (const [, y] of spots) expect(y, name).toBeGreaterThanOrEqual(0.5 - 1e-9)
    }
  })
})
