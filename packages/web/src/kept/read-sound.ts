/** How the store of audio has recordings read. */
import type { readWav, RecordingShape } from '@ypsilon/core'

export interface ReadSound {
  readonly result: ReturnType<typeof readWav>
  /** The first two channels at the engine's rate. */
  readonly atRate?: readonly Float32Array[]
  readonly shape?: RecordingShape
}

/** Reads a WAV file; `most`: bytes of audio there is room for. */
export type SoundReader = (bytes: Uint8Array, most: number | undefined, rate: number) => Promise<ReadSound>
