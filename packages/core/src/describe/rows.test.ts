import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import { dataFaults } from '../patch/values.ts'
import {
  changedRow,
  heightOfStep,
  ROW_CHANGES,
  stepAtHeight,
  stepRow,
  type StepRow,
  stepsOf,
  withStep,
} from './rows.ts'

const rowOf = (name: string, range?: string, type = 'steps'): StepRow =>
  stepRow(
    CATALOGUE.get(type)!.description.data!.find((one) => one.name === name)!,
    name,
    range,
  )
const ROWS: readonly StepRow[] = [
  ...['semitones', 'octaves', 'bipolar', 'unipolar'].map((range) => rowOf('a', range)),
  ...['on', 'chance', 'repeat', 'tie', 'accents'].map((name) => rowOf(name)),
  ...['levels', 'on', 'ratios'].map((name) => rowOf(name, undefined, 'partials')),
  ...['levels', 'ratios', 'decays'].map((name) => rowOf(name, undefined, 'modes')),
]
const anyRow = fc.constantFrom(...ROWS)
const list = fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { maxLength: 32 })
/** A list that a row may hold. */
const listOf = (row: StepRow, heights: readonly number[]): readonly (number | boolean)[] =>
  heights.map((height) => {
    const value = stepAtHeight(row, height)
    return row.isSwitch ? value !== 0 : value
  })

describe('a row of steps', () => {
  it('draws what it shows: the value at the height of a value is that value', () => {
    fc.assert(
      fc.property(anyRow, fc.double({ min: 0, max: 1, noNaN: true }), (row, height) => {
        const value = stepAtHeight(row, height)
        expect(stepAtHeight(row, heightOfStep(row, value))).toBeCloseTo(value, 9)
        expect(value).toBeGreaterThanOrEqual(row.param.min)
        expect(value).toBeLessThanOrEqual(row.param.max)
      }),
    )
    expect(stepAtHeight(rowOf('a', 'semitones'), 31 / 48)).toBe(7)
    expect(stepAtHeight(rowOf('a', 'semitones'), 0.499)).toBe(0)
    expect(stepAtHeight(rowOf('a', 'semitones'), 31.3 / 48, true)).toBeCloseTo(7.3, 9)
  })

  it('takes a value at any step, leaves the others, and stays what the module takes', () => {
    fc.assert(
      fc.property(
        anyRow,
        list,
        fc.nat(31),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (row, heights, at, height) => {
          const before = listOf(row, heights),
            value = stepAtHeight(row, height),
            after = withStep(row, before, at, value)
          expect(dataFaults(row.data, after, 'row')).toEqual([])
          const old = stepsOf(row, before),
            now = stepsOf(row, after)
          now.forEach((step, n) => {
            expect(step).toBe(n === at ? value : old[n])
          })
        },
      ),
    )
  })

  it('is as short as it can be', () => {
    expect(withStep(rowOf('a', 'semitones'), [0, 7, 0, 12], 3, 0)).toEqual([0, 7])
    expect(withStep(rowOf('on'), [], 2, 0)).toEqual([true, true, false])
    expect(withStep(rowOf('on'), [true, true, false], 2, 1)).toEqual([])
    // Where the rest is the place itself, harmonics need not be written.
    const ratios = rowOf('ratios', undefined, 'partials')
    expect(stepsOf(ratios, []).slice(0, 4)).toEqual([1, 2, 3, 4])
    expect(withStep(ratios, [], 2, 3.5)).toEqual([1, 2, 3.5])
    expect(withStep(ratios, [1, 2, 3.5], 2, 3)).toEqual([])
  })

  it('is changed as a whole over the steps that play alone', () => {
    fc.assert(
      fc.property(
        anyRow,
        list,
        fc.integer({ min: 1, max: 32 }),
        fc.constantFrom(...ROW_CHANGES),
        (row, heights, length, change) => {
          const before = listOf(row, heights),
            after = changedRow(row, before, length, change, () => 0.4)
          expect(dataFaults(row.data, after, 'row')).toEqual([])
          expect(stepsOf(row, after).slice(length)).toEqual(stepsOf(row, before).slice(length))
        },
      ),
    )
    const row = rowOf('a', 'semitones')
    expect(changedRow(row, [1, 2, 3, 9], 3, 'rotate left', Math.random)).toEqual([2, 3, 1, 9])
    expect(changedRow(row, [1, 2, 3, 9], 3, 'rotate right', Math.random)).toEqual([3, 1, 2, 9])
    expect(changedRow(row, [1, 2, 3, 9], 3, 'reverse', Math.random)).toEqual([3, 2, 1, 9])
    expect(changedRow(row, [1, 2, 3, 9], 3, 'invert', Math.random)).toEqual([-1, -2, -3, 9])
    expect(changedRow(rowOf('levels', undefined, 'partials'), [4, 0.25], 2, 'invert', Math.random)).toEqual([
      0, 0.75,
    ])
    expect(changedRow(rowOf('on'), [true, false], 4, 'invert', Math.random)).toEqual([
      false,
      true,
      false,
      false,
    ])
  })
})
