/** A response as the convolver's kernel reads it. */
import type { AssetSound, TableContext } from '../../../describe/types.ts'
import { nextPowerOfTwo } from '../../../describe/rings.ts'
import { resample } from '../../../units/resample.ts'
import { cutRecording, recordingFault } from '../../recordings.ts'
import { spaceNamed } from './spaces.ts'

const HEAD_WORDS = 8
export const LONGEST_SECONDS = 10,
  PREDELAY_MS = 500
/** Levels of partitions: taps of each, and the tap at which a level begins. */
const LEVELS = [0, 1, 2, 3].map((n) => ({ taps: 128 * 4 ** n, first: n === 0 ? 128 : 256 * 4 ** n }))
const LINE_BYTES = 128

/** Partitions of each level that a response of so many frames takes. */
const roomsFor = (frames: number): number[] =>
  LEVELS.map(({ taps, first }, n) =>
    Math.max(0, Math.ceil((Math.min(frames, LEVELS[n + 1]?.first ?? frames) - first) / taps)),
  )

/** The patch's own recording of that name, else one of the places that come with Marram Point. */
const responseNamed = ({ asset, choice, sampleRate }: TableContext): AssetSound | undefined => {
  const name = choice('asset')
  return asset(name) ?? spaceNamed(name, sampleRate)
}

/** Scales channels so that what comes out is as loud as white noise going in: the mean energy of both sides is 1. */
const scaled = (channels: readonly Float32Array[]): Float32Array[] => {
  let energy = 0
  for (const channel of channels) for (const x of channel) energy += x * x
  const sides = Math.min(2, channels.length),
    scale = energy > 0 ? Math.sqrt(sides / energy) : 0
  return channels.map((channel) => channel.map((x) => x * scale))
}

/**
 * Channels, frames, frames of the ring for the predelay, levels, and room for partitions of each, in whole numbers; behind
 * eight words the channels one after the other, at the engine's rate and scaled to unit energy. No channel where there is nothing to play.
 */
export const responseTable = (context: TableContext): Float32Array => {
  const sound = responseNamed(context),
    { sampleRate } = context
  const ring = nextPowerOfTwo(Math.ceil((PREDELAY_MS / 1000) * sampleRate) + 2)
  if (!sound || recordingFault(sound) !== undefined) {
    const none = new Float32Array(HEAD_WORDS)
    new Uint32Array(none.buffer).set([0, 0, ring, 1])
    return none
  }
  // One, two, or four from both sides to both.
  const cut = cutRecording(sound, sound.channels.length >= 4 ? 4 : 2, LONGEST_SECONDS)
  const channels = scaled([...resample({ rate: sound.rate, channels: cut }, sampleRate).channels])
  const frames = channels[0]!.length,
    rooms = roomsFor(frames)
  const table = new Float32Array(HEAD_WORDS + frames * channels.length),
    whole = new Uint32Array(table.buffer)
  whole.set([channels.length, frames, ring, Math.max(1, rooms.filter((room) => room > 0).length), ...rooms])
  channels.forEach((channel, n) => {
    table.set(channel, HEAD_WORDS + n * frames)
  })
  return table
}

/** Bytes of a voice: the ring, and for each level what waits, what is worked on, spectra of what came in and two parts. */
export const lineBytes = (table: Float32Array | undefined): number => {
  const whole = table ? new Uint32Array(table.buffer, table.byteOffset) : [0, 0, 0, 1, 0, 0, 0, 0]
  const channels = whole[0]!,
    levels = whole[3]!
  let bytes = LINE_BYTES + 8 * whole[2]! + 2 * channels * 4 * LEVELS[0]!.taps
  for (let n = 0; n < levels; n += 1) {
    const { taps } = LEVELS[n]!,
      row = 4 * (2 * taps + 4)
    bytes += 32 * taps + 8 * row + (2 + 2 * channels) * 8 * taps * whole[4 + n]!
    if (n === levels - 1) bytes += 4 * row
  }
  return bytes
}
