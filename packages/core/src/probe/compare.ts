/** Two plots of one kind against each other: the difference as a curve, and as numbers. */
import { type Curve, heightAt, type Plot, type Reading } from './plot.ts'

/** Places of the difference across. */
const PLACES = 512
/** Below this neither of two spectra says anything. */
const FLOOR_DB = -90,
  /** Above this one of them is counted in what differs on average. */
  HEARD_DB = -80

const placesOf = ({ across: { from, to, scale } }: Plot): Float32Array =>
  Float32Array.from({ length: PLACES }, (_, n) => {
    const share = n / (PLACES - 1)
    return scale === 'log' ? from * (to / from) ** share : from + share * (to - from)
  })

/** The highest of a curve's points from one place to another, or what lies between two. */
const highestIn = (curve: Curve, from: number, to: number): number | undefined => {
  const { x, y } = curve
  let most = heightAt(curve, (from + to) / 2)
  for (let low = lowerBound(x, from); low < x.length && x[low]! < to; low += 1)
    most = most === undefined ? y[low]! : Math.max(most, y[low]!)
  return most
}

const lowerBound = (x: Float32Array, at: number): number => {
  let low = 0,
    high = x.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (x[middle]! < at) low = middle + 1
    else high = middle
  }
  return low
}

/**
 * How far the first curve of `b` lies above that of `a`, over the axis of `a`; where both are silent there is no
 * difference. undefined where one has no line.
 */
export const differenceOf = (a: Plot, b: Plot): Curve | undefined => {
  const [one, other] = [a.curves[0], b.curves[0]]
  if (!one || !other || one.style === 'dots' || other.style === 'dots') return undefined
  if (one.style === 'bars') return differenceOfBars(one, other)
  const places = placesOf(a),
    isLevel = a.up.unit === 'dB'
  const x: number[] = [],
    y: number[] = []
  places.forEach((at, n) => {
    const [from, to] = [places[Math.max(0, n - 1)]!, places[Math.min(PLACES - 1, n + 1)]!].map(
      (edge) => (edge + at) / 2,
    ) as [number, number]
    const [low, high] = isLevel
      ? [highestIn(one, from, to), highestIn(other, from, to)]
      : [heightAt(one, at), heightAt(other, at)]
    if (low === undefined || high === undefined) return
    x.push(at)
    y.push(isLevel ? Math.max(high, FLOOR_DB) - Math.max(low, FLOOR_DB) : high - low)
  })
  return { name: 'difference', x: Float32Array.from(x), y: Float32Array.from(y), style: 'line' }
}

const differenceOfBars = (one: Curve, other: Curve): Curve => {
  const shared = [...one.x].flatMap((at, n) => {
    const m = other.x.findIndex((place) => Math.abs(place - at) < 1e-3 * Math.max(1, at))
    return m < 0 ? [] : [[at, other.y[m]! - one.y[n]!] as const]
  })
  return {
    name: 'difference',
    x: Float32Array.from(shared, ([at]) => at),
    y: Float32Array.from(shared, ([, height]) => height),
    style: 'bars',
  }
}

/** Numbers of both side by side, and how much `b` is above `a`; besides what differs of their curves at most and on average. */
export interface Difference {
  readonly curve: Curve | undefined
  readonly readings: readonly (Reading & { readonly other: number | null; readonly more: number | null })[]
  /** Mean and largest distance of the two curves, in the unit of the axis up. */
  readonly mean: number | null
  readonly most: number | null
}

/** Of levels: is there anything to be heard of one of them? Elsewhere there is no difference to be counted. */
const isHeard = (a: Plot, b: Plot, at: number): boolean =>
  a.up.unit !== 'dB' ||
  a.curves[0]!.style === 'bars' ||
  [a, b].some(({ curves: [curve] }) => (heightAt(curve!, at) ?? -Infinity) > HEARD_DB)

/** Of a spectrum: its highest level, and the centre of its energy. */
const spectrumReadings = ({ curves: [curve], across, up }: Plot): readonly Reading[] => {
  if (!curve || curve.style !== 'line' || across.unit !== 'Hz' || up.unit !== 'dB') return []
  let most = -Infinity,
    energy = 0,
    centre = 0
  curve.x.forEach((hz, k) => {
    const level = curve.y[k]!
    if (level < HEARD_DB) return
    most = Math.max(most, level)
    energy += 10 ** (level / 10)
    centre += hz * 10 ** (level / 10)
  })
  return [
    { name: 'highest', value: energy > 0 ? most : null, unit: 'dB' },
    { name: 'centre', value: energy > 0 ? centre / energy : null, unit: 'Hz' },
  ]
}

const numbersOf = (plot: Plot): readonly Reading[] => {
  const more = spectrumReadings(plot)
  return [...plot.readings.filter(({ name }) => !more.some((each) => each.name === name)), ...more]
}

export const compared = (a: Plot, b: Plot): Difference => {
  const curve = differenceOf(a, b)
  const heights = curve ? [...curve.y].filter((_, n) => isHeard(a, b, curve.x[n]!)) : []
  return {
    curve,
    readings: numbersOf(a).flatMap((reading) => {
      const other = numbersOf(b).find(({ name }) => name === reading.name)
      if (!other) return []
      const more = reading.value === null || other.value === null ? null : other.value - reading.value
      return [{ ...reading, other: other.value, more }]
    }),
    mean: heights.length > 0 ? heights.reduce((sum, y) => sum + Math.abs(y), 0) / heights.length : null,
    most: heights.length > 0 ? heights.reduce((most, y) => Math.max(most, Math.abs(y)), 0) : null,
  }
}
