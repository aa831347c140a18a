import type { Cable } from '@ypsilon/core'
import { useReactFlow } from '@xyflow/react'
import { type PointerEvent, useState } from 'react'
import { useApp } from '../app/context.ts'
import { moveCableEnd } from './edits.ts'
import type { Route } from './routing.ts'

const RADIUS = 6

interface EndProps {
  readonly cable: Cable
  readonly end: 'from' | 'to'
  readonly x: number
  readonly y: number
}

/** The port of a side under a place of the page. */
const portUnder = (x: number, y: number, end: 'from' | 'to'): string | undefined => {
  const under = document.elementsFromPoint(x, y)
  const handle = under
    .map((element) => element.closest<HTMLElement>('[data-port]'))
    .find((found) => found?.classList.contains(end === 'from' ? 'source' : 'target'))
  if (handle) return handle.dataset['port']
  if (end === 'from') return undefined
  const row = under.map((element) => element.closest<HTMLElement>('[data-row]')).find(Boolean)
  return row?.querySelector('[data-port]') ? row.dataset['row'] : undefined
}

/** One end of the selected cable, to be picked up and moved; let go beside a port, or with Escape, it goes back. */
const End = ({ cable, end, x, y }: EndProps) => {
  const app = useApp()
  const { screenToFlowPosition } = useReactFlow()
  const [at, setAt] = useState<{ x: number; y: number } | undefined>(undefined)
  const drag = (event: PointerEvent<SVGCircleElement>): void => {
    if (event.button !== 0) return
    event.stopPropagation()
    const element = event.currentTarget
    element.setPointerCapture(event.pointerId)
    let isGivenUp = false
    const move = (moved: globalThis.PointerEvent): void => {
      setAt(screenToFlowPosition({ x: moved.clientX, y: moved.clientY }))
    }
    const giveUp = (pressed: KeyboardEvent): void => {
      if (pressed.key !== 'Escape') return
      pressed.preventDefault()
      pressed.stopPropagation()
      isGivenUp = true
      stop()
    }
    const up = (dropped: globalThis.PointerEvent): void => {
      stop()
      const port = portUnder(dropped.clientX, dropped.clientY, end)
      if (!isGivenUp && port !== undefined && cable.id !== undefined) moveCableEnd(app, cable.id, end, port)
    }
    const stop = (): void => {
      setAt(undefined)
      element.removeEventListener('pointermove', move)
      element.removeEventListener('pointerup', up)
      window.removeEventListener('keydown', giveUp, true)
    }
    element.addEventListener('pointermove', move)
    element.addEventListener('pointerup', up)
    window.addEventListener('keydown', giveUp, true)
  }
  return (
    <>
      {at && <line x1={x} y1={y} x2={at.x} y2={at.y} stroke="var(--ink)" strokeDasharray="4 3" />}
      <circle
        className="cable-end nopan nodrag nokey"
        cx={at?.x ?? x}
        cy={at?.y ?? y}
        r={RADIUS}
        data-cable-end={end}
        onPointerDown={drag}
      />
    </>
  )
}

/** Beside the ports, so that those can still be reached. */
const BESIDE = 14
const START = /^M([\d.-]+) ([\d.-]+)/
const LAST = /([\d.-]+) ([\d.-]+)\s*$/

interface EndsProps {
  readonly cable: Cable
  readonly route: Route
}

export const CableEnds = ({ cable, route: { path } }: EndsProps) => {
  const start = START.exec(path),
    last = LAST.exec(path)
  if (!start || !last) return null
  return (
    <>
      <End cable={cable} end="from" x={Number(start[1]) + BESIDE} y={Number(start[2])} />
      <End cable={cable} end="to" x={Number(last[1]) - BESIDE} y={Number(last[2])} />
    </>
  )
}
