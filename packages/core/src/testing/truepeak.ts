/** Levels between samples by filters of any length: for tests that must not depend on one way of measuring. */

/** Windowed sincs (raised cosine) at 1/4, 1/2 and 3/4 of a sample, `taps` each, with a gain of 1 for constants. */
const filters = (taps: number): number[][] =>
  [0.25, 0.5, 0.75].map((place) => {
    const row = Array.from({ length: taps }, (_, i) => {
      const t = i - (taps / 2 - 1) - place
      return (
        (Math.sin(Math.PI * t) / (Math.PI * t)) * (0.5 + 0.5 * Math.cos((Math.PI * t) / (taps / 2 + 0.5)))
      )
    })
    const sum = row.reduce((total, weight) => total + weight, 0)
    return row.map((weight) => weight / sum)
  })

const known = new Map<number, number[][]>()
const filtersOf = (taps: number): number[][] => {
  const rows = known.get(taps) ?? filters(taps)
  known.set(taps, rows)
  return rows
}

/**
 * Decibels true peak, four-fold, `taps` a place. What comes after the first `end` samples is looked at, but not its own
 * level: a sound that was cut off has an edge there.
 */
export const truePeakDb = (x: Float32Array, taps: number, end = x.length): number => {
  let most = 0
  for (let i = 0; i < end; i += 1) {
    most = Math.max(most, Math.abs(x[i]!))
    for (const row of filtersOf(taps)) {
      let y = 0
      for (let k = 0; k < taps; k += 1) y += row[k]! * (x[i + k - taps / 2 + 1] ?? 0)
      most = Math.max(most, Math.abs(y))
    }
  }
  return 20 * Math.log10(most)
}
