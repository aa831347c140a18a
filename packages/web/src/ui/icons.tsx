import type { ModuleDescription, SignalKind } from '@ypsilon/core'
import { memo } from 'react'

const Line = ({ path }: { path: string }) => (
  <svg
    width="16"
    height="16"
    viewBox="0 0 16 16"
    fill="none"
    stroke="currentColor"
    strokeWidth="1.6"
    aria-hidden="true"
    className="shrink-0"
  >
    <path d={path} strokeLinejoin="round" />
  </svg>
)

/** Mark of a module or a family: each has its own. */
export const ModuleMark = memo(({ module }: { module: Pick<ModuleDescription, 'mark'> }) => (
  <Line path={module.mark} />
))

const COLOUR: Readonly<Record<SignalKind, string>> = {
  audio: 'var(--audio)',
  control: 'var(--control)',
  pitch: 'var(--pitch)',
  gate: 'var(--gate)',
}
export const kindColour = (kind: SignalKind): string => COLOUR[kind]

/** Port mark: round audio, diamond control, triangle pitch, square gate; filled when connected. */
export const PortMark = memo(
  ({ kind, filled, size = 10 }: { kind: SignalKind; filled: boolean; size?: number }) => {
    const paint = { fill: filled ? COLOUR[kind] : 'var(--card)', stroke: COLOUR[kind], strokeWidth: 1.6 }
    return (
      <svg width={size + 4} height={size + 4} viewBox="-7 -7 14 14" aria-hidden="true" className="block">
        {kind === 'audio' ? (
          <circle r="4.4" {...paint} />
        ) : kind === 'control' ? (
          <path d="M0-5.4 5.4 0 0 5.4-5.4 0z" {...paint} />
        ) : kind === 'pitch' ? (
          <path d="M-4.4-4.8 5 0l-9.4 4.8z" {...paint} />
        ) : (
          <rect x="-4.3" y="-4.3" width="8.6" height="8.6" {...paint} />
        )}
      </svg>
    )
  },
)

export const Mark = () => (
  <svg
    width="26"
    height="26"
    viewBox="0 0 24 24"
    fill="none"
    stroke="currentColor"
    strokeWidth="2"
    strokeLinejoin="round"
    role="img"
    aria-label="Ypsilon"
  >
    <path d="M5 3v4.5l7 5.5 7-5.5V3M8.6 3v3L12 8.600l3.400-2.600V3M12 13v8" />
  </svg>
)
