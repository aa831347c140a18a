import type { Family, SignalKind } from '@ypsilon/core'
import { memo } from 'react'

/** Pictograms of the families, drawn as chart marks. */
const PATHS: Readonly<Record<Family, string>> = {
  playing: 'M1 11h4V4h5v7h5',
  sources: 'M1 11 7 4v7l6-7v7',
  filters: 'M1 5h6c3 0 4 2 6 7',
  level: 'M3 3v10l10-5z',
  modulators: 'M1 8c2-6 5-6 7 0s5 6 7 0',
  routing: 'M1 4h4l4 8h6M1 12h4l1-2',
  space: 'M2 3v10M6 5v8M10 8v5M14 11v2',
  looking: 'M1 12h14M1 12V3M3 9l4-4 3 3 4-5',
}

export const FamilyMark = memo(({ family }: { family: Family }) => (
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
    <path d={PATHS[family]} strokeLinejoin="round" />
  </svg>
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
