/** The worker in which the probe's signals are heard and measured. */
import { type Remote, wrap } from 'comlink'
import type { ProbeWorker } from '../workers/probe.worker.ts'
import ProbeWorkerScript from '../workers/probe.worker.ts?worker'

export type { ProbePiece, Want } from '../workers/probe.worker.ts'
export type Prober = Remote<ProbeWorker>

/** A worker of its own. */
export const openProber = (): Prober => wrap<ProbeWorker>(new ProbeWorkerScript())
