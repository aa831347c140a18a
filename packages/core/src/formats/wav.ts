import type { Fault } from '../patch/types.ts'
import { mib } from '../units/bytes.ts'
import { type BitDepth, sampleBytes, WavEncoder } from './wav-samples.ts'

export { type BitDepth, WavEncoder } from './wav-samples.ts'

export interface Sound {
  readonly rate: number
  readonly channels: readonly Float32Array[]
  /** Note at which it sounds as recorded, and the frames it may go round in (the end not included), as its file says. */
  readonly root?: number
  readonly loop?: { readonly start: number; readonly end: number }
}

const PCM = 1,
  FLOAT = 3,
  EXTENSIBLE = 0xfffe

/** Shape of a WAV file's sound. */
export interface WavShape {
  readonly rate: number
  readonly channels: number
  readonly frames: number
  readonly bits: BitDepth
}

const MOST_RIFF = 0xffffffff
/** Bytes of a `ds64` chunk: the sizes of a file beyond 4 GiB (EBU Tech 3306, RF64). */
const DS64 = 36

const dataBytesOf = ({ channels, frames, bits }: WavShape): number => frames * channels * sampleBytes(bits)
const plainHeader = (bits: BitDepth): number => (bits === '32f' ? 58 : 44)
/** Is a file larger than the 4 GiB that a plain WAV file can tell of? */
export const isLongWav = (shape: WavShape): boolean =>
  dataBytesOf(shape) + plainHeader(shape.bits) > MOST_RIFF

/** Bytes of a whole file without what may follow its samples. */
export const wavBytes = (shape: WavShape): number => {
  const data = dataBytesOf(shape)
  return plainHeader(shape.bits) + (isLongWav(shape) ? DS64 : 0) + data + (data % 2)
}

/**
 * What stands before the samples (RIFF, little-endian); RF64 where the file is larger than 4 GiB, or where `long` says
 * that it may become so. `behind`: bytes of the chunks that follow the samples.
 */
export const wavHeader = (shape: WavShape, long = isLongWav(shape), behind = 0): Uint8Array => {
  const { rate, channels, frames, bits } = shape
  const float = bits === '32f',
    size = sampleBytes(bits),
    dataBytes = dataBytesOf(shape)
  const bytes = new Uint8Array(plainHeader(bits) + (long ? DS64 : 0))
  const view = new DataView(bytes.buffer)
  let at = 0
  const word = (text: string): void => {
    for (let i = 0; i < 4; i += 1, at += 1) bytes[at] = text.charCodeAt(i)
  }
  const u16 = (value: number): void => {
    view.setUint16(at, value, true)
    at += 2
  }
  const u32 = (value: number): void => {
    view.setUint32(at, value, true)
    at += 4
  }
  const u64 = (value: number): void => {
    view.setBigUint64(at, BigInt(value), true)
    at += 8
  }
  const riff = bytes.length - 8 + dataBytes + (dataBytes % 2) + behind
  word(long ? 'RF64' : 'RIFF')
  u32(long ? MOST_RIFF : riff)
  word('WAVE')
  if (long) {
    word('ds64')
    u32(28)
    u64(riff)
    u64(dataBytes)
    u64(frames)
    u32(0)
  }
  word('fmt ')
  u32(float ? 18 : 16)
  u16(float ? FLOAT : PCM)
  u16(channels)
  u32(rate)
  u32(rate * channels * size)
  u16(channels * size)
  u16(size * 8)
  if (float) {
    u16(0)
    word('fact')
    u32(4)
    u32(long ? MOST_RIFF : frames)
  }
  word('data')
  u32(long ? MOST_RIFF : dataBytes)
  return bytes
}

/** Writes a WAV file as one piece. Throws RangeError beyond the 4 GiB a plain WAV file can hold. */
export const writeWav = ({ rate, channels }: Sound, bits: BitDepth): Uint8Array => {
  const frames = channels[0]?.length ?? 0
  const shape = { rate, channels: channels.length, frames, bits }
  if (isLongWav(shape))
    throw new RangeError(`A WAV file holds at most 4 GiB; this sound needs ${dataBytesOf(shape)} bytes`)
  const head = wavHeader(shape)
  const bytes = new Uint8Array(wavBytes(shape))
  bytes.set(head)
  bytes.set(new WavEncoder(bits).encode(channels, 0, frames), head.length)
  return bytes
}

export type WavResult =
  { readonly ok: true; readonly sound: Sound } | { readonly ok: false; readonly fault: Fault }

const refuse = (message: string, place = ''): WavResult => ({ ok: false, fault: { place, message } })

/**
 * Reads a WAV file: 8, 16, 24, 32-bit integers, 32 and 64-bit floats, any number of channels up to 32. `most`: bytes the
 * sound may take as 32-bit floats.
 */
export const readWav = (bytes: Uint8Array, most = Infinity): WavResult => {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const word = (at: number): string => String.fromCharCode(...bytes.subarray(at, at + 4))
  if (!isWave(bytes, word)) return refuse('this is not a WAV file (no RIFF/WAVE header)')
  let format: Format | undefined
  let result: WavResult | undefined,
    played: Pick<Sound, 'root' | 'loop'> = {}
  for (let at = 12; at + 8 <= bytes.length;) {
    const id = word(at),
      size = view.getUint32(at + 4, true),
      body = at + 8
    if (id === 'fmt ') {
      format = readFormat(view, body, size)
      if (!format) return refuse('the format chunk is cut short', `byte ${at}`)
    }
    if (id === 'data') {
      if (!format) return refuse('the sound comes before its format', `byte ${at}`)
      result ??= readSamples(view, body, Math.min(size, bytes.length - body), format, most)
      if (!result.ok) return result
    }
    if (id === 'smpl') played = readSampler(view, body, Math.min(size, bytes.length - body))
    at = body + size + (size & 1)
  }
  if (result?.ok) return { ok: true, sound: { ...result.sound, ...played } }
  return refuse(format ? 'there is no data chunk' : 'there is no format chunk')
}

const isWave = (bytes: Uint8Array, word: (at: number) => string): boolean =>
  bytes.length >= 12 && ['RIFF', 'RF64'].includes(word(0)) && word(8) === 'WAVE'

interface Format {
  readonly kind: number
  readonly channels: number
  readonly rate: number
  readonly bits: number
}

/** A format chunk; undefined where it is cut short. */
const readFormat = (view: DataView, body: number, size: number): Format | undefined => {
  if (size < 16 || body + size > view.byteLength) return undefined
  let kind = view.getUint16(body, true)
  if (kind === EXTENSIBLE && size >= 26) kind = view.getUint16(body + 24, true)
  return {
    kind,
    channels: view.getUint16(body + 2, true),
    rate: view.getUint32(body + 4, true),
    bits: view.getUint16(body + 14, true),
  }
}

/** A sampler chunk: its note with the part of a semitone, and its first loop, whose end is the last frame played. */
const readSampler = (view: DataView, body: number, size: number): Pick<Sound, 'root' | 'loop'> => {
  if (size < 36) return {}
  const root = view.getUint32(body + 12, true) + view.getUint32(body + 16, true) / 2 ** 32,
    loops = view.getUint32(body + 28, true)
  const note = root <= 128 ? { root } : {}
  if (loops === 0 || size < 60) return note
  const start = view.getUint32(body + 44, true),
    end = view.getUint32(body + 48, true) + 1
  return end > start ? { ...note, loop: { start, end } } : note
}

const readSamples = (
  view: DataView,
  start: number,
  size: number,
  format: Format,
  most: number,
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
  if (4 * frames * channels > most)
    return refuse(`decoded it takes ${mib(4 * frames * channels)}, more than is left for audio`)
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
