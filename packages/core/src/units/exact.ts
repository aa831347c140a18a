/**
 * Functions for tables that reach audio: only + − × ÷ and √, which every machine rounds alike (IEEE 754), where
 * Math.sin and its like differ in the last digit. Relative error below 1e-14.
 */
const LN2 = 0.6931471805599453

/** e^x. */
export const exactExp = (x: number): number => {
  if (x > 700) return Infinity
  if (x < -700) return 0
  const n = Math.round(x / LN2)
  const r = x - n * LN2
  let sum = 1,
    term = 1
  for (let k = 1; k < 20; k += 1) {
    term *= r / k
    sum += term
  }
  for (let i = 0; i < Math.abs(n); i += 1) sum *= n > 0 ? 2 : 0.5
  return sum
}

/** 2^x. */
export const exactExp2 = (x: number): number => exactExp(x * LN2)

/** ln x, x > 0: mantissa within 1/√2 … √2, then 2 artanh((m − 1)/(m + 1)). */
export const exactLog = (x: number): number => {
  if (!(x > 0)) return -Infinity
  if (x === Infinity) return Infinity
  let m = x,
    n = 0
  while (m > 1.4142135623730951) {
    m *= 0.5
    n += 1
  }
  while (m < 0.7071067811865476) {
    m *= 2
    n -= 1
  }
  const s = (m - 1) / (m + 1),
    s2 = s * s
  let sum = 0,
    term = s
  for (let k = 1; k < 41; k += 2) {
    sum += term / k
    term *= s2
  }
  return 2 * sum + n * LN2
}

/** a^b, a > 0. */
export const exactPower = (a: number, b: number): number => (a > 0 ? exactExp(b * exactLog(a)) : 0)

/** sin of an angle in cycles (1 = a full turn). */
export const exactSine = (cycles: number): number => {
  let p = cycles - Math.floor(cycles)
  if (p > 0.75) p -= 1
  if (p > 0.25) p = 0.5 - p
  const x = p * 6.283185307179586,
    x2 = x * x
  let sum = 0,
    term = x
  for (let k = 1; k < 26; k += 2) {
    sum += term
    term *= -x2 / ((k + 1) * (k + 2))
  }
  return sum
}
export const exactCosine = (cycles: number): number => exactSine(cycles + 0.25)
