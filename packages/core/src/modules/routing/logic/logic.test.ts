import { describe, expect, it } from 'vitest'
import { given } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('logic', {
  inputs: 'a b',
  outputs: 'and or xor not flip',
  params: '',
})

describe('logic', () => {
  it('has the tables of its words', () => {
    const ports = ['and', 'or', 'xor', 'not', 'flip']
    expect(given('logic', {}, { a: 1, b: 0 }, ports)).toEqual([0, 1, 1, 0, 1])
    expect(given('logic', {}, { a: 1, b: 1 }, ports)).toEqual([1, 1, 0, 0, 1])
    expect(given('logic', {}, { a: 0, b: 1 }, ports)).toEqual([0, 1, 1, 1, 0])
    expect(given('logic', {}, { a: 0, b: 0 }, ports)).toEqual([0, 0, 0, 1, 0])
  })
})
