import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import { printAmount, printNumber } from './fields.ts'
import { frequency, number, seconds, share } from './helpers.ts'
import { parseAmount, parseNumber, type Reading } from './reading.ts'
import type { NumberParam, ParamDescription } from './types.ts'

const cutoff = frequency('cutoff', 1000, 16),
  rate = frequency('rate', 2, 0.01, 100),
  attack = seconds('attack', 20, 0.005),
  pitch = number('pitch', -60, 60, 0, 'st'),
  fine = number('fine', -100, 100, 0, 'ct'),
  octave = number('octave', -5, 5, 0, 'oct'),
  gain = number('gain', -60, 12, 0, 'dB', { silence: -60 }),
  level = share('level', 1),
  count = number('count', 1, 16, 8, '', { whole: true })

const read = (param: NumberParam, text: string, reading: Reading = {}): number | string => {
  const result = parseNumber(param, text, reading)
  return result.ok ? Math.round(result.value * 1e6) / 1e6 : result.message
}
const amount = (param: ParamDescription | undefined, text: string, set?: number, now?: number) => {
  const result = parseAmount(param, text, {
    ...(set === undefined ? {} : { set }),
    ...(now === undefined ? {} : { now }),
  })
  return result.ok ? Math.round(result.value * 1e6) / 1e6 : result.message
}

describe('what is typed into a field', () => {
  it.each<[NumberParam, string, number]>([
    [cutoff, '640', 640],
    [cutoff, '1,5 k', 1500],
    [cutoff, 'A4', 440],
    [cutoff, '2 ms', 500],
    [rate, '500 ms', 2],
    [rate, '90 bpm', 1.5],
    [rate, '1/8', 4],
    [rate, '1/4t', 3],
    [attack, '30 ms', 0.03],
    [attack, '1/8.', 0.375],
    [attack, '4 Hz', 0.25],
    [pitch, '7', 7],
    [pitch, '50 ct', 0.5],
    [pitch, '3/2', 7.01955],
    [pitch, '-1 oct', -12],
    [fine, '0.5 st', 50],
    [octave, '7 st', 0.583333],
    [gain, '−6 dB', -6],
    [gain, '50 %', -6.0206],
    [gain, 'silent', -60],
    [level, '50', 0.5],
    [level, '-6 dB', 0.501187],
    [level, '1/2', 0.5],
    [count, '4', 4],
  ])('reads "$1" as $2 (%#)', (param, text, expected) => {
    expect(read(param, text, { tempo: 120 })).toBeCloseTo(expected, 3)
  })

  it.each<[NumberParam, string, number, number]>([
    [cutoff, '+12 st', 440, 880],
    [cutoff, '× 2', 440, 880],
    [cutoff, '*0.5', 440, 220],
    [cutoff, 'x2', 440, 880],
    [cutoff, '+100', 440, 540],
    [attack, '+1 oct', 0.1, 0.2],
    [pitch, '+7 st', 5, 12],
    [pitch, '× 2', 0, 12],
    [gain, '+3 dB', -9, -6],
    [gain, '× 2', -12, -5.9794],
    [level, '+10 %', 0.2, 0.3],
    [level, '+6 dB', 0.25, 0.498816],
    [count, '+2', 3, 5],
  ])('starts from the value as it stands: "$1" (%#)', (param, text, now, expected) => {
    expect(read(param, text, { now })).toBeCloseTo(expected, 3)
  })

  it.each<[NumberParam, string, string]>([
    [cutoff, '90 k', '90 kHz is above 20 kHz'],
    [cutoff, '3 dB', '"dB" does not fit here; type a value in Hz'],
    [attack, 'soon', '"soon" is not a number in s'],
    [cutoff, '', '"" is not a number in Hz'],
    [cutoff, '1/0', '"1/0" is not a number in Hz'],
    [cutoff, '12 34', '"12 34" is not a number in Hz'],
    [cutoff, '-5', '−5 Hz is below 16 Hz'],
    [cutoff, 'constructor', '"constructor" is not a number in Hz'],
    [rate, '0 ms', 'This is no value.'],
  ])('refuses "$1" in words (%#)', (param, text, message) => {
    expect(read(param, text)).toBe(message)
  })
})

describe('what is typed as an amount', () => {
  it.each<[string, ParamDescription | undefined, string, number]>([
    ['an input', undefined, '0.5', 0.5],
    ['an input', undefined, '1/2', 0.5],
    ['an input', undefined, '50 %', 0.5],
    ['an input', undefined, '-6 dB', 0.501187],
    ['an input', undefined, '× 0.25', 0.25],
    ['a frequency', cutoff, '2', 2],
    ['a frequency', cutoff, '±2 oct', 2],
    ['a frequency', cutoff, '−2 st', -0.166667],
    ['a frequency', cutoff, '120 Hz', 0.163499],
    ['a time', attack, '1 oct', 1],
    ['a time', attack, '+5 ms', 1],
    ['a share', level, '30', 0.3],
    ['a share', level, '30 %', 0.3],
    ['a pitch', pitch, '50 ct', 0.5],
    ['a pitch', pitch, '1/2', 0.5],
    ['a gain', gain, '6 dB', 6],
  ])('reads the amount on $0: "$2" (%#)', (_where, param, text, expected) => {
    const set = param?.kind === 'number' ? param.default : undefined
    expect(amount(param, text, set)).toBeCloseTo(expected, 3)
  })

  it('multiplies the amount as it stands', () => {
    expect(amount(cutoff, '× 2', 1000, 1.5)).toBe(3)
  })

  it('refuses what is none', () => {
    expect(amount(undefined, 'foo')).toBe('"foo" is not a number')
    expect(amount(cutoff, 'foo', 1000)).toBe('"foo" is not a number in oct')
    expect(amount(cutoff, '3 dB', 1000)).toBe('"dB" does not fit here; type a value in oct')
    expect(amount(undefined, '120 ms')).toBe('"ms" does not fit here; type a value in plain numbers')
    expect(amount(cutoff, '-1000 Hz', 1000)).toBe('An amount goes from −1000000 to 1000000.')
  })
})

const everyNumber = [...CATALOGUE.values()].flatMap(({ description }) =>
  description.params.filter((param): param is NumberParam => param.kind === 'number'),
)

describe('what is printed', () => {
  it('is read again as the same, in every field there is', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...everyNumber),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (param, at) => {
          const value = param.min + (param.max - param.min) * at
          const printed = printNumber(param, value).replace(/^\+/, '')
          const result = parseNumber(param, printed)
          // Printing rounds; what lies at an end may be rounded beyond it.
          if (!result.ok) expect(result.message).toMatch(/is (below|above)/)
          else if (printed !== 'silent')
            expect(Math.abs(result.value - value)).toBeLessThanOrEqual(
              param.whole ? 0.5 : 0.006 * Math.max(0.1, Math.abs(value)),
            )
        },
      ),
      { endOnFailure: true, numRuns: 2000 },
    )
  })

  it('is read again as the same, on every target there is', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(undefined, ...everyNumber),
        fc.double({ min: -50, max: 50, noNaN: true }),
        (param, value) => {
          const result = parseAmount(param, printAmount(param, value), { now: 1 })
          expect(result.ok && Math.abs(result.value - value)).toBeLessThanOrEqual(
            0.006 * Math.max(0.1, Math.abs(value)),
          )
        },
      ),
      { endOnFailure: true, numRuns: 2000 },
    )
  })
})
