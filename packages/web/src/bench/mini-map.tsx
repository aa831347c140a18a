/** The whole patch, small, with what is seen of it: pressed or dragged, the view goes there. */
import type { Patch } from '@ypsilon/core'
import { useReactFlow } from '@xyflow/react'
import { type PointerEvent, type RefObject, useEffect, useRef } from 'react'
import { useApp } from '../app/context.ts'
import { levelNow } from '../app/level.ts'
import { boundsOf } from './chart/fit.ts'
import type { Box, Point } from './chart/routing.ts'
import type { Scene } from './chart/scene.ts'
import { fitted } from './fitted.ts'
import { useScene } from './scene-context.ts'
import { markBoxes, wholeBoxes } from './whole.ts'

const WIDTH = 184,
  HEIGHT = 116,
  AROUND = 6

/** How the chart lies in the map. */
interface Fitting {
  readonly scale: number
  readonly x: number
  readonly y: number
}

const NOTHING: Box = { left: 0, top: 0, right: 1, bottom: 1 }

const fittingOf = (patch: Patch, scene: Scene): Fitting => {
  const { left, top, right, bottom } = boundsOf(wholeBoxes(patch, scene)) ?? NOTHING
  const scale = Math.min((WIDTH - 2 * AROUND) / (right - left), (HEIGHT - 2 * AROUND) / (bottom - top))
  return { scale, x: (WIDTH - (left + right) * scale) / 2, y: (HEIGHT - (top + bottom) * scale) / 2 }
}

/** What the map shows besides the view. */
interface Content {
  readonly cards: readonly Box[]
  readonly marks: readonly Box[]
  /** Cards that are chosen, by their places in `cards`. */
  readonly chosen: readonly boolean[]
  /** Pixels of the screen for one of the page. */
  readonly ratio: number
}

const contentOf = (patch: Patch, scene: Scene, selection: ReadonlySet<string>): Content => {
  const cards = [...scene.cards.values()]
  return {
    cards: cards.map(({ box }) => box),
    marks: markBoxes(patch),
    chosen: cards.map(({ id }) => selection.has(id)),
    ratio: window.devicePixelRatio || 1,
  }
}

const isSameBox = (a: Box, b: Box | undefined): boolean =>
  b === a || (b?.left === a.left && b.top === a.top && b.right === a.right && b.bottom === a.bottom)

const areSameBoxes = (a: readonly Box[], b: readonly Box[]): boolean =>
  a.length === b.length && a.every((box, n) => isSameBox(box, b[n]))

const isSameContent = (a: Content, b: Content | undefined): boolean =>
  a.ratio === b?.ratio &&
  areSameBoxes(a.cards, b.cards) &&
  areSameBoxes(a.marks, b.marks) &&
  a.chosen.every((is, n) => is === b.chosen[n])

type Rect = readonly [x: number, y: number, width: number, height: number]

const placed = ({ left, top, right, bottom }: Box, { scale, x, y }: Fitting): Rect => [
  left * scale + x,
  top * scale + y,
  (right - left) * scale,
  (bottom - top) * scale,
]

const draw = (
  canvas: HTMLCanvasElement,
  { cards, marks, chosen, ratio }: Content,
  fitting: Fitting,
  colour: (name: string) => string,
): void => {
  const context = canvas.getContext('2d')!
  fitted(canvas, { width: WIDTH, height: HEIGHT }, ratio)
  context.clearRect(0, 0, WIDTH, HEIGHT)
  context.lineWidth = 1
  context.strokeStyle = colour('rule')
  for (const mark of marks) context.strokeRect(...placed(mark, fitting))
  cards.forEach((box, n) => {
    context.fillStyle = colour(chosen[n] ? 'accent' : 'ink2')
    context.fillRect(...placed(box, fitting))
  })
}

/** Keeps the map as the patch is, and the view's frame where the view is: each with the next frame after it has changed. */
const useDrawn = (
  canvas: RefObject<HTMLCanvasElement | null>,
  frame: RefObject<HTMLDivElement | null>,
): void => {
  const app = useApp(),
    scene = useScene()
  useEffect(() => {
    const { document, workspace, frames } = app
    let waiting = 0,
      drawn: Content | undefined,
      fitting: Fitting | undefined
    const show = (): void => {
      waiting = 0
      if (!canvas.current || !frame.current) return
      const patch = levelNow(app),
        content = contentOf(patch, scene, new Set(workspace.getState().selection))
      if (!fitting || !isSameContent(content, drawn)) {
        fitting = fittingOf(patch, scene)
        draw(canvas.current, content, fitting, (name) => frames.colour(name))
        drawn = content
      }
      const [x, y, width, height] = placed(scene.view.area(), fitting)
      Object.assign(frame.current.style, {
        transform: `translate(${x}px, ${y}px)`,
        width: `${width}px`,
        height: `${height}px`,
      })
    }
    const again = (): void => {
      waiting ||= requestAnimationFrame(show)
    }
    const stops = [
      scene.view.onMove(again),
      scene.store.subscribe(again),
      document.subscribe(again),
      workspace.subscribe(again),
      frames.onColours(() => {
        drawn = undefined
        again()
      }),
    ]
    again()
    return () => {
      for (const stop of stops) stop()
      cancelAnimationFrame(waiting)
    }
  }, [canvas, frame, scene, app])
}

export const MiniMap = () => {
  const app = useApp(),
    scene = useScene()
  const { setViewport } = useReactFlow()
  const canvas = useRef<HTMLCanvasElement>(null),
    frame = useRef<HTMLDivElement>(null)
  useDrawn(canvas, frame)
  const goTo = (event: PointerEvent<HTMLDivElement>): void => {
    const { left, top } = event.currentTarget.getBoundingClientRect()
    const at: Point = { x: event.clientX - left, y: event.clientY - top }
    const { scale, x, y } = fittingOf(levelNow(app), scene)
    const { zoom, width, height } = scene.view
    void setViewport({
      x: Math.round(width / 2 - ((at.x - x) / scale) * zoom),
      y: Math.round(height / 2 - ((at.y - y) / scale) * zoom),
      zoom,
    })
  }
  return (
    <div
      className="mini-map nopan nowheel"
      data-mini-map=""
      role="img"
      aria-label="The whole patch, and what is seen of it"
      style={{ width: WIDTH, height: HEIGHT }}
      onPointerDown={(event) => {
        event.stopPropagation()
        event.currentTarget.setPointerCapture(event.pointerId)
        goTo(event)
      }}
      onPointerMove={(event) => {
        if (event.currentTarget.hasPointerCapture(event.pointerId)) goTo(event)
      }}
    >
      <canvas ref={canvas} className="block h-full w-full" />
      <div ref={frame} className="mini-map-view" />
    </div>
  )
}
