import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import { dataFaults } from '../patch/values.ts'
import { fromRoot, scaleName, SCALES, switchesOf } from './scales.ts'

describe('scales', () => {
  it('have different notes, ascending within an octave from their root, and are found by them', () => {
    const data = CATALOGUE.get('quantize')!.description.data![0]!
    for (const [name, semitones] of SCALES) {
      expect(semitones[0], name).toBe(0)
      expect(
        [...semitones].sort((a, b) => a - b),
        name,
      ).toEqual(semitones)
      expect(semitones.at(-1), name).toBeLessThan(12)
      expect(scaleName(switchesOf(semitones))).toBe(name)
      expect(dataFaults(data, switchesOf(semitones), name)).toEqual([])
    }
    expect(scaleName([true, true, true])).toBeUndefined()
  })

  it('counted from another root keep their notes: the modes of the major scale', () => {
    const major = switchesOf(SCALES.get('major')!)
    expect(scaleName(fromRoot(major, 2))).toBe('dorian')
    expect(scaleName(fromRoot(major, 9))).toBe('natural minor')
    expect(fromRoot(fromRoot(major, 5), -5)).toEqual(major)
  })
})
