/** A thread that does tasks of one kit. */
import { workerData } from 'node:worker_threads'
import { doTask, type KitWork, type TaskResult } from './tasks.ts'
import type { KitTask } from '@ypsilon/core/takes/kit/run.ts'

const work = workerData as KitWork

export default (task: KitTask): Promise<TaskResult> => doTask(work, task)
