/** Frames and notes in hand. */
import { carriedBy, moveMark, patchIndex, snap } from '@ypsilon/core'
import type { PointerEvent } from 'react'
import type { App } from '../app/app.ts'
import { levelNow } from '../app/level.ts'
import { marksLevel } from '../commands/marks.ts'
import { CLICK_PX } from './chart/cable-hand.ts'
import { apart } from './chart/port-finder.ts'
import type { Point } from './chart/routing.ts'
import type { Scene } from './chart/scene.ts'
import { followPointer } from './follow-pointer.ts'
import { usePointing, useScene } from './scene-context.ts'

interface Dragging {
  readonly move: (by: Point) => void
  readonly drop: (by: Point) => void
  readonly giveUp: () => void
}

/** Follows the pointer from a press on; distances on the chart, on its grid. Escape gives it up. */
export const useDrag = (): ((event: PointerEvent<HTMLElement>, dragging: Dragging) => void) => {
  const scene = useScene(),
    pointing = usePointing()
  return (event, dragging) => {
    const start = pointing.toFrame(event)
    let isMoved = false
    const by = (moved: globalThis.PointerEvent): Point => {
      const at = pointing.toFrame(moved),
        { zoom } = scene.view
      return { x: snap((at.x - start.x) / zoom), y: snap((at.y - start.y) / zoom) }
    }
    followPointer(event, {
      move: (moved) => {
        isMoved ||= apart(pointing.toFrame(moved), start) >= CLICK_PX
        if (isMoved) dragging.move(by(moved))
      },
      drop: (dropped) => {
        if (isMoved) dragging.drop(by(dropped))
      },
      giveUp: dragging.giveUp,
    })
  }
}

/** Moves a mark with what it carries: cards by the scene, marks by their elements, the document on the drop. */
export const carrying = (app: App, scene: Scene, id: string, words: string): Dragging => {
  const { change } = app.document.getState(),
    patch = levelNow(app),
    { modules, marks } = carriedBy(patch, id)
  const elements = marks.flatMap((mark) => document.querySelector<HTMLElement>(`[data-mark="${mark}"]`) ?? [])
  const put = ({ x, y }: Point): void => {
    for (const element of elements) element.style.translate = `${x}px ${y}px`
    const places = modules.flatMap((one) => {
      const module = patchIndex(patch).module.get(one)
      return module ? [[one, { x: (module.x ?? 0) + x, y: (module.y ?? 0) + y }] as const] : []
    })
    if (places.length > 0) scene.hold(new Map(places))
  }
  const back = (): void => {
    for (const element of elements) element.style.translate = ''
    scene.letGo()
  }
  return {
    move: put,
    drop: ({ x, y }) => {
      for (const element of elements) element.style.translate = ''
      const isTaken =
        (x !== 0 || y !== 0) &&
        change(words, (draft) => {
          moveMark(marksLevel(app, draft), id, x, y)
        })
      if (!isTaken) scene.letGo()
    },
    giveUp: back,
  }
}
