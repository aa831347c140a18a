/** Runs a kit's tasks on this machine's cores. */
import { existsSync } from 'node:fs'
import { type KitDone, type KitRunner, KitStop, type KitTask } from '@ypsilon/core/takes/kit/run.ts'
import type { KitWork, TaskResult } from './tasks.ts'

/** The built worker: beside the built program, or, where sources run, in the build. */
const WORKERS = ['./kit-worker.js', '../../dist/kit-worker.js']

export interface Pool extends KitRunner {
  close(): Promise<void>
}

/** Threads that wait for tasks. */
export const openPool = async (work: KitWork, threads: number): Promise<Pool> => {
  const { Piscina } = await import('piscina')
  const worker = WORKERS.map((name) => new URL(name, import.meta.url)).find((url) => existsSync(url))!
  const pool = new Piscina({
    filename: worker.href,
    minThreads: threads,
    maxThreads: threads,
    workerData: work,
    recordTiming: false,
  })
  return {
    run: async (task: KitTask, signal: AbortSignal): Promise<KitDone> => {
      const result = (await pool.run(task, { signal })) as TaskResult
      if (result.ok) return result.done
      throw result.stops ? new KitStop(result.message) : new Error(result.message)
    },
    close: () => pool.destroy(),
  }
}
