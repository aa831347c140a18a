import { describe, expect, it } from 'vitest'
import { LEAST_WHOLE, LEAST_ZOOM, viewOn, wholeView } from './fit.ts'
import type { Box } from './routing.ts'

const SIZE = { width: 940, height: 560 }
const box = (left: number, top: number, right: number, bottom: number): Box => ({ left, top, right, bottom })
/** Cards at both ends of a patch so wide. */
const patchOf = (wide: number): Box[] => [box(-100, 0, 92, 150), box(wide - 292, 300, wide - 100, 450)]

describe('a view that fits', () => {
  it('has every box whole in it, on whole pixels, and enlarges nothing', () => {
    for (const wide of [400, 1200, 1900, 3400]) {
      const boxes = patchOf(wide),
        { x, y, zoom } = wholeView(boxes, SIZE, LEAST_ZOOM)
      expect([x % 1, y % 1].map(Math.abs)).toEqual([0, 0])
      expect(zoom).toBeLessThanOrEqual(1)
      for (const { left, top, right, bottom } of boxes) {
        expect(Math.min(left * zoom + x, top * zoom + y)).toBeGreaterThanOrEqual(0)
        expect(right * zoom + x).toBeLessThanOrEqual(SIZE.width)
        expect(bottom * zoom + y).toBeLessThanOrEqual(SIZE.height)
      }
    }
  })

  it('of a patch that is opened begins at its left end where it would be too small, asked for it is whole', () => {
    const boxes = patchOf(2600)
    const opened = wholeView(boxes, SIZE, LEAST_WHOLE)
    expect(opened.zoom).toBeGreaterThan(LEAST_WHOLE)
    expect(-100 * opened.zoom + opened.x).toBeGreaterThan(0)
    expect(wholeView(boxes, SIZE, LEAST_ZOOM).zoom).toBeLessThan(LEAST_WHOLE)
    expect(wholeView(patchOf(9000), SIZE, LEAST_ZOOM).zoom).toBeGreaterThanOrEqual(LEAST_ZOOM)
  })

  it('moves as little as it must to what is not in view, and not at all for what is', () => {
    const view = { x: 0, y: 0, zoom: 1, ...SIZE }
    expect(viewOn(box(100, 100, 292, 250), view)).toBeUndefined()
    const { x = NaN, y = NaN } = viewOn(box(1000, -50, 1192, 100), view) ?? {}
    expect([1192 + x, -50 + y]).toEqual([SIZE.width - 24, 24])
  })
})
