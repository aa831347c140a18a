/** How far the chart is looked at from, and how large text has to be to be read there. */

export type Distance = 'near' | 'middle' | 'small' | 'far'

/** Zooms at which each distance begins, the nearest first. */
const BEGINS: readonly (readonly [distance: Distance, zoom: number])[] = [
  ['near', 0.9],
  ['middle', 0.55],
  ['small', 0.4],
  ['far', 0],
]
/** A distance is left only when the zoom is so much below its beginning. */
const HYSTERESIS = 0.95

/** The distance at a zoom; where it was before decides close to an edge. */
export const distanceAt = (zoom: number, before?: Distance): Distance =>
  BEGINS.find(([distance, begin]) => zoom >= (distance === before ? begin * HYSTERESIS : begin))?.[0] ?? 'far'

/** Steps of the scale of text: text is set anew only when it has to be. */
const STEP = 1.06
const steppedUp = (scale: number): number => STEP ** Math.ceil(Math.log(scale) / Math.log(STEP) - 1e-9)

/** Smallest text of a card at 100 %, and what it must not fall below on the screen, in pixels. */
const SMALLEST = 11,
  LEAST = 10.5

/** Scales for text in places of the chart. */
export interface TextScale {
  /** Of soundings: text keeps its size on the screen. */
  readonly sounding: number
  /** Of cards with rows: text keeps its size on the chart as long as it can be read. */
  readonly rows: number
}

export const textScaleAt = (zoom: number): TextScale => ({
  sounding: steppedUp(1 / zoom),
  rows: Math.max(1, steppedUp(LEAST / SMALLEST / zoom)),
})
