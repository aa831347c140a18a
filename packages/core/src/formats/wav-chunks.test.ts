/** What samplers need in WAV files: read back by our own reader, byte by byte, and with an odd number of bytes before it. */
import { describe, expect, it } from 'vitest'
import { readWav, WavEncoder, wavHeader } from './wav.ts'
import { wavChunks, type WavPlaying } from './wav-chunks.ts'

const fileOf = (frames: number, bits: '16' | '24' | '32f', playing: WavPlaying): Uint8Array => {
  const behind = wavChunks(playing, 44100)
  const samples = new WavEncoder(bits).encode([new Float32Array(frames).fill(0.25)], 0, frames)
  return Uint8Array.from([
    ...wavHeader({ rate: 44100, channels: 1, frames, bits }, false, behind.length),
    ...samples,
    ...(samples.length % 2 === 1 ? [0] : []),
    ...behind,
  ])
}
/** Chunks by their names: where each body begins and how long it is. */
const chunksOf = (bytes: Uint8Array): Map<string, readonly [at: number, size: number]> => {
  const view = new DataView(bytes.buffer),
    chunks = new Map<string, readonly [number, number]>()
  for (let at = 12; at < bytes.length;) {
    const size = view.getUint32(at + 4, true)
    chunks.set(String.fromCharCode(...bytes.subarray(at, at + 4)), [at + 8, size])
    at += 8 + size + (size % 2)
  }
  return chunks
}
const playing: WavPlaying = {
  root: 61,
  cents: 25,
  loop: { start: 100, end: 900 },
  keys: [58, 63],
  velocities: [52, 127],
  marks: [
    { frame: 100, name: 'loop start' },
    { frame: 950, name: 'note end – ♯' },
  ],
}

describe('chunks behind the samples', () => {
  it.each([
    ['16', 1001],
    ['24', 1001],
    ['32f', 1000],
  ] as const)('of %s bits and %d frames are read back', (bits, frames) => {
    const bytes = fileOf(frames, bits, playing),
      view = new DataView(bytes.buffer)
    expect(view.getUint32(4, true)).toBe(bytes.length - 8)
    const read = readWav(bytes)
    expect(read.ok && [read.sound.root, read.sound.loop, read.sound.channels[0]!.length]).toEqual([
      61.25,
      { start: 100, end: 900 },
      frames,
    ])
    expect([...chunksOf(bytes).keys()].filter((name) => name !== 'fact')).toEqual([
      'fmt ',
      'data',
      'smpl',
      'inst',
      'cue ',
      'LIST',
    ])
  })

  it('say the last frame of the loop, the keys, the velocities and the marks', () => {
    const bytes = fileOf(1000, '16', playing),
      view = new DataView(bytes.buffer),
      chunks = chunksOf(bytes)
    const [smpl] = chunks.get('smpl')!,
      [inst] = chunks.get('inst')!,
      [cue] = chunks.get('cue ')!
    expect(view.getUint32(smpl + 8, true)).toBe(22676)
    expect([view.getUint32(smpl + 44, true), view.getUint32(smpl + 48, true)]).toEqual([100, 899])
    expect([...bytes.subarray(inst, inst + 7)]).toEqual([61, 25, 0, 58, 63, 52, 127])
    expect(view.getUint32(cue, true)).toBe(2)
    expect([view.getUint32(cue + 24, true), view.getUint32(cue + 48, true)]).toEqual([100, 950])
    const [list, size] = chunks.get('LIST')!
    expect(new TextDecoder('latin1').decode(bytes.subarray(list, list + size))).toContain('note end ? ?\0')
  })

  it('round to the nearer key where it is more than half a semitone above', () => {
    const bytes = fileOf(10, '16', { root: 60, cents: 70 })
    const [inst] = chunksOf(bytes).get('inst')!
    expect([bytes[inst], new DataView(bytes.buffer).getInt8(inst + 1)]).toEqual([61, -30])
  })
})

describe('dither', () => {
  it('hangs on its seed, piece by piece as at once', () => {
    const x = Float32Array.from({ length: 500 }, (_, n) => Math.sin(n / 9) / 3)
    const whole = new WavEncoder('16', 5).encode([x, x], 0, 500)
    const pieces = new WavEncoder('16', 5)
    expect([...pieces.encode([x, x], 0, 123), ...pieces.encode([x, x], 123, 500)]).toEqual([...whole])
    expect([...new WavEncoder('16', 6).encode([x, x], 0, 500)]).not.toEqual([...whole])
  })
})
