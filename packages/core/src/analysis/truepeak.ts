/**
 * Level between samples (ITU-R BS.1770-4, annex 2): four-fold oversampling by a windowed sinc of 48 taps. For measuring
 * only.
 */
const PHASES = 4
const TAPS = 12

/** Twelve taps for each of three places between samples, each row with a gain of 1 for constants. */
const ROWS: readonly (readonly number[])[] = Array.from({ length: PHASES - 1 }, (_, phase) => {
  const fraction = (phase + 1) / PHASES
  const row = Array.from({ length: TAPS }, (_unused, tap) => {
    const x = tap - (TAPS / 2 - 1) - fraction
    const window = 0.5 + 0.5 * Math.cos((Math.PI * x) / (TAPS / 2 + 0.5))
    return (Math.sin(Math.PI * x) / (Math.PI * x)) * window
  })
  const sum = row.reduce((total, weight) => total + weight, 0)
  return row.map((weight) => weight / sum)
})

/** Largest sample, linear. */
export const peakOf = (channels: readonly Float32Array[]): number => {
  let most = 0
  for (const channel of channels) for (const x of channel) most = Math.max(most, Math.abs(x))
  return most
}

/** Largest level between samples, linear; never below the largest sample. */
export const truePeakOf = (channels: readonly Float32Array[]): number => {
  let most = peakOf(channels)
  for (const x of channels) {
    for (let i = -TAPS; i < x.length; i += 1) {
      for (const row of ROWS) {
        let y = 0
        for (let tap = 0; tap < TAPS; tap += 1) y += row[tap]! * (x[i + tap - (TAPS / 2 - 1)] ?? 0)
        if (y > most) most = y
        else if (-y > most) most = -y
      }
    }
  }
  return most
}
