/** Where the sidebands of modulation lie (Chowning 1973): carrier ± n × modulator, folded at 0 Hz and at half the rate. */
import type { SpectrumPeak } from '../analysis/spectrum.ts'
import type { MarkKind } from './plot.ts'

export interface Sideband {
  /** How many times the modulator lies between it and the carrier: above 0 a sum, below 0 a difference. */
  readonly order: number
  readonly hz: number
  readonly kind: Exclude<MarkKind, 'peak'>
}

const MOST_ORDER = 24

/** A frequency as it is heard: what lies outside of 0 … half the rate comes back from there. */
const folded = (hz: number, rate: number): number => {
  const turned = Math.abs(hz) % rate
  return turned > rate / 2 ? rate - turned : turned
}

/** The carrier and its sidebands by order, as many on each side; of two in one place the nearer to the carrier. */
export const sidebandsOf = (
  carrier: number,
  modulator: number,
  rate: number,
  orders = MOST_ORDER,
): readonly Sideband[] => {
  const found: Sideband[] = [{ order: 0, hz: carrier, kind: 'carrier' }]
  if (!(modulator > 0)) return found
  for (let n = 1; n <= orders; n += 1)
    for (const order of [n, -n]) {
      const straight = carrier + order * modulator,
        hz = folded(straight, rate)
      if (found.some((other) => Math.abs(other.hz - hz) < 0.01)) continue
      const isFolded = straight < 0 || straight > rate / 2
      found.push({ order, hz, kind: isFolded ? 'folded' : order > 0 ? 'sum' : 'difference' })
    }
  return found
}

/** `c + 2 m`; a folded one in bars: `|c − 5 m|`. */
export const sidebandWords = ({ order, kind }: Sideband): string => {
  if (order === 0) return 'c'
  const count = Math.abs(order),
    words = `c ${order > 0 ? '+' : '−'} ${count > 1 ? `${count} m` : 'm'}`
  return kind === 'folded' ? `|${words}|` : words
}

/** A peak belongs to a sideband this near, in hertz or as a share of itself. */
const NEAR_HZ = 1.5,
  NEAR_SHARE = 0.0015
/** Peaks that are tried: the loudest. */
const TRIED = 12
/** A sideband so far below the loudest peak says little. */
const HEARD_DB = 50

/**
 * Carrier and modulator among the peaks of a spectrum: the loudest peak, and the distance that explains most of what is
 * heard beside it by the fewest steps. undefined where there are not two peaks.
 */
export const modulationOf = (
  peaks: readonly SpectrumPeak[],
  rate: number,
  wanted: { readonly carrier?: number; readonly modulator?: number } = {},
): { readonly carrier: number; readonly modulator: number } | undefined => {
  const loudest = peaks[0]
  if (!loudest) return undefined
  const carrier = wanted.carrier ?? loudest.hz
  if (wanted.modulator !== undefined) return { carrier, modulator: wanted.modulator }
  const heard = peaks.filter(({ db }) => db > loudest.db - HEARD_DB).slice(0, TRIED)
  let best: { readonly carrier: number; readonly modulator: number } | undefined,
    most = 0
  const places = [...heard.map(({ hz }) => hz), carrier]
  const distances = places.flatMap((a, i) => places.slice(i + 1).map((b) => Math.abs(a - b)))
  for (const modulator of distances) {
    if (modulator < 2 * NEAR_HZ) continue
    const score = explained(heard, carrier, modulator, rate)
    if (score <= most + 1e-9) continue
    most = score
    best = { carrier, modulator }
  }
  return best
}

/** How much of the peaks a modulator explains: their levels above what is heard at all, less the further they lie. */
const explained = (
  peaks: readonly SpectrumPeak[],
  carrier: number,
  modulator: number,
  rate: number,
): number => {
  const sidebands = sidebandsOf(carrier, modulator, rate, 10),
    foot = peaks[0]!.db - HEARD_DB
  let score = 0
  for (const { hz, db } of peaks) {
    const own = sidebands.find((other) => isNear(other.hz, hz))
    if (own && own.order !== 0) score += (db - foot) / (1 + 0.1 * Math.abs(own.order))
  }
  return score
}

export const isNear = (a: number, b: number): boolean => Math.abs(a - b) < Math.max(NEAR_HZ, NEAR_SHARE * b)
