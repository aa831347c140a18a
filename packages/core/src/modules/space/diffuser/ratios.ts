/** Lengths of the stages of a diffuser, as shares of its time. */

export const STAGES = 16

/** Sixteenths: all have a common measure. */
export const SHARED: readonly number[] = Array.from({ length: STAGES }, (_, n) => (STAGES - n) / STAGES)

/** Roots of primes, from the longest to the shortest: no two have a common measure. */
const PRIMES = [89, 79, 71, 61, 53, 43, 37, 29, 23, 19, 17, 13, 11, 7, 5, 3]
export const UNRELATED: readonly number[] = PRIMES.map((prime) => Math.sqrt(prime / 89))

/** Of stage n: the whole time at spread 0. */
export const stageRatio = (n: number, spread: number, isUnrelated: boolean): number =>
  1 - spread + spread * (isUnrelated ? UNRELATED : SHARED)[n]!

/** Both rows, as the kernel reads them. */
export const ratioTable = (): Float32Array => Float32Array.from([...SHARED, ...UNRELATED])
