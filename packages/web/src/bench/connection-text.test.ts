import { describe, expect, it } from 'vitest'
import { emptyPatch } from '@ypsilon/core'
import { inputsOf, outputsOf, ranked, readConnection } from './connection-text.ts'

describe('a typed connection', () => {
  it.each([
    ['osc saw', { from: 'osc saw', to: undefined, amount: undefined }],
    ['osc saw > filter in', { from: 'osc saw', to: 'filter in', amount: undefined }],
    ['lfo sine > filter cutoff * 2 st', { from: 'lfo sine', to: 'filter cutoff', amount: '2 st' }],
    ['lfo sine>filter cutoff×-1/2', { from: 'lfo sine', to: 'filter cutoff', amount: '-1/2' }],
    ['lfo sine > filter cutoff *', { from: 'lfo sine', to: 'filter cutoff', amount: undefined }],
  ])('"%s" is read', (line, expected) => {
    expect(readConnection(line)).toEqual(expected)
  })

  it('names an exact end first, and every port and parameter that takes a cable', () => {
    const patch = {
      ...emptyPatch(),
      modules: [
        { id: 'osc2', type: 'oscillator' },
        { id: 'osc', type: 'oscillator' },
        { id: 'f', type: 'filter', label: 'Harbour' },
      ],
    }
    expect(ranked(outputsOf(patch), 'osc saw')[0]!.target).toBe('osc.saw')
    expect(ranked(inputsOf(patch), 'harb cut')[0]!.target).toBe('f.cutoff')
    expect(ranked(inputsOf(patch), 'nothing like it')).toEqual([])
  })
})
