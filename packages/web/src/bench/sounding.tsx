/** A card seen from further off: a sounding on the chart, with two corner ticks, its name, values and a live picture. */
import { descriptionOf } from '@ypsilon/core'
import { memo } from 'react'
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
        data-port={`${id}.${name}`}
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
  /** The loupe shows its ports instead. */
  readonly isLouped: boolean
}

export const Sounding = memo(({ card, distance, parts, isLouped }: SoundingProps) => {
  const description = descriptionOf(card.module)
  const [nameLines = '', mark, ...values] = parts.split(' ')
  return (
    <>
      {mark === 'mark' && description && (
        <span className="sounding-mark">
          <ModuleMark module={description} />
        </span>
      )}
      {nameLines !== '0' && (
        <span className="sounding-name" data-lines={nameLines}>
          {labelOfCard(card)}
        </span>
      )}
      {values.join('') && <span className="sounding-values mono">{values.join(' ')}</span>}
      {!isLouped && <Ports card={card} hasAll={distance !== 'far'} />}
    </>
  )
})
