/** Zones of a sampler as its kernel reads them. */
import { exactPower } from '../../../units/exact.ts'
import type { AssetSound, TableContext } from '../../../describe/types.ts'
import type { ZoneFields } from '../../../describe/zone-map.ts'
import { copies, copiesOf } from '../../../units/halves.ts'
import { atRate, recordingFault } from '../../recordings.ts'

/** A zone of the document; what it leaves out comes from its file or from the module. */
export interface Zone extends ZoneFields {
  readonly crossfade?: number
  readonly tune?: number
  readonly gain?: number
  readonly pan?: number
  readonly turn?: number | string
}

/** Words of the head and of a zone; zones and groups that take turns, at the most. */
export const HEAD_WORDS = 4,
  ZONE_WORDS = 24,
  MOST_ZONES = 512,
  MOST_TURNS = 64
/** The module says. */
const OF_MODULE = -1
const LOOPS = ['off', 'forward', 'pingpong']
const MIDDLE = 60

const numberOr = (value: unknown, other: number): number =>
  typeof value === 'number' && Number.isFinite(value) ? value : other

/** 10^(dB / 20), and equal power between the sides: 1 on both in the middle. */
const gainsOf = ({ gain, pan }: Zone): readonly [number, number, number] => {
  const side = Math.max(-1, Math.min(1, numberOr(pan, 0)))
  return [
    exactPower(10, numberOr(gain, 0) / 20),
    Math.sqrt(Math.max(0, 1 - side)),
    Math.sqrt(Math.max(0, 1 + side)),
  ]
}

/** Loop of a zone: mode, first and last frame; from the zone, else from its file, else the module says. */
const loopOf = (
  zone: Zone,
  sound: AssetSound,
  frames: number,
  ratio: number,
): readonly [number, number, number] => {
  const place = (share: unknown, file: number | undefined): number =>
    typeof share === 'number'
      ? share * frames
      : file === undefined
        ? OF_MODULE
        : Math.min(frames, file * ratio)
  const mode = LOOPS.indexOf(String(zone.loop ?? ''))
  const isOwn = mode >= 0,
    file = sound.loop
  return [
    isOwn ? mode : file ? 1 : OF_MODULE,
    place(zone.loopStart, file?.start),
    place(zone.loopEnd, file?.end),
  ]
}

/** Zones that can sound, with their samples behind them: each recording once. */
export const zoneTable = ({ data, asset, sampleRate }: TableContext): Float32Array => {
  const given = data('zones')
  const zones = (Array.isArray(given) ? (given as (Zone | null)[]) : [])
    .slice(0, MOST_ZONES)
    .flatMap((zone) => {
      const sound = typeof zone?.asset === 'string' ? asset(zone.asset) : undefined
      return zone && sound && recordingFault(sound) === undefined
        ? [{ zone, sound, channels: atRate(sound, sampleRate), ratio: sampleRate / sound.rate }]
        : []
    })
  const places = new Map<AssetSound, number>()
  let words = HEAD_WORDS + zones.length * ZONE_WORDS
  for (const { sound, channels } of zones)
    if (!places.has(sound)) {
      places.set(sound, words)
      words += channels.length * copiesOf(channels[0]!.length)
    }
  const table = new Float32Array(Math.max(words, HEAD_WORDS + 1)),
    whole = new Uint32Array(table.buffer)
  whole[0] = zones.length
  const turns: string[] = []
  zones.forEach(({ zone, sound, channels, ratio }, n) => {
    const at = HEAD_WORDS + n * ZONE_WORDS,
      place = places.get(sound)!,
      frames = channels[0]!.length
    whole[at] = place
    whole[at + 1] = channels.length > 1 ? place + copiesOf(frames) : place
    whole[at + 2] = frames
    const group = zone.turn === undefined ? '' : String(zone.turn)
    if (group !== '' && !turns.includes(group) && turns.length < MOST_TURNS) turns.push(group)
    whole[at + 3] = turns.indexOf(group) + 1
    table.set(
      [
        numberOr(zone.root, numberOr(sound.root, MIDDLE)),
        numberOr(zone.lowKey, 0),
        numberOr(zone.highKey, 127),
        numberOr(zone.lowVelocity, 0),
        numberOr(zone.highVelocity, 1),
        numberOr(zone.start, OF_MODULE),
        numberOr(zone.end, OF_MODULE),
        ...loopOf(zone, sound, frames, ratio),
        numberOr(zone.crossfade, OF_MODULE),
        numberOr(zone.tune, 0),
        ...gainsOf(zone),
      ],
      at + 4,
    )
    channels.forEach((channel, c) => {
      let to = place + c * copiesOf(frames)
      for (const copy of copies(channel)) {
        table.set(copy, to)
        to += copy.length
      }
    })
  })
  whole[1] = turns.length
  return table
}
