import { type Cable, type ParamDescription, printAmount, type SignalKind } from '@ypsilon/core'
import { memo, type PointerEvent } from 'react'
import type { App } from '../app/app.ts'
import { useApp, useDocument, useWorkspace } from '../app/context.ts'
import { kindColour } from '../ui/icons.tsx'
import { setAmount } from './edits.ts'
import { targetParam } from './fields/amount-field.tsx'
import { newGesture } from './fields/types.ts'
import { followPointer } from './follow-pointer.ts'
import type { Route } from './chart/routing.ts'
import { useSceneState } from './scene-context.ts'

const FULL_DRAG = 120
const FINE = 0.1

/** Drags an amount sideways; Escape takes the drag back. */
const dragAmount = (app: App, event: PointerEvent<HTMLElement>, cable: Cable): void => {
  const gesture = newGesture('amount')
  const start = event.clientX,
    from = cable.amount ?? 1,
    size = Math.max(1, Math.abs(from))
  followPointer(event, {
    move: (moved) => {
      const distance = moved.clientX - start
      if (Math.abs(distance) < 3) return
      const next = from + (distance / FULL_DRAG) * size * (moved.shiftKey ? FINE : 1)
      setAmount(app, cable.id!, Math.round(next * 1000) / 1000, gesture)
    },
    drop: () => undefined,
    giveUp: () => {
      app.document.getState().giveUp(gesture)
    },
  })
}

interface TagProps {
  readonly cable: Cable
  readonly route: Route
  readonly kind: SignalKind
  readonly target: ParamDescription | undefined
}

const AmountTag = memo(({ cable, route: { tag }, kind, target }: TagProps) => {
  const app = useApp()
  const printed = printAmount(target, cable.amount ?? 1)
  return (
    <button
      type="button"
      data-tag={cable.id}
      className="tag nodrag nopan nokey"
      style={{ left: tag.x, top: tag.y - 16, color: cable.color ?? kindColour(kind) }}
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
})

/**
 * Small tags near the ends of cables whose amount is not 1; from further off, and where nothing is free along it, that of
 * the cable that is meant alone.
 */
export const AmountTags = () => {
  const patch = useDocument((state) => state.patch),
    cables = useSceneState((state) => state.cables),
    isNear = useSceneState((state) => state.distance === 'near'),
    pointed = useSceneState((state) => state.pointed.cable),
    chosen = useWorkspace((state) => state.cable)
  return cables
    .filter(({ id, cable, route }) => {
      const isMeant = id === chosen || id === pointed
      return cable.id !== undefined && (isMeant || (isNear && !route.isCrowded && (cable.amount ?? 1) !== 1))
    })
    .map(({ id, cable, route, kind }) => (
      <AmountTag key={id} cable={cable} route={route} kind={kind} target={targetParam(patch, cable.to)} />
    ))
}
