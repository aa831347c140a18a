import { CATALOGUE } from '@ypsilon/core'
import type { ConnectionLineComponentProps } from '@xyflow/react'
import { kindColour } from '../ui/icons.tsx'
import { chamfered } from './routing.ts'

const REACH = 16

/** The cable in hand. */
export const ConnectionLine = ({
  fromX,
  fromY,
  toX,
  toY,
  fromHandle,
  fromNode,
}: ConnectionLineComponentProps) => {
  const type = (fromNode.data as { module: { type: string } }).module.type
  const kind = CATALOGUE.get(type)?.outputs.get(fromHandle.id ?? '')?.kind ?? 'control'
  const middle =
    fromHandle.type === 'source'
      ? Math.max(fromX + REACH, (fromX + toX) / 2)
      : Math.min(fromX - REACH, (fromX + toX) / 2)
  return (
    <path
      d={chamfered([
        { x: fromX, y: fromY },
        { x: middle, y: fromY },
        { x: middle, y: toY },
        { x: toX, y: toY },
      ])}
      fill="none"
      stroke={kindColour(kind)}
      strokeWidth={2.5}
    />
  )
}
