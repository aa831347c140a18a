/** How keys, wheel and drags move a number. */
import { fromScale, type NumberParam, printNumber, toScale } from '@ypsilon/core'

const FULL_DRAG = 200
const FINE = 0.1

export const clamp = (param: NumberParam, value: number): number =>
  Math.min(param.max, Math.max(param.min, value))

/** Distance between the values a drag with Alt stops at, by unit. */
const SNAPS: ReadonlyMap<string, number> = new Map([
  ['ct', 10],
  ['%', 0.1],
  ['s', 0.05],
])
const WIDE_RANGE = 4

/** Musical values a drag with Alt snaps to: whole units, semitones, decades and their halves. */
const snapped = (param: NumberParam, value: number): number => {
  if (param.log) {
    const decade = 10 ** Math.floor(Math.log10(value))
    return [1, 2, 5, 10]
      .map((n) => n * decade)
      .reduce((best, n) => (Math.abs(Math.log(n / value)) < Math.abs(Math.log(best / value)) ? n : best))
  }
  const unit = SNAPS.get(param.unit) ?? (param.max - param.min > WIDE_RANGE ? 1 : 0.1)
  return Math.round(value / unit) * unit
}

/** A value some steps further: whole units and semitones, or a hundredth of the scale. */
export const nudged = (param: NumberParam, value: number, steps: number, isFine: boolean): number => {
  if (param.whole) return clamp(param, value + Math.sign(steps))
  if (param.unit === 'st' || param.unit === 'oct')
    return clamp(param, Math.round((value + steps * (isFine ? 0.01 : 1)) * 100) / 100)
  return clamp(param, fromScale(param, toScale(param, value) + steps * (isFine ? 0.001 : 0.01)))
}

/** A drag of one field, from its first move on. */
export class FieldDrag {
  hasMoved = false
  private at: number

  constructor(
    private readonly param: NumberParam,
    value: number,
    private x: number,
    readonly gesture: string,
  ) {
    this.at = toScale(param, value)
  }

  /** The value after a move of the pointer; undefined below the threshold. */
  move(event: { clientX: number; shiftKey: boolean; altKey: boolean }): number | undefined {
    const distance = event.clientX - this.x
    if (!this.hasMoved && Math.abs(distance) < 3) return undefined
    this.hasMoved = true
    this.at += (distance / FULL_DRAG) * (event.shiftKey ? FINE : 1)
    this.x = event.clientX
    const next = clamp(this.param, fromScale(this.param, this.at))
    return event.altKey ? clamp(this.param, snapped(this.param, next)) : next
  }
}

/** The text a field begins with when it is typed over: without a sign that would add. */
export const typedText = (param: NumberParam, value: number): string =>
  printNumber(param, value).replace('−', '-').replace(/^\+/, '')
