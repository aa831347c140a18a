/**
 * Two chains of all-passes whose outputs stay a quarter of a cycle apart: an elliptic half-band filter in two branches,
 * turned by a quarter of the rate. Valenzuela and Constantinides, "Digital signal processing schemes for efficient
 * interpolation and decimation" (1983), for the branches; the nome's series from any book of elliptic functions.
 */
import { exactCosine, exactSine } from '../../../units/exact.ts'

/** All-passes in both chains together; nine in each leave an image of −85 dB. */
const SECTIONS = 18
/** From so many hertz to as far below Nyquist, at 48 kHz. */
const LOWEST = 20 / 48000
const TERMS = 24

const sum = (from: number, term: (n: number) => number): number => {
  let total = 0
  for (let n = from; n < TERMS; n += 1) total += (n % 2 === 0 ? 1 : -1) * term(n)
  return total
}

/** q^n, n whole. */
const powerOf = (q: number, n: number): number => {
  let power = 1
  for (let i = 0; i < n; i += 1) power *= q
  return power
}

/** Coefficients of the first chain, then of the second. */
export const hilbertPair = (): Float32Array => {
  const tangent = exactSine((1 - 2 * LOWEST) / 8) / exactCosine((1 - 2 * LOWEST) / 8)
  const k = tangent * tangent
  const root = Math.sqrt(Math.sqrt(1 - k * k)),
    e = (0.5 * (1 - root)) / (1 + root)
  const e4 = powerOf(e, 4),
    q = e * (1 + e4 * (2 + e4 * (15 + 150 * e4)))
  const quarter = Math.sqrt(Math.sqrt(q))
  const order = 2 * SECTIONS + 1
  const coefficients = Array.from({ length: SECTIONS }, (_, index) => {
    const turn = (index + 1) / (2 * order)
    const over = quarter * sum(0, (n) => powerOf(q, n * (n + 1)) * exactSine((2 * n + 1) * turn)),
      under = 0.5 + sum(1, (n) => powerOf(q, n * n) * exactCosine(2 * n * turn))
    const w = over / under,
      w2 = w * w
    const x = Math.sqrt((1 - w2 * k) * (1 - w2 / k)) / (1 + w2)
    return (1 - x) / (1 + x)
  })
  return Float32Array.from([
    ...coefficients.filter((_, index) => index % 2 === 0),
    ...coefficients.filter((_, index) => index % 2 === 1),
  ])
}
