import {
  faultText,
  type Measured,
  type ModuleLoad,
  parsePatch,
  parsePlay,
  type Patch,
  type Rendered,
  type Sound,
} from '@ypsilon/core'
import { wrap } from 'comlink'
import type { OfflineWorker } from '../workers/offline.worker.ts'
import OfflineWorkerScript from '../workers/offline.worker.ts?worker'

/** Renders in a worker, off the page's thread: the same engine, the same samples as the command line. */
export const renderOffline = async (patchText: string, play: string, seconds: number): Promise<Rendered> => {
  const patch = parsePatch(patchText),
    events = parsePlay(play)
  if (!patch.ok) throw new Error(patch.faults.map(faultText).join('\n'))
  if (!events.ok) throw new Error(events.faults.map(faultText).join('\n'))
  const worker = new OfflineWorkerScript()
  try {
    const result = await wrap<OfflineWorker>(worker).render(patch.value, events.value, seconds)
    if (!result.ok) throw new Error(result.faults.map(faultText).join('\n'))
    return result.value
  } finally {
    worker.terminate()
  }
}

/** What each module costs, measured in a worker while a chord sounds: the dearest first. */
export const measureLoads = async (patch: Patch): Promise<readonly ModuleLoad[]> => {
  const worker = new OfflineWorkerScript()
  try {
    return await wrap<OfflineWorker>(worker).loads(patch)
  } finally {
    worker.terminate()
  }
}

/** How loud every port of a patch is while a note is held, measured in a worker; undefined where it cannot be played. */
export const measureHeard = async (
  patch: Patch,
  assets: ReadonlyMap<string, Sound>,
): Promise<Measured | undefined> => {
  const worker = new OfflineWorkerScript()
  try {
    return await wrap<OfflineWorker>(worker).heard(patch, assets)
  } finally {
    worker.terminate()
  }
}
