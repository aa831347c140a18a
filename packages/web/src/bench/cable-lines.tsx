/** Cables as elements: what the pointer meets of each, and those that are drawn over the others. */
import { memo } from 'react'
import { useApp, useWorkspace } from '../app/context.ts'
import { kindColour } from '../ui/icons.tsx'
import { CableEnds } from './cable-ends.tsx'
import { LINE_WIDTH } from './chart/cable-layer.ts'
import type { DrawnCable } from './chart/places.ts'
import { useSceneState } from './scene-context.ts'

interface CableProps {
  readonly drawn: DrawnCable
}

/** Invisible, along the line that is drawn on the canvas. */
const Hit = memo(({ drawn: { id, route } }: CableProps) => {
  const { workspace } = useApp()
  return (
    <path
      className="hit"
      d={route.path}
      data-cable={id}
      onClick={(event) => {
        event.stopPropagation()
        workspace.getState().selectCable(id)
      }}
    />
  )
})

/** A cable that is selected or pointed at: broader, over the others. */
const Lifted = memo(({ drawn: { cable, kind, route } }: CableProps) => {
  const stroke = cable.color ?? kindColour(kind)
  return (
    <g className="lifted">
      <path
        d={route.path}
        stroke={stroke}
        strokeDasharray={kind === 'gate' ? '5 3' : undefined}
        style={{ strokeWidth: `calc(${LINE_WIDTH[kind] + 1.5}px * var(--line))` }}
      />
      {kind === 'pitch' && (
        <path d={route.path} stroke="var(--page)" style={{ strokeWidth: 'calc(3px * var(--line))' }} />
      )}
    </g>
  )
})

export const CableLines = () => {
  const cables = useSceneState((state) => state.cables),
    pointed = useSceneState((state) => state.pointed.cable),
    chosen = useWorkspace((state) => state.cable)
  const lifted = cables.filter(({ id }) => id === pointed || id === chosen),
    own = lifted.find(({ id }) => id === chosen)
  return (
    <svg className="cables absolute left-0 top-0 overflow-visible" width="1" height="1" aria-hidden="true">
      {cables.map((drawn) => (
        <Hit key={drawn.id} drawn={drawn} />
      ))}
      {lifted.map((drawn) => (
        <Lifted key={drawn.id} drawn={drawn} />
      ))}
      {own && <CableEnds cable={own.cable} route={own.route} />}
    </svg>
  )
}
