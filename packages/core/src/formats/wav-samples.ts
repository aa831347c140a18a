/** Samples as the bytes of a WAV file: whole numbers with dither, or floats as they are. */

export type BitDepth = '16' | '24' | '32f'
export const sampleBytes = (bits: BitDepth): number => (bits === '32f' ? 4 : bits === '24' ? 3 : 2)

const mixed = (x: number): number => {
  let h = Math.imul(x ^ (x >>> 16), 0x7feb352d)
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b)
  return (h ^ (h >>> 16)) >>> 0
}

/** Triangular dither of one step, from a seed and a counter, both of 32 bits: the same every time. */
const ditherAt = (seed: number, n: number): number => {
  const at = ((n << 1) + seed) | 0
  return (mixed((at + 1) | 0) - mixed((at + 2) | 0)) * (1 / 4294967296)
}

interface WholeNumbers {
  /** Channel of so many. */
  readonly lane: number
  readonly lanes: number
  /** Bytes of a sample, and the greatest it can be. */
  readonly size: number
  readonly full: number
  /** Of the dither, and how many of its numbers are used. */
  readonly seed: number
  readonly count: number
}

/** Writes a channel's samples as whole numbers between those of the others. */
const writeWhole = (x: Float32Array, bytes: Uint8Array, as: WholeNumbers): void => {
  const { lane, lanes, size, full, seed } = as,
    step = lanes * size,
    isLong = size === 3
  let { count } = as,
    at = lane * size
  for (let f = 0; f < x.length; f += 1) {
    const now = x[f]!
    const dithered = now === 0 ? 0 : Math.floor(now * full + ditherAt(seed, count) + 0.5)
    const y = (dithered > full ? full : dithered < -full - 1 ? -full - 1 : dithered) | 0
    bytes[at] = y
    bytes[at + 1] = y >> 8
    if (isLong) bytes[at + 2] = y >> 16
    count = (count + lanes) | 0
    at += step
  }
}

/** Turns sound into the bytes of a WAV file's samples, piece by piece: pieces and the whole give the same bytes. */
export class WavEncoder {
  private count = 0
  /** `seed`: of the dither, 32 bits. */
  constructor(
    private readonly bits: BitDepth,
    private readonly seed = 0,
  ) {}

  /**
   * The next frames from `start` to `end` of every channel. Integer depths are dithered with one step of triangular
   * noise, except where the sound is exactly zero; 32f is written as it is.
   */
  encode(channels: readonly Float32Array[], start: number, end: number): Uint8Array {
    const size = sampleBytes(this.bits),
      full = size === 3 ? 8388607 : 32767
    if (size === 4) return this.exact(channels, start, end)
    const bytes = new Uint8Array((end - start) * channels.length * size)
    channels.forEach((channel, index) => {
      writeWhole(channel.subarray(start, end), bytes, {
        lane: index,
        lanes: channels.length,
        size,
        full,
        seed: this.seed | 0,
        count: (this.count + index) | 0,
      })
    })
    this.count += (end - start) * channels.length
    return bytes
  }

  private exact(channels: readonly Float32Array[], start: number, end: number): Uint8Array {
    const bytes = new Uint8Array((end - start) * channels.length * 4),
      view = new DataView(bytes.buffer)
    channels.forEach((channel, index) => {
      for (let f = start, at = 4 * index; f < end; f += 1, at += 4 * channels.length)
        view.setFloat32(at, channel[f]!, true)
    })
    return bytes
  }
}
