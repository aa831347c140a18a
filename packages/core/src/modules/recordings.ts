/** Recordings as kernels read them, and how a parameter names one. */
import { resample } from '../units/resample.ts'
import type { AssetSound, ParamDescription } from '../describe/types.ts'

/** Words before the samples: channels, frames, the file's own length in seconds. */
export const RECORDING_HEAD = 4
/** A recording is cut off here: ten minutes. */
const MOST_SECONDS = 600

/** Which recording a module plays: one the patch brings along, by its name. */
export const recordingParam = (
  value = '',
  words = 'Name of a recording that the patch brings along.',
  offers: readonly string[] = [],
): ParamDescription => ({
  kind: 'text',
  name: 'asset',
  label: 'Recording',
  default: value,
  setOnly: true,
  recording: true,
  ...(offers.length > 0 ? { offers } : {}),
  help: words,
})
export const assetParam = recordingParam()

/** What is wrong with a recording, as a sentence's end; undefined where it can be played. */
export const recordingFault = (sound: AssetSound | undefined): string | undefined => {
  if (!sound) return 'is not there'
  if (!(Number.isInteger(sound.rate) && sound.rate > 0)) return `has a rate of ${sound.rate}`
  if (!sound.channels[0]?.length) return 'is empty'
  return undefined
}

/** The first channels, two at the most unless told otherwise, no longer than ten minutes; what is not finite is 0. */
export const cutRecording = (sound: AssetSound, channels = 2, seconds = MOST_SECONDS): Float32Array[] => {
  const most = Math.round(seconds * sound.rate)
  return sound.channels
    .slice(0, channels)
    .map((channel) => channel.slice(0, most).map((x) => (Number.isFinite(x) ? x : 0)))
}

const brought = new WeakMap<AssetSound, Map<number, readonly Float32Array[]>>()

/** A recording's first two channels at a rate, worked out once. */
export const atRate = (sound: AssetSound, rate: number): readonly Float32Array[] => {
  const known = brought.get(sound)?.get(rate)
  if (known) return known
  const { channels } = resample({ rate: sound.rate, channels: cutRecording(sound) }, rate)
  noteAtRate(sound, rate, channels)
  return channels
}

/** Somebody worked it out elsewhere: in a worker, with the same function. */
export const noteAtRate = (sound: AssetSound, rate: number, channels: readonly Float32Array[]): void => {
  const rates = brought.get(sound) ?? new Map<number, readonly Float32Array[]>()
  brought.set(sound, rates)
  rates.set(rate, channels)
}

/**
 * The first two channels at the engine's rate, one after the other behind the head; one frame of silence and no channel
 * where there is nothing to play. Samples that are not finite are 0.
 */
export const recordingTable = (sound: AssetSound | undefined, sampleRate: number): Float32Array => {
  if (!sound || recordingFault(sound) !== undefined) return Float32Array.from([0, 1, 0, 0, 0])
  const channels = atRate(sound, sampleRate)
  const frames = channels[0]!.length
  const table = new Float32Array(RECORDING_HEAD + frames * channels.length)
  const whole = new Uint32Array(table.buffer)
  whole[0] = channels.length
  whole[1] = frames
  table[2] = Math.min(sound.channels[0]!.length, Math.round(MOST_SECONDS * sound.rate)) / sound.rate
  channels.forEach((channel, n) => {
    table.set(channel, RECORDING_HEAD + n * frames)
  })
  return table
}
