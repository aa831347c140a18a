/** A thread that does tasks of one patch. */
import { workerData } from 'node:worker_threads'
import { doTask, type Task, type TaskResult, type Work } from './tasks.ts'

const work = workerData as Work

export default (task: Task): Promise<TaskResult> => doTask(work, task)
