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

describe('a sampler chunk', () => {
  /** A file of eight frames with one, before or behind the samples. */
  const withChunk = (
    behind: boolean,
    loops: readonly (readonly [number, number])[],
    note = 57,
  ): Uint8Array => {
    const plain = writeWav(
      { rate: 48000, channels: [Float32Array.from({ length: 8 }, (_, n) => n / 8)] },
      '32f',
    )
    const chunk = new Uint8Array(8 + 36 + 24 * loops.length),
      view = new DataView(chunk.buffer)
    chunk.set([...'smpl'].map((c) => c.charCodeAt(0)))
    view.setUint32(4, chunk.length - 8, true)
    view.setUint32(8 + 12, note, true)
    view.setUint32(8 + 16, 2 ** 31, true)
    view.setUint32(8 + 28, loops.length, true)
    loops.forEach(([start, end], n) => {
      view.setUint32(8 + 36 + 24 * n + 8, start, true)
      view.setUint32(8 + 36 + 24 * n + 12, end, true)
    })
    return behind
      ? Uint8Array.from([...plain, ...chunk])
      : Uint8Array.from([...plain.subarray(0, 12), ...chunk, ...plain.subarray(12)])
  }

  it.each([false, true])(
    'tells the note and the loop, whose end is played (behind the samples: %s)',
    (behind) => {
      const result = readWav(withChunk(behind, [[2, 5]]))
      if (!result.ok) throw new Error(result.fault.message)
      expect(result.sound.root).toBe(57.5)
      expect(result.sound.loop).toEqual({ start: 2, end: 6 })
      expect(result.sound.channels[0]).toHaveLength(8)
    },
  )

  it('tells the note alone without a loop, and nothing that makes no sense', () => {
    const without = readWav(withChunk(true, []))
    expect(without.ok && [without.sound.root, without.sound.loop]).toEqual([57.5, undefined])
    const turned = readWav(withChunk(true, [[6, 2]]))
    expect(turned.ok && turned.sound.loop).toBeUndefined()
    const absurd = readWav(withChunk(true, [[1, 2]], 4e9))
    expect(absurd.ok && absurd.sound.root).toBeUndefined()
  })
})
