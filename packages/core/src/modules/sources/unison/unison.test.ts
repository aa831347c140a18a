import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { db, rms } from '../../../testing/measure.ts'
import { promises } from '../../../testing/promises.ts'

promises('unison', {
  inputs: 'pitch phase reset',
  outputs: 'out',
  params: 'copies detune spread blend shape width octave semitones fine level',
})

describe('unison', () => {
  it('keeps its level for any number of copies, spreads and detunes', () => {
    const heard = (copies: number): readonly Float32Array[] =>
      hear(
        patchOf(
          [
            ['n', 'notes'],
            ['u', 'unison', { copies, detune: 30, spread: 1, blend: 1 }],
          ],
          ['n.pitch > u.pitch'],
        ),
        4,
        { play: '48@0+4', taps: ['u.out'] },
      ).lanes('u.out')
    const one = rms(heard(1)[0]!)
    for (const copies of [3, 7, 16]) expect(Math.abs(db(rms(heard(copies)[0]!) / one))).toBeLessThan(2)
    const [left, right] = heard(7)
    expect(left!.some((x, i) => Math.abs(x - right![i]!) > 0.1)).toBe(true)
  })
})
