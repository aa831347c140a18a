import type { SignalKind } from '@ypsilon/core'
import { memo } from 'react'
import { kindColour } from '../ui/icons.tsx'

const WIDTH: Readonly<Record<SignalKind, number>> = { audio: 3, control: 1.75, pitch: 4.5, gate: 2 }
export const FADED = 0.18

interface LineProps {
  readonly path: string
  readonly kind: SignalKind
  readonly color: string | undefined
  readonly source: string
  readonly faded: boolean
  readonly selected: boolean
}

/** Kind shows in the line first: solid and broad, solid and thin, two parallel lines, dashes. */
export const CableLine = memo(({ path, kind, color, source, faded, selected }: LineProps) => {
  const stroke = color ?? kindColour(kind)
  const style = { opacity: faded ? FADED : undefined }
  if (kind === 'pitch')
    return (
      <g className="line" data-source={source} style={style}>
        <path className="line" d={path} stroke={stroke} strokeWidth={selected ? 6 : WIDTH.pitch} />
        <path className="line" d={path} stroke="var(--page)" strokeWidth={selected ? 3 : 2.1} />
      </g>
    )
  return (
    <path
      className="line"
      data-source={source}
      d={path}
      stroke={stroke}
      strokeWidth={WIDTH[kind] + (selected ? 1.5 : 0)}
      strokeDasharray={kind === 'gate' ? '5 3' : undefined}
      style={style}
    />
  )
})
