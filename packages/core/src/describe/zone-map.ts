/** Zones of a sampler as hands change them on the map of keys and velocities. All of it pure. */

/** What a zone says; what it leaves out comes from its recording or the module. */
export interface ZoneFields {
  readonly asset?: string
  readonly root?: number
  readonly lowKey?: number
  readonly highKey?: number
  readonly lowVelocity?: number
  readonly highVelocity?: number
  readonly start?: number
  readonly end?: number
  readonly loop?: string
  readonly loopStart?: number
  readonly loopEnd?: number
}

/** Where a zone stands: keys whole, both ends in it; velocities 0…1. */
export interface ZoneBox {
  readonly lowKey: number
  readonly highKey: number
  readonly lowVelocity: number
  readonly highVelocity: number
}

export const KEYS = 128
const within = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x))
const hundredth = (x: number): number => Math.round(100 * x) / 100

export const boxOf = ({
  lowKey = 0,
  highKey = KEYS - 1,
  lowVelocity = 0,
  highVelocity = 1,
}: ZoneFields): ZoneBox => ({
  lowKey: Math.min(lowKey, highKey),
  highKey: Math.max(lowKey, highKey),
  lowVelocity: Math.min(lowVelocity, highVelocity),
  highVelocity: Math.max(lowVelocity, highVelocity),
})

/** A zone at another place: what is as if nothing were said is left out. */
const withBox = <Zone extends ZoneFields>(zone: Zone, box: ZoneBox): Zone => {
  const { lowKey: _l, highKey: _h, lowVelocity: _lv, highVelocity: _hv, ...rest } = zone
  return {
    ...rest,
    ...(box.lowKey > 0 ? { lowKey: box.lowKey } : {}),
    ...(box.highKey < KEYS - 1 ? { highKey: box.highKey } : {}),
    ...(box.lowVelocity > 0 ? { lowVelocity: box.lowVelocity } : {}),
    ...(box.highVelocity < 1 ? { highVelocity: box.highVelocity } : {}),
  } as Zone
}

/** Moved whole, as far as there is room; its root goes along where it says one. */
export const movedZone = <Zone extends ZoneFields>(zone: Zone, keys: number, velocity: number): Zone => {
  const box = boxOf(zone)
  const by = within(Math.round(keys), -box.lowKey, KEYS - 1 - box.highKey),
    up = within(hundredth(velocity), -box.lowVelocity, 1 - box.highVelocity)
  const moved = withBox(zone, {
    lowKey: box.lowKey + by,
    highKey: box.highKey + by,
    lowVelocity: hundredth(box.lowVelocity + up),
    highVelocity: hundredth(box.highVelocity + up),
  })
  return zone.root === undefined ? moved : { ...moved, root: within(zone.root + by, 0, KEYS) }
}

export type ZoneEdge = 'lowKey' | 'highKey' | 'lowVelocity' | 'highVelocity'
/** The least height of a zone. */
const LEAST_VELOCITY = 0.01

/** One edge moved to a place; never past the other. */
export const zoneWithEdge = <Zone extends ZoneFields>(zone: Zone, edge: ZoneEdge, to: number): Zone => {
  const box = boxOf(zone)
  const next: Record<ZoneEdge, number> = { ...box }
  switch (edge) {
    case 'lowKey':
      next.lowKey = within(Math.round(to), 0, box.highKey)
      break
    case 'highKey':
      next.highKey = within(Math.round(to), box.lowKey, KEYS - 1)
      break
    case 'lowVelocity':
      next.lowVelocity = within(hundredth(to), 0, hundredth(box.highVelocity - LEAST_VELOCITY))
      break
    case 'highVelocity':
      next.highVelocity = within(hundredth(to), hundredth(box.lowVelocity + LEAST_VELOCITY), 1)
  }
  return withBox(zone, next)
}

/** Zones beside each other, each with as many keys, in the order they stand; roots in the middle of each. */
export const spreadZones = <Zone extends ZoneFields>(
  zones: readonly Zone[],
  lowKey: number,
  highKey: number,
): readonly Zone[] =>
  zones.map((zone, n) => {
    const keys = highKey - lowKey + 1,
      low = lowKey + Math.floor((n * keys) / zones.length),
      high = Math.max(low, lowKey + Math.floor(((n + 1) * keys) / zones.length) - 1)
    return {
      ...withBox(zone, { ...boxOf(zone), lowKey: low, highKey: high }),
      root: Math.round((low + high) / 2),
    }
  })

/** The same for layers of velocity. */
export const layeredZones = <Zone extends ZoneFields>(zones: readonly Zone[]): readonly Zone[] =>
  zones.map((zone, n) =>
    withBox(zone, {
      ...boxOf(zone),
      lowVelocity: hundredth(n / zones.length),
      highVelocity: hundredth((n + 1) / zones.length),
    }),
  )

/** Marks on a recording in order: none passes its neighbour. */
export const movedMark = (marks: readonly number[], index: number, to: number): number =>
  within(to, marks[index - 1] ?? 0, marks[index + 1] ?? 1)
