/** Files of all kinds, damaged at random, through the command line's own readers: a sentence, never a crash. */
import fc from 'fast-check'
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { parsePatch, readWav, writeWav } from '@ypsilon/core'
import { readMidi } from '../packages/cli/src/midi.ts'
import { BadInput } from '../packages/cli/src/bad-input.ts'

/** A smallest MIDI file: one note. */
const MIDI = Uint8Array.from([
  0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 0, 0, 1, 0, 96, 0x4d, 0x54, 0x72, 0x6b, 0, 0, 0, 12, 0, 0x90, 60,
  100, 96, 0x80, 60, 0, 0, 0xff, 0x2f, 0,
])
const damaged = (bytes: Uint8Array) =>
  fc.array(fc.tuple(fc.nat(bytes.length - 1), fc.nat(255)), { maxLength: 12 }).chain((changes) =>
    fc.nat(bytes.length).map((cut) => {
      const copy = bytes.slice(0, Math.max(1, bytes.length - (cut % 3 === 0 ? cut : 0)))
      for (const [at, value] of changes) if (at < copy.length) copy[at] = value
      return copy
    }),
  )

describe('damaged files', () => {
  it('MIDI: read, or refused with a sentence', () => {
    fc.assert(
      fc.property(damaged(MIDI), (bytes) => {
        try {
          readMidi(bytes, 'x.mid')
        } catch (error) {
          expect(error).toBeInstanceOf(BadInput)
        }
      }),
      { numRuns: 400 },
    )
  })
  it('WAV: read, or refused with a sentence', () => {
    const wav = writeWav(
      { rate: 48000, channels: [Float32Array.from({ length: 64 }, (_, i) => Math.sin(i))] },
      '24',
    )
    fc.assert(
      fc.property(damaged(wav), (bytes) => {
        const result = readWav(bytes)
        if (!result.ok) expect(result.fault.message.length).toBeGreaterThan(5)
      }),
      { numRuns: 600 },
    )
  })
  it('patches of every demo: read, or refused by place', () => {
    for (const name of ['harbour-bell', 'keepers-steps', 'fault-siren']) {
      const text = readFileSync(new URL(`../demo/patches/${name}.ypatch.json`, import.meta.url), 'utf8')
      fc.assert(
        fc.property(
          fc.array(
            fc.tuple(
              fc.nat(text.length - 1),
              fc.constantFrom('"', '{', '}', '[', '9', '-', ',', 'x', '=', ' ', '\u0000'),
            ),
            { maxLength: 6 },
          ),
          (changes) => {
            const letters = [...text]
            for (const [at, letter] of changes) letters[at] = letter
            const result = parsePatch(letters.join(''))
            if (!result.ok) for (const fault of result.faults) expect(fault.message.length).toBeGreaterThan(3)
          },
        ),
        { numRuns: 150 },
      )
    }
  })
})
