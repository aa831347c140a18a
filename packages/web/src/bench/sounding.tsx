/** A card seen from further off: a sounding on the chart, with two corner ticks, its name, values and a live picture. */
import { descriptionOf, rowTarget } from '@ypsilon/core'
import { type CSSProperties, memo } from 'react'
import { ModuleMark } from '../ui/icons.tsx'
import type { Distance } from './chart/distance.ts'
import type { PlacedCard } from './chart/places.ts'
import { labelOfCard } from './chart/sounding-parts.ts'

interface PortsProps {
  readonly card: PlacedCard
  readonly hasAll: boolean
}

/** Where its ports are: they are drawn on the canvas, and found by their place. */
const Ports = memo(({ card: { id, layout, used }, hasAll }: PortsProps) =>
  [...layout.ports.values()]
    .filter(({ name }) => hasAll || used.has(name))
    .map(({ name, side, x, y }) => (
      <span
        key={name}
        className={`port ${side === 'out' ? 'source' : 'target'}`}
        data-port={rowTarget(id, name)}
        role="img"
        aria-label={`${side === 'out' ? 'Output' : 'Input'} ${name}${used.has(name) ? ', connected' : ''}`}
        style={{ left: x, top: y }}
      />
    )),
)

interface SoundingProps {
  readonly card: PlacedCard
  readonly distance: Distance
  /** What of it fits: see `partsWord`. */
  readonly parts: string
  /** Chart pixels that a pixel of the screen is, in its text. */
  readonly scale: number
  /** The loupe shows its ports instead. */
  readonly isLouped: boolean
}

const Face = memo(({ card, parts, scale }: Pick<SoundingProps, 'card' | 'parts' | 'scale'>) => {
  const description = descriptionOf(card.module)
  const [nameLines = '', mark, ...values] = parts.split(' '),
    isCut = mark === 'cut'
  return (
    <div className="sounding-face" style={{ '--far': scale } as CSSProperties}>
      {mark === 'mark' && description && (
        <span className="sounding-mark">
          <ModuleMark module={description} />
        </span>
      )}
      {nameLines !== '0' && (
        <span className="sounding-name" data-lines={nameLines} data-cut={isCut}>
          {labelOfCard(card)}
        </span>
      )}
      {values.join('') && (
        <span className="sounding-values mono" data-cut={isCut}>
          {values.join(' ')}
        </span>
      )}
    </div>
  )
})

export const Sounding = memo(({ card, distance, parts, scale, isLouped }: SoundingProps) => (
  <>
    <Face card={card} parts={parts} scale={scale} />
    {!isLouped && <Ports card={card} hasAll={distance !== 'far'} />}
  </>
))
