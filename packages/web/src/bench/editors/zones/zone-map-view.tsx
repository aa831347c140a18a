/** The map of a sampler: keys across, velocities up, a box for every zone. */
import { noteName } from '@ypsilon/core'
import {
  boxOf,
  KEYS,
  movedZone,
  type ZoneEdge,
  type ZoneFields,
  zoneWithEdge,
} from '@ypsilon/core/describe/zone-map.ts'
import { type KeyboardEvent, type PointerEvent, useRef } from 'react'
import { newGesture } from '../../fields/types.ts'
import { followPointer } from '../../follow-pointer.ts'

/** Pixels of an edge that move it alone. */
const EDGE_PX = 6

export interface ZoneMapProps {
  readonly zones: readonly ZoneFields[]
  readonly selected: number
  readonly select: (index: number) => void
  readonly onZone: (index: number, zone: ZoneFields, words: string, gesture: string) => void
  readonly onGiveUp: (gesture: string) => void
  /** Presses of a key that follow at once are one step. */
  readonly nudge: () => string
  readonly onRemove: (index: number) => void
}

/** The edge a press is at; undefined in the middle. */
const edgeAt = ({ clientX, clientY }: PointerEvent, box: DOMRect): ZoneEdge | undefined => {
  const wide = Math.min(EDGE_PX, box.width / 4),
    high = Math.min(EDGE_PX, box.height / 4)
  if (clientX - box.left < wide) return 'lowKey'
  if (box.right - clientX < wide) return 'highKey'
  if (clientY - box.top < high) return 'highVelocity'
  return box.bottom - clientY < high ? 'lowVelocity' : undefined
}

const WAYS: ReadonlyMap<string, readonly [keys: number, velocity: number]> = new Map([
  ['ArrowLeft', [-1, 0]],
  ['ArrowRight', [1, 0]],
  ['ArrowUp', [0, 0.01]],
  ['ArrowDown', [0, -0.01]],
])

/** What an arrow does to a zone: moved whole, with Alt its upper ends; with Shift by an octave or a tenth. */
const keyed = (zone: ZoneFields, { key, shiftKey, altKey }: KeyboardEvent): ZoneFields | undefined => {
  const way = WAYS.get(key)
  if (!way) return undefined
  const [keys, velocity] = [way[0] * (shiftKey ? 12 : 1), way[1] * (shiftKey ? 10 : 1)]
  if (!altKey) return movedZone(zone, keys, velocity)
  const box = boxOf(zone)
  return keys !== 0
    ? zoneWithEdge(zone, 'highKey', box.highKey + keys)
    : zoneWithEdge(zone, 'highVelocity', box.highVelocity + velocity)
}

const drag = (
  event: PointerEvent<HTMLElement>,
  area: DOMRect,
  { zones, onZone, onGiveUp }: ZoneMapProps,
  index: number,
): void => {
  const zone = zones[index]!,
    box = boxOf(zone),
    edge = edgeAt(event, event.currentTarget.getBoundingClientRect()),
    gesture = newGesture('zone')
  const { clientX, clientY } = event
  followPointer(event, {
    move: (moved) => {
      const keys = (KEYS * (moved.clientX - clientX)) / area.width,
        velocity = (clientY - moved.clientY) / area.height
      if (edge === undefined) onZone(index, movedZone(zone, keys, velocity), 'Move a zone', gesture)
      else {
        const by = edge === 'lowKey' || edge === 'highKey' ? keys : velocity
        onZone(index, zoneWithEdge(zone, edge, box[edge] + by), 'Size a zone', gesture)
      }
    },
    drop: () => undefined,
    giveUp: () => {
      onGiveUp(gesture)
    },
  })
}

const Zone = ({
  index,
  area,
  ...props
}: ZoneMapProps & { readonly index: number; readonly area: () => DOMRect }) => {
  const { zones, selected, select, onZone, nudge, onRemove } = props,
    zone = zones[index]!,
    { lowKey, highKey, lowVelocity, highVelocity } = boxOf(zone)
  return (
    <span
      role="option"
      tabIndex={index === selected ? 0 : -1}
      aria-selected={index === selected}
      className="zone-box nokey"
      data-zone-box={index}
      aria-label={`Zone ${index + 1}, ${zone.asset ?? 'no recording'}, ${noteName(lowKey)} to ${noteName(highKey)}, velocity ${Math.round(100 * lowVelocity)} to ${Math.round(100 * highVelocity)} %`}
      style={{
        left: `${(100 * lowKey) / KEYS}%`,
        width: `${(100 * (highKey - lowKey + 1)) / KEYS}%`,
        bottom: `${100 * lowVelocity}%`,
        height: `${100 * (highVelocity - lowVelocity)}%`,
      }}
      onFocus={() => {
        select(index)
      }}
      onPointerDown={(event) => {
        if (event.button !== 0) return
        select(index)
        event.currentTarget.focus({ preventScroll: true })
        drag(event, area(), props, index)
      }}
      onKeyDown={(event) => {
        if (event.key === 'Delete' || event.key === 'Backspace') onRemove(index)
        else {
          const next = keyed(zone, event)
          if (!next) return
          onZone(index, next, 'Move a zone', nudge())
        }
        event.preventDefault()
        event.stopPropagation()
      }}
    >
      <span className="zone-name">{zone.asset ?? '–'}</span>
      {zone.root !== undefined && zone.root >= lowKey && zone.root <= highKey && (
        <span
          className="zone-root"
          aria-hidden="true"
          style={{ left: `${(100 * (zone.root - lowKey + 0.5)) / (highKey - lowKey + 1)}%` }}
        />
      )}
    </span>
  )
}

export const ZoneMap = (props: ZoneMapProps) => {
  const field = useRef<HTMLDivElement>(null)
  return (
    <div className="zone-map-around">
      <div
        ref={field}
        className="zone-map"
        role="listbox"
        aria-label="Zones by key and velocity"
        data-zone-map
      >
        {props.zones.map((_, index) => (
          <Zone key={index} {...props} index={index} area={() => field.current!.getBoundingClientRect()} />
        ))}
      </div>
      <div className="zone-keys mono" aria-hidden="true">
        {Array.from({ length: 11 }, (_, n) => (
          <span key={n} style={{ left: `${(100 * 12 * n) / KEYS}%` }}>
            {noteName(12 * n)}
          </span>
        ))}
      </div>
    </div>
  )
}
