import { describe, expect, it } from 'vitest'
import { number, frequency, seconds } from '../describe/helpers.ts'
import { fromScale, printAmount, printNumber, toScale } from '../describe/fields.ts'
import { parseNumber } from '../describe/reading.ts'
import { noteName, noteValueSeconds, parseNote } from './units.ts'

const cutoff = frequency('cutoff', 1000, 16),
  attack = seconds('attack', 20, 0.005),
  level = number('level', -60, 12, 0, 'dB', { silence: -60 })
const read = (param: Parameters<typeof parseNumber>[0], text: string): number | string => {
  const result = parseNumber(param, text, { tempo: 120 })
  return result.ok ? result.value : result.message
}

describe('units', () => {
  it('reads notes', () => {
    expect(['C4', 'a4', 'C#3', 'Bb2', '60.5', 'H2', ''].map(parseNote)).toEqual([
      60,
      69,
      49,
      46,
      60.5,
      undefined,
      undefined,
    ])
    expect(noteName(49)).toBe('C#3')
    expect(noteName(69.12)).toBe('A4 +12 ct')
  })
  it('reads what people type', () => {
    expect(read(cutoff, '1.5k')).toBe(1500)
    expect(read(cutoff, '640')).toBe(640)
    expect(read(cutoff, 'A4')).toBeCloseTo(440, 3)
    expect(read(attack, '30 ms')).toBeCloseTo(0.03, 9)
    expect(read(attack, '1/8.')).toBeCloseTo(0.375, 9)
    expect(read(level, '−6 dB')).toBe(-6)
    expect(read(level, 'silent')).toBe(-60)
    expect(read(number('octave', -5, 5, 0, 'oct'), '7 st')).toBeCloseTo(7 / 12, 9)
    expect(read(number('octave', -5, 5, 0, 'oct'), '0,585')).toBe(0.585)
    expect(noteValueSeconds('1/4t', 120)).toBeCloseTo(1 / 3, 9)
  })
  it('says what was expected', () => {
    expect(read(cutoff, '90 k')).toBe('90 kHz is above 20 kHz')
    expect(read(cutoff, '3 dB')).toBe('"dB" does not fit here; type a value in Hz')
    expect(read(attack, 'soon')).toBe('"soon" is not a number in s')
  })
  it('prints values and amounts', () => {
    expect(printNumber(cutoff, 1650)).toBe('1.65 kHz')
    expect(printNumber(attack, 0.18)).toBe('180 ms')
    expect(printNumber(level, -60)).toBe('silent')
    expect(printAmount(cutoff, 1.9)).toBe('+1.9 oct')
    expect(printAmount(undefined, 0.5)).toBe('× 0.5')
  })
  it('maps scales there and back', () => {
    for (const param of [cutoff, attack, level])
      for (const x of [0, 0.2, 0.7, 1]) expect(toScale(param, fromScale(param, x))).toBeCloseTo(x, 6)
  })
})
