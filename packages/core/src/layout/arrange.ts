/** Boxes of a selection lined up or spaced evenly: new places for them, on the canvas' grid. */
import { snap } from './grid.ts'

export interface PlacedBox {
  readonly id: string
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

export const EDGES = ['left', 'right', 'top', 'bottom', 'middle', 'centre'] as const
/** Left and right edges, tops and bottoms; `middle`: on one level; `centre`: one under the other. */
export type Edge = (typeof EDGES)[number]
export type Axis = 'across' | 'down'

type Places = ReadonlyMap<string, { readonly x: number; readonly y: number }>

/** Bounds of all of them. */
const around = (
  boxes: readonly PlacedBox[],
): { left: number; right: number; top: number; bottom: number } => ({
  left: Math.min(...boxes.map(({ x }) => x)),
  right: Math.max(...boxes.map(({ x, width }) => x + width)),
  top: Math.min(...boxes.map(({ y }) => y)),
  bottom: Math.max(...boxes.map(({ y, height }) => y + height)),
})

/** Lined up at an edge of what they cover together. Only what moves is in it. */
export const aligned = (boxes: readonly PlacedBox[], edge: Edge): Places => {
  const { left, right, top, bottom } = around(boxes)
  const placeOf = ({ x, y, width, height }: PlacedBox): { x: number; y: number } => {
    switch (edge) {
      case 'left':
        return { x: left, y }
      case 'right':
        return { x: snap(right - width), y }
      case 'top':
        return { x, y: top }
      case 'bottom':
        return { x, y: snap(bottom - height) }
      case 'middle':
        return { x, y: snap((top + bottom - height) / 2) }
      case 'centre':
        return { x: snap((left + right - width) / 2), y }
    }
  }
  return changed(boxes, placeOf)
}

/** Spaced so that the gaps between them are the same; the first and the last stay. Three at least. */
export const spaced = (boxes: readonly PlacedBox[], axis: Axis): Places => {
  const isAcross = axis === 'across'
  const at = (box: PlacedBox): number => (isAcross ? box.x : box.y),
    size = (box: PlacedBox): number => (isAcross ? box.width : box.height)
  const inOrder = [...boxes].sort((a, b) => at(a) - at(b) || (a.id < b.id ? -1 : 1)),
    [first] = inOrder,
    last = inOrder.at(-1)
  if (!first || !last || inOrder.length < 3) return new Map()
  const taken = inOrder.reduce((sum, box) => sum + size(box), 0),
    gap = (at(last) + size(last) - at(first) - taken) / (inOrder.length - 1)
  const places = new Map<string, number>()
  let now = at(first)
  for (const box of inOrder) {
    places.set(box.id, box === first || box === last ? at(box) : snap(now))
    now += size(box) + gap
  }
  return changed(boxes, (box) => {
    const place = places.get(box.id)!
    return isAcross ? { x: place, y: box.y } : { x: box.x, y: place }
  })
}

const changed = (
  boxes: readonly PlacedBox[],
  placeOf: (box: PlacedBox) => { readonly x: number; readonly y: number },
): Places =>
  new Map(
    boxes.flatMap((box) => {
      const place = placeOf(box)
      return place.x === box.x && place.y === box.y ? [] : [[box.id, place] as const]
    }),
  )
