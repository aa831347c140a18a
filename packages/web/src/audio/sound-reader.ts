/** Recordings are read in a worker, which is there from the first one on. */
import { type Remote, wrap } from 'comlink'
import type { SoundReader } from '../kept/read-sound.ts'
import type { SoundWorker } from '../workers/sound.worker.ts'
import SoundWorkerScript from '../workers/sound.worker.ts?worker'

let worker: Remote<SoundWorker> | undefined

export const readInWorker: SoundReader = (bytes, most, rate) => {
  worker ??= wrap<SoundWorker>(new SoundWorkerScript())
  return worker.readSound(bytes, most, rate)
}
