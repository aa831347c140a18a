/** The whole patch, small, with what is seen of it: pressed or dragged, the view goes there. */
import type { Patch } from '@ypsilon/core'
import { useReactFlow } from '@xyflow/react'
import { type PointerEvent, type RefObject, useEffect, useRef } from 'react'
import { useApp } from '../app/context.ts'
import { levelNow } from '../app/level.ts'
import { boundsOf } from './chart/fit.ts'
import type { Box, Point } from './chart/routing.ts'
import type { Scene } from './chart/scene.ts'
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

const draw = (
  canvas: HTMLCanvasElement,
  scene: Scene,
  patch: Patch,
  colour: (name: string) => string,
  selection: ReadonlySet<string>,
): void => {
  const ratio = window.devicePixelRatio
  canvas.width = WIDTH * ratio
  canvas.height = HEIGHT * ratio
  const context = canvas.getContext('2d')!
  context.scale(ratio, ratio)
  const { scale, x, y } = fittingOf(patch, scene)
  const rect = ({ left, top, right, bottom }: Box): [number, number, number, number] => [
    left * scale + x,
    top * scale + y,
    (right - left) * scale,
    (bottom - top) * scale,
  ]
  context.strokeStyle = colour('rule')
  for (const mark of markBoxes(patch)) context.strokeRect(...rect(mark))
  for (const { id, box } of scene.cards.values()) {
    context.fillStyle = colour(selection.has(id) ? 'accent' : 'ink2')
    context.fillRect(...rect(box))
  }
  context.strokeStyle = colour('ink')
  context.lineWidth = 1.5
  context.strokeRect(...rect(scene.view.area()))
}

/** Draws the map with the next frame after anything of it has changed. */
const useDrawn = (canvas: RefObject<HTMLCanvasElement | null>): void => {
  const app = useApp(),
    scene = useScene()
  useEffect(() => {
    const { document, workspace, frames } = app
    let waiting = 0
    const again = (): void => {
      waiting ||= requestAnimationFrame(() => {
        waiting = 0
        if (!canvas.current) return
        const chosen = new Set(workspace.getState().selection)
        draw(canvas.current, scene, levelNow(app), (name) => frames.colour(name), chosen)
      })
    }
    const stops = [
      scene.view.onMove(again),
      scene.store.subscribe(again),
      document.subscribe(again),
      workspace.subscribe(again),
      frames.onColours(again),
    ]
    again()
    return () => {
      for (const stop of stops) stop()
      cancelAnimationFrame(waiting)
    }
  }, [canvas, scene, app])
}

export const MiniMap = () => {
  const app = useApp(),
    scene = useScene()
  const { setViewport } = useReactFlow()
  const canvas = useRef<HTMLCanvasElement>(null)
  useDrawn(canvas)
  const goTo = (event: PointerEvent<HTMLCanvasElement>): void => {
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
    <canvas
      ref={canvas}
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
    />
  )
}
