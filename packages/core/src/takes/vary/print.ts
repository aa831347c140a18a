/** What a sound is compared by: the levels of forty bands over time. */
import type { Sound } from '../../formats/wav.ts'
import { exactPower } from '../../units/exact.ts'
import { BAND_FRAMES, bandPowers, decibels } from '../bands.ts'

export const BANDS = 40
const LOWEST_HZ = 40,
  HIGHEST_HZ = 16000
const HOP_SECONDS = 0.05
/** What is softer is not heard beside anything. */
const FLOOR_DB = -80

/** Levels in dB, band by band, hop by hop. */
export type Print = readonly Float32Array[]

const edgesOf = (rate: number): number[] =>
  Array.from({ length: BANDS + 1 }, (_, n) => {
    const hz = LOWEST_HZ * exactPower(HIGHEST_HZ / LOWEST_HZ, n / BANDS)
    return Math.min(BAND_FRAMES / 2 - 1, Math.max(1, Math.round((hz * BAND_FRAMES) / rate)))
  })

/** The print of a sound: its first two channels together. */
export const printOf = ({ rate, channels }: Sound): Print => {
  const edges = edgesOf(rate),
    hop = Math.round(HOP_SECONDS * rate),
    frames = channels[0]?.length ?? 0
  return Array.from({ length: Math.max(1, Math.ceil(frames / hop)) }, (_, column) =>
    Float32Array.from(bandPowers(channels, column * hop, edges), (power) =>
      Math.max(FLOOR_DB, decibels(power)),
    ),
  )
}

/** Mean difference of two prints in dB, over whatever is heard in either. */
export const distanceOf = (one: Print, other: Print): number => {
  let sum = 0,
    count = 0
  for (let column = 0; column < Math.max(one.length, other.length); column += 1)
    for (let band = 0; band < BANDS; band += 1) {
      const a = one[column]?.[band] ?? FLOOR_DB,
        b = other[column]?.[band] ?? FLOOR_DB
      if (a <= FLOOR_DB && b <= FLOOR_DB) continue
      sum += Math.abs(a - b)
      count += 1
    }
  return count > 0 ? sum / count : 0
}
