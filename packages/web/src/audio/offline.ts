import {
  faultText,
  type Measured,
  type ModuleLoad,
  parsePatch,
  parsePlay,
  type Patch,
  type Rendered,
  type Result,
  type Sound,
} from '@ypsilon/core'
import { type Remote, wrap } from 'comlink'
import type { PathOptions } from '@ypsilon/core/render/impulse.ts'
import type { OfflineWorker, SnapshotOptions } from '../workers/offline.worker.ts'
import OfflineWorkerScript from '../workers/offline.worker.ts?worker'

/** Asks a worker that is there for one question; giving up ends it. */
const asked = async <T>(
  ask: (worker: Remote<OfflineWorker>) => Promise<T>,
  giveUp?: AbortSignal,
): Promise<T> => {
  const worker = new OfflineWorkerScript()
  const gone = new Promise<never>((_, refuse) => {
    giveUp?.addEventListener('abort', () => {
      refuse(new Error('It was given up.'))
    })
  })
  try {
    return await Promise.race([ask(wrap<OfflineWorker>(worker)), gone])
  } finally {
    worker.terminate()
  }
}

/** What a result holds; throws the sentences of its faults where there are some. */
const valueOf = <T>(result: Result<T> | { readonly ok: true; readonly value: T }): T => {
  if (!result.ok) throw new Error(result.faults.map(faultText).join('\n'))
  return result.value
}

/** Renders in a worker, off the page's thread: the same engine, the same samples as the command line. */
export const renderOffline = async (patchText: string, play: string, seconds: number): Promise<Rendered> => {
  const patch = valueOf(parsePatch(patchText)),
    events = valueOf(parsePlay(play))
  return valueOf(await asked(async (worker) => await worker.render(patch, events, seconds)))
}

/** What each module costs, measured in a worker while a chord sounds: the dearest first. */
export const measureLoads = (patch: Patch): Promise<readonly ModuleLoad[]> =>
  asked(async (worker) => await worker.loads(patch))

/** What a path answered: its impulse response by side, and what came out itself. */
export interface PathAnswer {
  readonly rate: number
  readonly channels: readonly Float32Array[]
  readonly answer: readonly Float32Array[]
}

/** Measures a path; refused with a sentence where it cannot be measured. */
export const measurePath = async (
  patch: Patch,
  options: PathOptions,
  giveUp: AbortSignal,
): Promise<PathAnswer> => {
  const result = await asked(async (worker) => await worker.path(patch, options), giveUp)
  if (!result.ok) throw new Error(result.faults.map(faultText).join('\n'))
  return result
}

/** Waves by a formula, one behind another; refused with a sentence where it cannot be worked out. */
export const renderWaves = async (text: string, count: number, size: number): Promise<Float32Array> =>
  valueOf(await asked(async (worker) => await worker.waves(text, count, size)))

/** A snapshot of the patch as it sounds, with its own note or a test note. */
export const measureSnapshot = async (patch: Patch, options: SnapshotOptions): Promise<Sound> =>
  valueOf(await asked(async (worker) => await worker.snapshot(patch, options)))

/** How loud every port of a patch is while a note is held, measured in a worker; undefined where it cannot be played. */
export const measureHeard = (
  patch: Patch,
  assets: ReadonlyMap<string, Sound>,
): Promise<Measured | undefined> => asked(async (worker) => await worker.heard(patch, assets))
