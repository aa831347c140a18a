/** How thick a reverberation is, for measuring only. */

/** Window and the distance from one value to the next. */
export const DENSITY_STEP_SECONDS = 0.01
const WINDOW_SECONDS = 0.02
/** Share of Gaussian noise outside one standard deviation: erfc(1/√2). */
const GAUSSIAN = 0.31731050786291415
const MOST_VALUES = 200

/**
 * Echo density over time (Abel & Huang 2006): within a Hann window, the share of samples outside its standard deviation
 * against that of Gaussian noise. 0 for a few echoes, 1 for a dense tail. One value each 10 ms from the sound's first
 * sample on, 2 s at the most.
 */
export const echoDensityOf = (channels: readonly Float32Array[], rate: number): number[] => {
  const x = channels[0] ?? new Float32Array()
  const size = Math.max(8, Math.round(WINDOW_SECONDS * rate)),
    hop = DENSITY_STEP_SECONDS * rate
  const window = Float64Array.from(
    { length: size },
    (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / size),
  )
  const total = window.reduce((sum, w) => sum + w, 0)
  const first = x.findIndex((y) => Math.abs(y) > 1e-9)
  const values: number[] = []
  if (first < 0) return values
  for (let n = 0; n < MOST_VALUES; n += 1) {
    const at = Math.round(first + n * hop)
    if (at + size > x.length) break
    let power = 0
    for (let i = 0; i < size; i += 1) power += (window[i]! * x[at + i]! ** 2) / total
    const deviation = Math.sqrt(power)
    let outside = 0
    for (let i = 0; i < size; i += 1) if (Math.abs(x[at + i]!) > deviation) outside += window[i]! / total
    values.push(power > 1e-18 ? outside / GAUSSIAN : 0)
  }
  return values
}
