/** Fields: reading what people type and printing what they see. */
import { own } from '../units/own.ts'
import { parseNote, hzOfNote, noteValueSeconds } from '../units/units.ts'
import type { ChoiceParam, NumberParam, ParamDescription } from './types.ts'

const digits = (value: number): string => {
  const size = Math.abs(value)
  const places = size >= 1000 ? 0 : size >= 100 ? 1 : size >= 10 ? 1 : size >= 1 ? 2 : 3
  return value
    .toFixed(places)
    .replace(/(\.\d*?)0+$/, '$1')
    .replace(/\.$/, '')
    .replace('-', '−')
}

/** A value with its unit, as fields show it. Seconds below one are shown in ms, frequencies from 1000 in kHz. */
export const printNumber = (param: NumberParam, value: number): string => {
  if (param.silence !== undefined && value <= param.silence) return 'silent'
  switch (param.unit) {
    case 's':
      return value < 1 ? `${digits(value * 1000)} ms` : `${digits(value)} s`
    case 'ms':
      return value >= 1000 ? `${digits(value / 1000)} s` : `${digits(value)} ms`
    case 'Hz':
      return value >= 1000 ? `${digits(value / 1000)} kHz` : `${digits(value)} Hz`
    case '%':
      return `${digits(value * 100)} %`
    case 'ct':
    case 'st':
    case 'oct':
      return `${value > 0 ? '+' : ''}${digits(value)} ${param.unit}`
    case '':
      return digits(value)
    default:
      return `${digits(value)} ${param.unit}`
  }
}

/** How an amount reads at its target: "+1.9 oct", "± 6 ct", "× 0.5". */
export const printAmount = (param: ParamDescription | undefined, amount: number): string => {
  const sign = amount > 0 ? '+' : ''
  if (param?.kind !== 'number') return `× ${digits(amount)}`
  if (param.log || param.time) return `${sign}${digits(amount)} oct`
  if (param.unit === '%') return `${sign}${digits(amount * 100)} %`
  return `${sign}${digits(amount)}${param.unit ? ` ${param.unit}` : ''}`
}

const FACTORS: Readonly<Record<string, Readonly<Record<string, number>>>> = {
  s: { s: 1, sec: 1, ms: 0.001, '': 1 },
  ms: { ms: 1, s: 1000, '': 1 },
  Hz: { hz: 1, khz: 1000, k: 1000, '': 1 },
  '%': { '%': 0.01, '': 0.01 },
  ct: { ct: 1, cent: 1, cents: 1, st: 100, '': 1 },
  st: { st: 1, semi: 1, oct: 12, ct: 0.01, '': 1 },
  oct: { oct: 1, st: 1 / 12, ct: 1 / 1200, '': 1 },
  dB: { db: 1, '': 1 },
  bpm: { bpm: 1, '': 1 },
  '/s': { '/s': 1, '': 1, hz: 1 },
  samples: { samples: 1, sa: 1, '': 1 },
  'dB/oct': { db: 1, 'db/oct': 1, '': 1 },
  deg: { deg: 1, '°': 1, '': 1 },
  '': { '': 1, x: 1, '%': 0.01 },
}

export type Parsed =
  { readonly ok: true; readonly value: number } | { readonly ok: false; readonly message: string }

/**
 * Reads what was typed into a field: a number with or without unit, a note name for frequencies, a note value for
 * times. The result is in the field's unit and inside its range, or says what was expected.
 */
export const parseNumber = (param: NumberParam, text: string, tempo = 120): Parsed => {
  const clean = text.trim().replace('−', '-').replace(',', '.')
  const inside = (value: number): Parsed => {
    if (value < param.min)
      return { ok: false, message: `${printNumber(param, value)} is below ${printNumber(param, param.min)}` }
    if (value > param.max)
      return { ok: false, message: `${printNumber(param, value)} is above ${printNumber(param, param.max)}` }
    return { ok: true, value: param.whole ? Math.round(value) : value }
  }
  if (param.silence !== undefined && /^(silent|off|-inf)$/i.test(clean))
    return { ok: true, value: param.silence }
  if (param.unit === 's' || param.unit === 'ms') {
    const length = noteValueSeconds(clean, tempo)
    if (length !== undefined) return inside(param.unit === 'ms' ? length * 1000 : length)
  }
  const match = /^([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z%°/]*)$/i.exec(clean)
  if (match) {
    const factor = own(own(FACTORS, param.unit), match[2]!.toLowerCase())
    if (factor !== undefined) return inside(Number(match[1]) * factor)
    return {
      ok: false,
      message: `"${match[2]}" does not fit here; type a value in ${param.unit || 'plain numbers'}`,
    }
  }
  if (param.unit === 'Hz') {
    const note = parseNote(clean)
    if (note !== undefined) return inside(hzOfNote(note))
  }
  return { ok: false, message: `"${text}" is not a number${param.unit ? ` in ${param.unit}` : ''}` }
}

/** Reads a choice by its beginning. */
export const parseChoice = (param: ChoiceParam, text: string): string | undefined =>
  param.choices.find((word) => word === text) ??
  param.choices.find((word) => word.toLowerCase().startsWith(text.trim().toLowerCase()))

/** Position 0…1 of a value on its scale: logarithmic for ∿, cubic for times, straight else. */
export const toScale = (param: NumberParam, value: number): number => {
  if (param.log) return Math.log(value / param.min) / Math.log(param.max / param.min)
  const x = (value - param.min) / (param.max - param.min)
  return param.time ? Math.cbrt(x) : x
}

export const fromScale = (param: NumberParam, position: number): number => {
  const x = Math.min(1, Math.max(0, position))
  if (param.log) return param.min * (param.max / param.min) ** x
  const value = param.min + (param.max - param.min) * (param.time ? x ** 3 : x)
  return param.whole ? Math.round(value) : value
}
