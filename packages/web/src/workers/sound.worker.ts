/** Reads recordings off the page's thread: decoded, brought to the engine's rate, and as they are drawn. */
import { readWav } from '@ypsilon/core/formats/wav.ts'
import { cutRecording } from '@ypsilon/core/modules/recordings.ts'
import { peaksOf } from '@ypsilon/core/units/peaks.ts'
import { resample } from '@ypsilon/core/units/resample.ts'
import { expose } from 'comlink'
import type { RecordingShape } from '@ypsilon/core'

export interface ReadSound {
  readonly result: ReturnType<typeof readWav>
  /** The first two channels at the engine's rate. */
  readonly atRate?: readonly Float32Array[]
  readonly shape?: RecordingShape
}

const COLUMNS = 240

/** A recording within `most` bytes, at `rate` besides its own. */
export const readSound = (bytes: Uint8Array, most: number | undefined, rate: number): ReadSound => {
  const result = readWav(bytes, most)
  if (!result.ok) return { result }
  const { sound } = result
  return {
    result,
    atRate: resample({ rate: sound.rate, channels: cutRecording(sound) }, rate).channels,
    shape: {
      peaks: peaksOf(sound.channels, COLUMNS),
      seconds: (sound.channels[0]?.length ?? 0) / sound.rate,
    },
  }
}

const api = { readSound }
export type SoundWorker = typeof api
expose(api)
