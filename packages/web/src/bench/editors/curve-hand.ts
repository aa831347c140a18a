/** Hands on a drawn curve: points dragged, stretches bent, points added; every drag is one step and can be given up. */
import { movePoint, type Point, type Spans, type Spot, spotOf } from '@ypsilon/core'
import { addPoint, bendPoint, heightOf, removePoint, snapped } from '@ypsilon/core/describe/redrawing.ts'
import type { PointerEvent } from 'react'
import type { App } from '../../app/app.ts'
import { setData } from '../data-text.ts'
import { newGesture } from '../fields/types.ts'
import { followPointer } from '../follow-pointer.ts'

/** What is drawn, where it is kept, and what the hand is held to. */
export interface Drawn {
  readonly app: App
  /** The module's id and its name, in words. */
  readonly id: string
  readonly name: string
  /** Name of the data. */
  readonly data: string
  readonly points: readonly Point[]
  readonly spans: Spans
  /** Lines of the grid that points snap to; 0 for none. */
  readonly grid: { readonly across: number; readonly up: number }
}

/** Nearer than this the line is meant, in pixels. */
const NEAR_PX = 12
/** So far up bends a stretch from straight to fully bent. */
const BEND_PX = 120

interface Area {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
}
const spotAt = ({ clientX, clientY }: { clientX: number; clientY: number }, area: Area): Spot => [
  (clientX - area.left) / area.width,
  1 - (clientY - area.top) / area.height,
]

/** Writes the points: one step, or one a gesture. */
export const write = (
  { app, id, data }: Drawn,
  words: string,
  points: readonly Point[],
  gesture?: string,
): void => {
  setData(app, id, data, points, gesture === undefined ? { words } : { words, gesture: `${id} ${gesture}` })
}

const follow = (
  drawn: Drawn,
  event: PointerEvent<Element>,
  gesture: string,
  move: (moved: globalThis.PointerEvent) => void,
): void => {
  const { app, id } = drawn
  followPointer(event, {
    move,
    drop: () => undefined,
    giveUp: () => {
      app.document.getState().giveUp(`${id} ${gesture}`)
    },
  })
}

/** Alt lets go of the grid, or holds to one of sixteenths where there is none. */
const held = ({ grid }: Drawn, spot: Spot, isOther: boolean): Spot => {
  if (!isOther) return snapped(spot, grid.across, grid.up)
  return grid.across + grid.up > 0 ? spot : snapped(spot, 16, 16)
}

/** A point is dragged, by how the curve was when it was taken. */
export const dragPoint = (drawn: Drawn, index: number, event: PointerEvent<Element>, area: Area): void => {
  const gesture = newGesture('point'),
    { points, spans, name } = drawn
  follow(drawn, event, gesture, (moved) => {
    const spot = held(drawn, spotAt(moved, area), moved.altKey)
    write(drawn, `Move point ${index + 1} of ${name}`, movePoint(points, index, spot, spans), gesture)
  })
}

/** The stretch at a place across is bent by a drag up or down, if the line is there. False where it is not. */
export const dragStretch = (drawn: Drawn, event: PointerEvent<Element>, area: Area): boolean => {
  const { points, spans, name } = drawn,
    [x, y] = spotAt(event, area)
  if (Math.abs(heightOf(points, spans, x) - y) * area.height > NEAR_PX) return false
  const index = points.findLastIndex((point) => spotOf(point, spans)[0] <= x)
  const from = points[index],
    to = points[index + 1]
  if (!from || !to) return false
  const way = Math.sign(spotOf(to, spans)[1] - spotOf(from, spans)[1]),
    gesture = newGesture('bend'),
    start = event.clientY
  follow(drawn, event, gesture, ({ clientY }) => {
    const bend = (from.curve ?? 0) + (way * (start - clientY)) / BEND_PX
    write(drawn, `Bend ${name}`, bendPoint(points, index, bend), gesture)
  })
  return true
}

/** One more point at a place; its number. */
export const putPoint = (drawn: Drawn, event: PointerEvent<Element> | MouseEvent, area: Area): number => {
  const { points, index } = addPoint(
    drawn.points,
    held(drawn, spotAt(event, area), event.altKey),
    drawn.spans,
  )
  write(drawn, `Add a point to ${drawn.name}`, points)
  return index
}

/** One more point in the middle of the stretch behind another; its number. */
export const splitBehind = (drawn: Drawn, index: number): number => {
  const { points, spans } = drawn
  const [from] = spotOf(points[index]!, spans),
    [to] = points[index + 1] ? spotOf(points[index + 1]!, spans) : [from]
  const x = (from + to) / 2,
    added = addPoint(points, [x, heightOf(points, spans, x)], spans)
  write(drawn, `Add a point to ${drawn.name}`, added.points)
  return added.index
}

/** Takes a point away; an end stays. */
export const takePoint = (drawn: Drawn, index: number): void => {
  const points = removePoint(drawn.points, index)
  if (points.length < drawn.points.length) write(drawn, `Remove a point of ${drawn.name}`, points)
}
