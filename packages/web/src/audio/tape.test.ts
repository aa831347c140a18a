import { describe, expect, it } from 'vitest'
import { fadeEnd, type Piece, Tape } from './tape.ts'

const RATE = 48000
const sine = (frames: number, from = 0): Float32Array =>
  Float32Array.from({ length: frames }, (_, i) => 0.5 * Math.cos((2 * Math.PI * 440 * (i + from)) / RATE))

/** Records blocks of a signal, stopping after some. */
const recorded = (signal: (from: number) => Float32Array, blocks: number): Float32Array => {
  const pieces: Piece[] = []
  const tape = new Tape(RATE, (piece) => pieces.push(piece))
  let n = 0
  for (; n < blocks; n += 1) tape.take(signal(n * 128), signal(n * 128))
  tape.stop()
  while (tape.take(signal(n * 128), signal(n * 128))) n += 1
  expect(pieces.filter(({ isLast }) => isLast)).toHaveLength(1)
  expect(pieces.at(-1)!.isLast).toBe(true)
  const all = new Float32Array(pieces.reduce((sum, { left }) => sum + left.length, 0))
  let at = 0
  for (const { left } of pieces) {
    all.set(left, at)
    at += left.length
  }
  return all
}
const largestStep = (samples: Float32Array): number =>
  samples.reduce((most, x, i) => Math.max(most, Math.abs(x - (samples[i - 1] ?? 0))), 0)

describe('a tape', () => {
  it('begins and ends without a step in the middle of a sound', () => {
    const all = recorded((from) => sine(128, from), 200)
    const own = largestStep(sine(2000).slice(1))
    expect(Math.abs(all[0]!)).toBeLessThan(1e-6)
    expect(Math.abs(all.at(-1)!)).toBeLessThan(1e-6)
    expect(largestStep(all)).toBeLessThan(1.6 * own)
    // Between the fades nothing is changed.
    const plain = sine(all.length)
    for (let i = 240; i < all.length - 240; i += 1) expect(all[i]).toBe(plain[i])
  })

  it('leaves an attack that begins with it as it is', () => {
    const all = recorded((from) => {
      const block = sine(128, from)
      if (from === 0) block.fill(0, 0, 2)
      return block
    }, 40)
    expect(all[2]).toBe(sine(3)[2])
  })

  it('gives whole pieces, then the rest', () => {
    expect(recorded(() => new Float32Array(128), 65)).toHaveLength(65 * 128 + 240)
  })

  it('fades the end of what broke off', () => {
    const left = sine(1000),
      right = sine(1000)
    fadeEnd([left, right], RATE)
    expect(left.at(-1)).toBe(0)
    expect(left[700]).toBe(sine(1000)[700])
    const short = sine(20)
    fadeEnd([short], RATE)
    expect(short.at(-1)).toBe(0)
  })
})
