import type { Fault } from '../patch/types.ts'

export type BitDepth = '16' | '24' | '32f'
export interface Sound {
  readonly rate: number
  readonly channels: readonly Float32Array[]
}

const PCM = 1,
  FLOAT = 3,
  EXTENSIBLE = 0xfffe

/** Triangular dither of one step, from a counter: the same every time. */
const ditherAt = (n: number): number => {
  const half = (x: number): number => {
    let h = Math.imul(x ^ (x >>> 16), 0x7feb352d)
    h = Math.imul(h ^ (h >>> 15), 0x846ca68b)
    return ((h ^ (h >>> 16)) >>> 0) / 4294967296
  }
  return half(2 * n + 1) - half(2 * n + 2)
}

const headerBytes = (float: boolean): number => (float ? 58 : 44)

/**
 * Writes a WAV file (RIFF, little-endian). Integer depths are dithered with one step of triangular noise, except where
 * the sound is exactly zero; 32f is written as it is. Throws RangeError beyond the 4 GiB a WAV file can hold.
 */
export const writeWav = ({ rate, channels }: Sound, bits: BitDepth): Uint8Array => {
  const frames = channels[0]?.length ?? 0
  const float = bits === '32f'
  const size = float ? 4 : bits === '24' ? 3 : 2
  const dataBytes = frames * channels.length * size
  const head = headerBytes(float)
  if (dataBytes + head > 0xffffffff)
    throw new RangeError(`A WAV file holds at most 4 GiB; this sound needs ${dataBytes} bytes`)
  const bytes = new Uint8Array(head + dataBytes + (dataBytes & 1))
  const view = new DataView(bytes.buffer)
  const word = (at: number, text: string): void => {
    for (let i = 0; i < 4; i += 1) bytes[at + i] = text.charCodeAt(i)
  }
  word(0, 'RIFF')
  view.setUint32(4, bytes.length - 8, true)
  word(8, 'WAVE')
  word(12, 'fmt ')
  view.setUint32(16, float ? 18 : 16, true)
  view.setUint16(20, float ? FLOAT : PCM, true)
  view.setUint16(22, channels.length, true)
  view.setUint32(24, rate, true)
  view.setUint32(28, rate * channels.length * size, true)
  view.setUint16(32, channels.length * size, true)
  view.setUint16(34, size * 8, true)
  let at = 36
  if (float) {
    word(38, 'fact')
    view.setUint32(42, 4, true)
    view.setUint32(46, frames, true)
    at = 50
  }
  word(at, 'data')
  view.setUint32(at + 4, dataBytes, true)
  at += 8
  const full = size === 3 ? 8388607 : 32767
  let n = 0
  for (let f = 0; f < frames; f += 1) {
    for (const channel of channels) {
      const x = channel[f]!
      if (float) view.setFloat32(at, x, true)
      else {
        const y = Math.max(-full - 1, Math.min(full, Math.round(x * full + (x === 0 ? 0 : ditherAt(n)))))
        if (size === 2) view.setInt16(at, y, true)
        else {
          bytes[at] = y & 255
          view.setInt16(at + 1, y >> 8, true)
        }
      }
      n += 1
      at += size
    }
  }
  return bytes
}

export type WavResult =
  { readonly ok: true; readonly sound: Sound } | { readonly ok: false; readonly fault: Fault }

const refuse = (message: string, place = ''): WavResult => ({ ok: false, fault: { place, message } })

/** Reads a WAV file: 8, 16, 24, 32-bit integers, 32 and 64-bit floats, any number of channels up to 32. */
export const readWav = (bytes: Uint8Array): WavResult => {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const word = (at: number): string => String.fromCharCode(...bytes.subarray(at, at + 4))
  if (bytes.length < 12 || word(0) !== 'RIFF' || word(8) !== 'WAVE')
    return refuse('this is not a WAV file (no RIFF/WAVE header)')
  let format: { kind: number; channels: number; rate: number; bits: number } | undefined
  for (let at = 12; at + 8 <= bytes.length;) {
    const id = word(at),
      size = view.getUint32(at + 4, true),
      body = at + 8
    if (id === 'fmt ') {
      if (size < 16 || body + size > bytes.length)
        return refuse('the format chunk is cut short', `byte ${at}`)
      let kind = view.getUint16(body, true)
      if (kind === EXTENSIBLE && size >= 26) kind = view.getUint16(body + 24, true)
      format = {
        kind,
        channels: view.getUint16(body + 2, true),
        rate: view.getUint32(body + 4, true),
        bits: view.getUint16(body + 14, true),
      }
    }
    if (id === 'data') {
      if (!format) return refuse('the sound comes before its format', `byte ${at}`)
      return readSamples(view, body, Math.min(size, bytes.length - body), format)
    }
    at = body + size + (size & 1)
  }
  return refuse(format ? 'there is no data chunk' : 'there is no format chunk')
}

const readSamples = (
  view: DataView,
  start: number,
  size: number,
  format: { kind: number; channels: number; rate: number; bits: number },
): WavResult => {
  const { kind, channels, rate, bits } = format
  if (channels < 1 || channels > 32) return refuse(`${channels} channels; 1 to 32 can be read`, 'format')
  if (rate < 1000 || rate > 768000)
    return refuse(`a sample rate of ${rate} Hz; 1000 to 768000 can be read`, 'format')
  const read = readerOf(view, kind, bits)
  if (!read)
    return refuse(
      `format ${kind} with ${bits} bits; PCM of 8, 16, 24, 32 bits and float of 32, 64 can be read`,
      'format',
    )
  const step = bits / 8
  const frames = Math.floor(size / (step * channels))
  const sound = Array.from({ length: channels }, () => new Float32Array(frames))
  for (let f = 0, at = start; f < frames; f += 1) {
    for (let c = 0; c < channels; c += 1, at += step) {
      const x = read(at)
      sound[c]![f] = Number.isFinite(x) ? x : 0
    }
  }
  return { ok: true, sound: { rate, channels: sound } }
}

const readerOf = (view: DataView, kind: number, bits: number): ((at: number) => number) | undefined => {
  if (kind === FLOAT)
    return bits === 32
      ? (at) => view.getFloat32(at, true)
      : bits === 64
        ? (at) => view.getFloat64(at, true)
        : undefined
  if (kind !== PCM) return undefined
  if (bits === 8) return (at) => (view.getUint8(at) - 128) / 128
  if (bits === 16) return (at) => view.getInt16(at, true) / 32768
  if (bits === 24) return (at) => ((view.getInt16(at + 1, true) << 8) | view.getUint8(at)) / 8388608
  return bits === 32 ? (at) => view.getInt32(at, true) / 2147483648 : undefined
}
