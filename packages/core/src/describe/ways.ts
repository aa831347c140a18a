/** Ways from one value of a parameter to another: what macros, controllers, morphs and blends move along. */

export type Value = number | string | boolean

export interface Way {
  /** The value at a share 0…1 of the way. */
  at(share: number): Value
  /** Share of the way at which a value stands, within 0…1. */
  shareOf(value: Value): number
}

export const within = (share: number): number => (share > 0 ? Math.min(1, share) : 0)

/** Evenly between two numbers, held within bounds. */
export const plainWay = (from: number, to: number, low: number, high: number): Way => ({
  at: (share) => Math.min(high, Math.max(low, from + (to - from) * within(share))),
  shareOf: (value) => (to === from ? 0 : within((Number(value) - from) / (to - from))),
})
