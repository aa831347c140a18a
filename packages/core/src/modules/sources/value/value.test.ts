import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { promises } from '../../../testing/promises.ts'

promises('value', {
  inputs: '',
  outputs: 'out',
  params: 'value low high unit',
})

describe('value', () => {
  it('semitones and octaves are exact', () => {
    const heard = hear(
      patchOf(
        [
          ['a', 'value', { value: 7, unit: 'semitones' }],
          ['b', 'value', { value: 0.585, unit: 'octaves' }],
          ['c', 'value', { value: 69, unit: 'note' }],
          ['s', 'shift', { semitones: 12 }],
        ],
        [],
      ),
      0.01,
      { taps: ['a.out', 'b.out', 'c.out', 's.out'] },
    )
    expect(heard.tap('a.out')[0]).toBe(Math.fround(7 / 12))
    expect(heard.tap('b.out')[0]).toBe(Math.fround(0.585))
    expect(heard.tap('c.out')[0]).toBe(0.75)
    expect(heard.tap('s.out')[0]).toBe(1)
  })
})
