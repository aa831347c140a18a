import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readWav, writeWav } from './wav.ts'

const sound = {
  rate: 44100,
  channels: [Float32Array.from([0, 0.5, -0.25, 1]), Float32Array.from([0, -1, 0.125, 0])],
}

describe('WAV', () => {
  it.each([
    ['32f', 0],
    ['24', 2.4e-7 * 2],
    ['16', 6.2e-5 * 2],
  ] as const)('reads back what it writes, %s', (bits, error) => {
    const result = readWav(writeWav(sound, bits))
    if (!result.ok) throw new Error(result.fault.message)
    expect(result.sound.rate).toBe(44100)
    result.sound.channels.forEach((channel, c) =>
      channel.forEach((x, i) => {
        expect(Math.abs(x - sound.channels[c]![i]!)).toBeLessThanOrEqual(error)
      }),
    )
    expect(result.sound.channels[0]![0]).toBe(0)
  })
  it('says why a file cannot be read and never throws', () => {
    expect(readWav(new TextEncoder().encode('not a sound at all'))).toMatchObject({
      ok: false,
      fault: { message: 'this is not a WAV file (no RIFF/WAVE header)' },
    })
    const good = writeWav(sound, '16')
    fc.assert(
      fc.property(fc.nat(good.length - 1), fc.nat(255), fc.nat(good.length), (at, value, length) => {
        const bad = good.slice(0, length)
        if (at < bad.length) bad[at] = value
        readWav(bad)
      }),
      { numRuns: 500 },
    )
  })
})
