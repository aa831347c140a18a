/** What a signal looks like now, as points within 0…1: a wave for audio, the last moments for anything slower. */
import type { SignalKind } from '@ypsilon/core'
import type { Picture } from '../../audio/pictures.ts'

export type SignalPoint = readonly [x: number, y: number]

/** Moments a strip remembers, a pixel each at 100 %. */
const MOMENTS = 56
/** A wave smaller than this is drawn small. */
const LEAST_SIZE = 0.05
/** Ranges smaller than these are drawn small: octaves of a pitch, anything else. */
const LEAST_PITCH = 0.5,
  LEAST_RANGE = 0.2

/** One or two cycles, from a rising crossing on. */
const wavePoints = ({ ring, position, min, max }: Picture): SignalPoint[] => {
  const length = ring.length,
    half = length / 2
  const at = (i: number): number => ring[(position + i) % length]!
  let start = 0
  for (let i = 1; i < half && start === 0; i += 1) if (at(i - 1) <= 0 && at(i) > 0) start = i
  const span = Math.min(half, length - 1 - start),
    size = Math.max(LEAST_SIZE, Math.abs(min), Math.abs(max))
  return Array.from({ length: MOMENTS + 1 }, (_, n) => [
    n / MOMENTS,
    0.5 + (0.5 * at(start + Math.floor((n / MOMENTS) * span))) / size,
  ])
}

/** The last moments of a slow signal. */
class Strip {
  private readonly low = new Float32Array(MOMENTS)
  private readonly high = new Float32Array(MOMENTS)
  private next = 0

  take({ min, max }: Picture): void {
    const slot = this.next % MOMENTS
    this.low[slot] = min
    this.high[slot] = max
    this.next += 1
  }

  private range(kind: SignalKind): readonly [number, number] {
    if (kind === 'gate') return [0, 1]
    let low = Infinity,
      high = -Infinity
    for (let i = 0; i < Math.min(this.next, MOMENTS); i += 1) {
      low = Math.min(low, this.low[i]!)
      high = Math.max(high, this.high[i]!)
    }
    const least = kind === 'pitch' ? LEAST_PITCH : LEAST_RANGE
    if (high - low >= least) return [low, high]
    const middle = (high + low) / 2
    return [middle - least / 2, middle + least / 2]
  }

  points(kind: SignalKind): SignalPoint[] {
    const [low, high] = this.range(kind),
      count = Math.min(this.next, MOMENTS),
      first = this.next - count
    const y = (value: number): number => 0.04 + (0.92 * (value - low)) / (high - low)
    const points: SignalPoint[] = []
    for (let n = 0; n < count; n += 1) {
      const slot = (first + n) % MOMENTS,
        x = (n + MOMENTS - count) / (MOMENTS - 1)
      points.push([x, y(this.low[slot]!)])
      if (this.high[slot] !== this.low[slot]) points.push([x, y(this.high[slot]!)])
    }
    return points
  }
}

/** One signal followed for as long as it is drawn. */
export class SignalPoints {
  private readonly strip = new Strip()
  constructor(private readonly kind: SignalKind) {}

  /** The points with what has come since; a level line while nothing is told of it. */
  take(picture: Picture | undefined): readonly SignalPoint[] {
    if (!picture)
      return [
        [0, this.kind === 'audio' ? 0.5 : 0.04],
        [1, this.kind === 'audio' ? 0.5 : 0.04],
      ]
    if (this.kind === 'audio') return wavePoints(picture)
    this.strip.take(picture)
    return this.strip.points(this.kind)
  }
}
