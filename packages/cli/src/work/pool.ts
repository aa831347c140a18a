/** Does tasks on this machine's cores. */
import { existsSync } from 'node:fs'
import {
  type KitDone,
  type KitRunner,
  KitStop,
  type KitTask,
  type WrittenFile,
} from '@ypsilon/core/takes/kit/run.ts'
import type { StepPatch } from '@ypsilon/core/takes/step.ts'
import type { HeardVariation } from '@ypsilon/core/takes/vary/vary.ts'
import type { HearTask, Outcome, PlayTask, Task, TaskResult, Work } from './tasks.ts'

/** The built worker: beside the built program, or, where sources run, in the build. */
const WORKERS = ['./worker.js', '../../dist/worker.js']

export interface Pool extends KitRunner {
  hear(task: HearTask, signal: AbortSignal): Promise<HeardVariation>
  play(task: PlayTask, signal: AbortSignal): Promise<WrittenFile>
  close(): Promise<void>
}

/** Recordings in memory that all threads have in common. */
const inCommon = ({ patch, assets }: StepPatch): StepPatch => ({
  patch,
  assets: new Map(
    [...assets].map(([id, sound]) => {
      const channels = sound.channels.map((channel) => {
        const shared = new Float32Array(new SharedArrayBuffer(channel.byteLength))
        shared.set(channel)
        return shared
      })
      return [id, { ...sound, channels }]
    }),
  ),
})

/** Threads that wait for tasks of one patch. */
export const openPool = async (work: Work, threads: number): Promise<Pool> => {
  const { Piscina } = await import('piscina')
  const worker = WORKERS.map((name) => new URL(name, import.meta.url)).find((url) => existsSync(url))!
  const pool = new Piscina({
    filename: worker.href,
    minThreads: threads,
    maxThreads: threads,
    workerData: { ...work, source: inCommon(work.source) },
    recordTiming: false,
  })
  const does = async (task: Task, signal: AbortSignal): Promise<Outcome> => {
    const result = (await pool.run(task, { signal })) as TaskResult
    if (result.ok) return result.value
    throw result.stops ? new KitStop(result.message) : new Error(result.message)
  }
  return {
    width: threads,
    run: async (task: KitTask, signal) => (await does(task, signal)) as KitDone,
    hear: async (task, signal) => (await does(task, signal)) as HeardVariation,
    play: async (task, signal) => (await does(task, signal)) as WrittenFile,
    close: () => pool.destroy(),
  }
}
