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
import type { PathOptions } from '@ypsilon/core/render/impulse.ts'
import type { OfflineWorker, SnapshotOptions } from '../workers/offline.worker.ts'
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

/** What a path answered: its impulse response by side, and what came out itself. */
export interface PathAnswer {
  readonly rate: number
  readonly channels: readonly Float32Array[]
  readonly answer: readonly Float32Array[]
}

/** Measures a path in a worker of its own; giving up ends it. Refused with a sentence where the path cannot be measured. */
export const measurePath = async (
  patch: Patch,
  options: PathOptions,
  giveUp: AbortSignal,
): Promise<PathAnswer> => {
  const worker = new OfflineWorkerScript()
  const gone = new Promise<never>((_, refuse) => {
    giveUp.addEventListener('abort', () => {
      refuse(new Error('Measuring was given up.'))
    })
  })
  try {
    const result = await Promise.race([wrap<OfflineWorker>(worker).path(patch, options), gone])
    if (!result.ok) throw new Error(result.faults.map(faultText).join('\n'))
    return result
  } finally {
    worker.terminate()
  }
}

/** Waves by a formula, one behind another; refused with a sentence where it cannot be worked out. */
export const renderWaves = async (text: string, count: number, size: number): Promise<Float32Array> => {
  const worker = new OfflineWorkerScript()
  try {
    const result = await wrap<OfflineWorker>(worker).waves(text, count, size)
    if (!result.ok) throw new Error(result.faults.map(faultText).join('\n'))
    return result.value
  } finally {
    worker.terminate()
  }
}

/** A snapshot of the patch as it sounds, with its own note or a test note. */
export const measureSnapshot = async (patch: Patch, options: SnapshotOptions): Promise<Sound> => {
  const worker = new OfflineWorkerScript()
  try {
    const result = await wrap<OfflineWorker>(worker).snapshot(patch, options)
    if (!result.ok) throw new Error(result.faults.map(faultText).join('\n'))
    return result.value
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
