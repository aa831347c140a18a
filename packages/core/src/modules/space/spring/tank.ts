/** The numbers of the springs: a chain of stretched all-passes makes the chirp, a line behind it the way there and back. */

/** All-passes in a chain. */
export const STAGES = 90
/** What comes back chirps up to about this frequency. */
const TRANSITION_HERTZ = 4100
/** Ways in ms at middle tension: three springs, left and right. */
export const WAYS: readonly (readonly [number, number])[] = [
  [41.3, 39.1],
  [33.7, 35.9],
  [46.9, 44.5],
]
/** Ways are longer by this where the springs are loosest. */
export const LOOSEST = 1.42

/** Samples that an all-pass of the chain is stretched over: its chirp ends at half the rate divided by it. */
export const stretchOf = (sampleRate: number): number =>
  Math.max(3, Math.round(sampleRate / (2 * TRANSITION_HERTZ)))

/** Coefficient of the all-passes: looser springs spread their chirp wider. */
export const spreadOf = (tension: number): number => 0.7 - 0.2 * tension

/**
 * Frames that the chain delays a frequency by: a Schroeder all-pass over K samples, (a + z^−K) / (1 + a z^−K), has the
 * group delay K (1 − a²) / (1 + 2a cos ωK + a²).
 */
export const chainDelay = (cosine: number, stretch: number, a: number): number =>
  (STAGES * stretch * (1 - a * a)) / (1 + 2 * a * cosine + a * a)
