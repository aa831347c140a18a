/** The view that shows a patch, or a part of it, whole. */
import type { Box } from './routing.ts'
import type { Size, View } from './viewport.ts'

/** No patch opens smaller than it can be worked on: one that would have to is shown from its beginning. */
export const LEAST_WHOLE = 0.45
/** The chart's smallest zoom. */
export const LEAST_ZOOM = 0.25
const START_ZOOM = 0.55
/** Pixels that stay free around a patch shown whole. */
export const MARGIN = 24

export const boundsOf = (boxes: readonly Box[]): Box | undefined => {
  const [first] = boxes
  if (!first) return undefined
  let { left, top, right, bottom } = first
  for (const box of boxes) {
    left = Math.min(left, box.left)
    top = Math.min(top, box.top)
    right = Math.max(right, box.right)
    bottom = Math.max(bottom, box.bottom)
  }
  return { left, top, right, bottom }
}

/** The zoom at which boxes fit into a frame, 1 at most. */
export const fittingZoom = (boxes: readonly Box[], { width, height }: Size): number => {
  const bounds = boundsOf(boxes)
  if (!bounds) return 1
  const { left, top, right, bottom } = bounds
  return Math.min((width - 2 * MARGIN) / (right - left), (height - 2 * MARGIN) / (bottom - top), 1)
}

/** The view of a frame that shows boxes whole, or the beginning of what is far too large; `least`: the smallest zoom. */
export const wholeView = (boxes: readonly Box[], size: Size, least: number): View => {
  const bounds = boundsOf(boxes)
  if (!bounds) return { x: MARGIN, y: MARGIN, zoom: 1 }
  const { left, top, right, bottom } = bounds
  const zoom = fittingZoom(boxes, size)
  if (zoom < least)
    return {
      x: Math.round(MARGIN - left * START_ZOOM),
      y: Math.round(MARGIN - top * START_ZOOM),
      zoom: START_ZOOM,
    }
  return {
    // On whole pixels: text that stands between them is blurred.
    x: Math.round((size.width - (left + right) * zoom) / 2),
    y: Math.round((size.height - (top + bottom) * zoom) / 2),
    zoom,
  }
}

/** The nearest view that has a box whole in it, or its upper left corner; undefined where it is in view already. */
export const viewOn = (box: Box, view: View & Size): View | undefined => {
  const { x, y, zoom, width, height } = view
  const shift = (from: number, to: number, room: number): number => {
    if (from >= MARGIN && to <= room - MARGIN) return 0
    return from < MARGIN || to - from > room - 2 * MARGIN ? MARGIN - from : room - MARGIN - to
  }
  const dx = shift(box.left * zoom + x, box.right * zoom + x, width),
    dy = shift(box.top * zoom + y, box.bottom * zoom + y, height)
  return dx === 0 && dy === 0 ? undefined : { x: Math.round(x + dx), y: Math.round(y + dy), zoom }
}
