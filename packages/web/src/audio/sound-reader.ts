/** Recordings are read in a worker, which is there from the first one on. */
import { type Remote, wrap } from 'comlink'
import type { ReadSound, SoundWorker } from '../workers/sound.worker.ts'
import SoundWorkerScript from '../workers/sound.worker.ts?worker'

export type { ReadSound }
/** Reads a WAV file; `most`: bytes of audio there is room for. */
export type SoundReader = (bytes: Uint8Array, most: number | undefined, rate: number) => Promise<ReadSound>

let worker: Remote<SoundWorker> | undefined

export const readInWorker: SoundReader = (bytes, most, rate) => {
  worker ??= wrap<SoundWorker>(new SoundWorkerScript())
  return worker.readSound(bytes, most, rate)
}
