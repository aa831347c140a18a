/**
 * Level between samples (ITU-R BS.1770-4, annex 2): four-fold oversampling by a windowed sinc of 48 taps. For measuring
 * only: of a whole sound, or heard piece by piece.
 */
import { exactCosine, exactSine } from '../units/exact.ts'

const PHASES = 4
const TAPS = 12

/** Twelve taps for each of three places between samples, each row with a gain of 1 for constants. */
const ROWS: readonly Float64Array[] = Array.from({ length: PHASES - 1 }, (_, phase) => {
  const fraction = (phase + 1) / PHASES
  const row = Float64Array.from({ length: TAPS }, (_unused, tap) => {
    const x = tap - (TAPS / 2 - 1) - fraction
    const window = 0.5 + 0.5 * exactCosine(x / (TAPS + 1))
    return (exactSine(x / 2) / (Math.PI * x)) * window
  })
  const sum = row.reduce((total, weight) => total + weight, 0)
  return row.map((weight) => weight / sum)
})

/** Largest sample, linear. */
export const peakOf = (channels: readonly Float32Array[]): number => {
  let most = 0
  for (const channel of channels)
    for (let n = 0; n < channel.length; n += 1) {
      const level = Math.abs(channel[n]!)
      if (level > most) most = level
    }
  return most
}

/** Hears a sound piece by piece. */
export class TruePeakMeter {
  /** Of every channel the last samples, behind which the next piece is put. */
  private readonly last: Float32Array[]
  private most = 0

  constructor(channels: number) {
    this.last = Array.from({ length: channels }, () => new Float32Array(TAPS - 1))
  }

  /** The next frames of every channel. */
  add(channels: readonly Float32Array[]): void {
    this.most = Math.max(this.most, peakOf(channels))
    channels.forEach((piece, n) => {
      const before = this.last[n]!,
        x = new Float32Array(before.length + piece.length)
      x.set(before)
      x.set(piece, before.length)
      for (let at = 0; at + TAPS <= x.length; at += 1)
        for (const row of ROWS) {
          let y = 0
          for (let tap = 0; tap < TAPS; tap += 1) y += row[tap]! * x[at + tap]!
          if (y > this.most) this.most = y
          else if (-y > this.most) this.most = -y
        }
      this.last[n] = x.slice(x.length - TAPS + 1)
    })
  }

  /** The same of what has passed so far, linear: the last samples may still turn out to lie below a higher one. */
  get soFar(): number {
    return this.most
  }

  /** Largest level between samples of all that was heard, linear; never below the largest sample. */
  end(): number {
    this.add(this.last.map(() => new Float32Array(TAPS)))
    return this.most
  }
}

/** Largest level between samples, linear; never below the largest sample. */
export const truePeakOf = (channels: readonly Float32Array[]): number => {
  const meter = new TruePeakMeter(channels.length)
  meter.add(channels)
  return meter.end()
}
