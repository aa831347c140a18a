/** Places across and up, and what stands at the ticks. */
import type { Axis } from '@ypsilon/core/probe/plot.ts'
import { printNumber } from '@ypsilon/core'
import { plain } from '../editors/number-text.tsx'

export interface Tick {
  readonly value: number
  readonly words: string
}

/** Share of the way along an axis, 0…1 within it. */
export const shareOf = ({ scale, from, to }: Axis, value: number): number =>
  scale === 'log'
    ? Math.log(Math.max(value, 1e-9) / from) / Math.log(to / from)
    : (value - from) / (to - from)

export const valueAt = ({ scale, from, to }: Axis, share: number): number =>
  scale === 'log' ? from * (to / from) ** share : from + share * (to - from)

const STEPS = [1, 2, 5, 10] as const

/** Steps of equal length, each 1, 2 or 5 of a power of ten. */
const linearTicks = ({ from, to }: Axis, count: number): number[] => {
  const wanted = (to - from) / Math.max(1, count),
    power = 10 ** Math.floor(Math.log10(wanted)),
    step = power * STEPS.find((each) => each * power >= wanted * (1 - 1e-9))!
  const first = Math.ceil(from / step - 1e-9)
  return Array.from({ length: Math.floor(to / step + 1e-9) - first + 1 }, (_, n) => (first + n) * step)
}

/** Powers of ten, and 2 and 5 of them where there is room. */
const logTicks = ({ from, to }: Axis, count: number): number[] => {
  const decades = Math.log10(to / from),
    parts = count >= 3 * decades ? [1, 2, 5] : [1]
  const ticks: number[] = []
  for (let power = Math.floor(Math.log10(from)); power <= Math.log10(to); power += 1)
    for (const part of parts) {
      const value = part * 10 ** power
      if (value >= from * (1 - 1e-9) && value <= to * (1 + 1e-9)) ticks.push(value)
    }
  return ticks
}

const minus = (text: string): string => text.replace('-', '−')

/** A value without its unit, as short as the step allows. */
const tickWords = (value: number, step: number): string => {
  if (Math.abs(value) >= 1000) return minus(`${Number((value / 1000).toPrecision(4))} k`)
  const digits = Math.max(0, Math.ceil(-Math.log10(step) - 1e-9))
  return minus(Number(value.toFixed(Math.min(6, digits))).toString())
}

/** Seconds below one are read in milliseconds. */
const inUnit = (axis: Axis): { readonly factor: number; readonly unit: string } =>
  axis.unit === 's' && Math.max(Math.abs(axis.from), Math.abs(axis.to)) < 1
    ? { factor: 1000, unit: 'ms' }
    : { factor: 1, unit: axis.unit }

/** The unit an axis is read in. */
export const unitOf = (axis: Axis): string => inUnit(axis).unit

/** Ticks for so many pixels, `apart` at least from one to the next. */
export const ticksOf = (axis: Axis, pixels: number, apart: number): readonly Tick[] => {
  const { factor } = inUnit(axis),
    scaled: Axis = { ...axis, from: axis.from * factor, to: axis.to * factor },
    count = Math.max(1, Math.floor(pixels / apart))
  const values = scaled.scale === 'log' ? logTicks(scaled, count) : linearTicks(scaled, count)
  const step = values.length > 1 && scaled.scale === 'linear' ? Math.abs(values[1]! - values[0]!) : 1
  return values.map((value) => ({
    value: value / factor,
    words: tickWords(value, scaled.scale === 'log' ? Math.min(1, value) : step),
  }))
}

const PRINTED = ['Hz', 's', 'dB', 'ct'] as const

/** A value of an axis or a reading in words: `1.02 kHz`, `−31.2 dB`, `12.5 ms`. */
export const valueWords = (value: number | null, unit: string): string => {
  if (value === null) return '–'
  const known = PRINTED.find((each) => each === unit)
  if (known === 'Hz') return `${minus(value < 1000 ? value.toFixed(1) : value.toFixed(0))} Hz`
  if (known) return printNumber(plain('', '', -1e9, 1e9, known), value)
  const digits = unit === '' ? 3 : 1
  return minus(`${value.toFixed(digits)}${unit ? ` ${unit}` : ''}`)
}
