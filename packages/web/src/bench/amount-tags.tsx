import { type Cable, type Patch, printAmount } from '@ypsilon/core'
import { useStore } from '@xyflow/react'
import { memo, type PointerEvent } from 'react'
import type { App } from '../app/app.ts'
import { useApp, useWorkspace } from '../app/context.ts'
import { kindColour } from '../ui/icons.tsx'
import { kindOfCable, type Routes, useInView } from './cables.tsx'
import { setAmount } from './edits.ts'
import { targetParam } from './fields/amount-field.tsx'
import { newGesture } from './fields/types.ts'
import type { Route } from './routing.ts'

/** Below this zoom nobody can read a tag. */
const LEAST_READABLE = 0.4
const FULL_DRAG = 120
const FINE = 0.1

/** Drags an amount sideways; Escape takes the drag back. */
const dragAmount = (app: App, event: PointerEvent<HTMLElement>, cable: Cable): void => {
  if (event.button !== 0) return
  event.stopPropagation()
  const element = event.currentTarget
  element.setPointerCapture(event.pointerId)
  const gesture = newGesture('amount')
  const start = event.clientX,
    from = cable.amount ?? 1,
    size = Math.max(1, Math.abs(from))
  const move = (moved: globalThis.PointerEvent): void => {
    const distance = moved.clientX - start
    if (Math.abs(distance) < 3) return
    const next = from + (distance / FULL_DRAG) * size * (moved.shiftKey ? FINE : 1)
    setAmount(app, cable.id!, Math.round(next * 1000) / 1000, gesture)
  }
  const giveUp = (pressed: KeyboardEvent): void => {
    if (pressed.key !== 'Escape') return
    pressed.preventDefault()
    pressed.stopPropagation()
    app.document.getState().giveUp(gesture)
    end()
  }
  const end = (): void => {
    element.removeEventListener('pointermove', move)
    element.removeEventListener('pointerup', end)
    window.removeEventListener('keydown', giveUp, true)
  }
  element.addEventListener('pointermove', move)
  element.addEventListener('pointerup', end)
  window.addEventListener('keydown', giveUp, true)
}

interface TagProps {
  readonly cable: Cable
  readonly route: Route
  readonly patch: Patch
}

const AmountTag = ({ cable, route: { tag }, patch }: TagProps) => {
  const app = useApp()
  const printed = printAmount(targetParam(patch, cable.to), cable.amount ?? 1)
  return (
    <button
      type="button"
      data-tag={cable.id}
      className="tag mono nodrag nopan nokey"
      style={{ left: tag.x, top: tag.y - 16, color: cable.color ?? kindColour(kindOfCable(patch, cable)) }}
      aria-label={`${printed}, amount of ${cable.from} to ${cable.to}`}
      onPointerDown={(event) => {
        dragAmount(app, event, cable)
      }}
      onClick={(event) => {
        event.stopPropagation()
        app.workspace.getState().selectCable(cable.id)
      }}
    >
      {printed}
    </button>
  )
}

interface TagsProps {
  readonly patch: Patch
  readonly routes: Routes
}

/** Small tags near the ends of cables whose amount is not 1. Drag sideways or type in the inspector. */
export const AmountTags = memo(({ patch, routes }: TagsProps) => {
  const chosen = useWorkspace((state) => state.cable)
  const inView = useInView()
  const [x, y, zoom] = useStore((state) => state.transform)
  return (
    <div
      className="pointer-events-none absolute left-0 top-0 z-[4] origin-top-left [&>*]:pointer-events-auto"
      style={{ transform: `translate(${x}px, ${y}px) scale(${zoom})` }}
    >
      {patch.cables.map((cable) => {
        const id = cable.id ?? '',
          found = routes.get(id)
        if (!found || ((cable.amount ?? 1) === 1 && chosen !== id)) return null
        if (chosen !== id && (zoom < LEAST_READABLE || !inView(found.box))) return null
        return <AmountTag key={id} cable={cable} route={found} patch={patch} />
      })}
    </div>
  )
})
