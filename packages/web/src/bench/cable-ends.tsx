import type { Cable } from '@ypsilon/core'
import { type PointerEvent, useState } from 'react'
import { useApp } from '../app/context.ts'
import { moveCableEnd } from './edits.ts'
import { followPointer } from './follow-pointer.ts'
import type { Route } from './chart/routing.ts'
import { usePointing, useScene, useSceneState } from './scene-context.ts'

interface EndProps {
  readonly cable: Cable
  readonly end: 'from' | 'to'
  readonly x: number
  readonly y: number
}

/** One end of the selected cable, to be picked up and moved; let go beside a port, or with Escape, it goes back. */
const End = ({ cable, end, x, y }: EndProps) => {
  const app = useApp()
  const scene = useScene(),
    pointing = usePointing()
  const [at, setAt] = useState<{ x: number; y: number } | undefined>(undefined)
  const drag = (event: PointerEvent<SVGCircleElement>): void => {
    followPointer(event, {
      move: (moved) => {
        setAt(scene.view.toChart(pointing.toFrame(moved)))
      },
      drop: (dropped) => {
        setAt(undefined)
        const target = pointing.targetAt(pointing.toFrame(dropped))
        const isMeant = target?.side === (end === 'from' ? 'out' : 'in')
        if (isMeant && cable.id !== undefined) moveCableEnd(app, cable.id, end, target.port)
      },
      giveUp: () => {
        setAt(undefined)
      },
    })
  }
  return (
    <>
      {at && <line x1={x} y1={y} x2={at.x} y2={at.y} stroke="var(--ink)" strokeDasharray="4 3" />}
      <circle
        className="cable-end nopan nodrag nokey"
        cx={at?.x ?? x}
        cy={at?.y ?? y}
        data-cable-end={end}
        onPointerDown={drag}
      />
    </>
  )
}

/** Beside the ports on the screen, so that those can still be reached. */
const BESIDE_PX = 14
const START = /^M([\d.-]+) ([\d.-]+)/
const LAST = /([\d.-]+) ([\d.-]+)\s*$/

interface EndsProps {
  readonly cable: Cable
  readonly route: Route
}

export const CableEnds = ({ cable, route: { path } }: EndsProps) => {
  const beside =
    BESIDE_PX *
    Math.max(
      1,
      useSceneState((state) => state.scale),
    )
  const start = START.exec(path),
    last = LAST.exec(path)
  if (!start || !last) return null
  return (
    <>
      <End cable={cable} end="from" x={Number(start[1]) + beside} y={Number(start[2])} />
      <End cable={cable} end="to" x={Number(last[1]) - beside} y={Number(last[2])} />
    </>
  )
}
