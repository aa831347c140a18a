import type { Sound } from '../formats/wav.ts'

/** Loudness of a sound, for measuring only: none of this reaches audio. */
interface Biquad {
  readonly b: readonly [number, number, number]
  readonly a: readonly [number, number]
}

/** The two stages of K weighting at any rate (ITU-R BS.1770-4, annex 1, its analogue prototypes through the bilinear transform). */
const weighting = (rate: number): readonly [Biquad, Biquad] => {
  const shelf = ((): Biquad => {
    const k = Math.tan((Math.PI * 1681.974450955533) / rate),
      q = 0.7071752369554196,
      vh = 10 ** (3.999843853973347 / 20),
      vb = vh ** 0.4996667741545416,
      n = 1 + k / q + k * k
    return {
      b: [(vh + (vb * k) / q + k * k) / n, (2 * (k * k - vh)) / n, (vh - (vb * k) / q + k * k) / n],
      a: [(2 * (k * k - 1)) / n, (1 - k / q + k * k) / n],
    }
  })()
  const k = Math.tan((Math.PI * 38.13547087602444) / rate),
    q = 0.5003270373238773,
    n = 1 + k / q + k * k
  return [shelf, { b: [1, -2, 1], a: [(2 * (k * k - 1)) / n, (1 - k / q + k * k) / n] }]
}

const filtered = (x: ArrayLike<number>, { b, a }: Biquad): Float64Array => {
  const y = new Float64Array(x.length)
  let x1 = 0,
    x2 = 0,
    y1 = 0,
    y2 = 0
  for (let i = 0; i < x.length; i += 1) {
    const now = x[i]!,
      out = b[0] * now + b[1] * x1 + b[2] * x2 - a[0] * y1 - a[1] * y2
    x2 = x1
    x1 = now
    y2 = y1
    y1 = out
    y[i] = out
  }
  return y
}

const BLOCK_SECONDS = 0.4,
  HOP_SECONDS = 0.1,
  ABSOLUTE_GATE = -70,
  RELATIVE_GATE = -10
const loudnessOf = (power: number): number => -0.691 + 10 * Math.log10(Math.max(power, 1e-30))

/** Integrated loudness in LUFS (EBU R128, ITU-R BS.1770-4); −Infinity for silence. Mono counts once. */
export const loudness = (sound: Sound): number => {
  const [shelf, cut] = weighting(sound.rate)
  const weighted = sound.channels.map((channel) => filtered(filtered(channel, shelf), cut))
  const size = Math.round(BLOCK_SECONDS * sound.rate),
    hop = Math.round(HOP_SECONDS * sound.rate),
    powers: number[] = []
  for (let at = 0; at + size <= (weighted[0]?.length ?? 0); at += hop) {
    let power = 0
    for (const channel of weighted) {
      let sum = 0
      for (let i = at; i < at + size; i += 1) sum += channel[i]! * channel[i]!
      power += sum / size
    }
    powers.push(power)
  }
  const mean = (list: readonly number[]): number =>
    list.reduce((sum, x) => sum + x, 0) / Math.max(1, list.length)
  const heard = powers.filter((power) => loudnessOf(power) > ABSOLUTE_GATE)
  if (heard.length === 0) return -Infinity
  const gate = loudnessOf(mean(heard)) + RELATIVE_GATE
  return loudnessOf(mean(heard.filter((power) => loudnessOf(power) > gate)))
}
