/** Lays patches out in a worker, which is there from the first time on that it is asked. */
import type { Patch } from '@ypsilon/core'
import type { Tidied } from '@ypsilon/core/layout/tidied.ts'
import type { Room } from '@ypsilon/core/layout/tidy.ts'
import { type Remote, wrap } from 'comlink'
import type { TidyWorker } from '../workers/tidy.worker.ts'
import TidyWorkerScript from '../workers/tidy.worker.ts?worker'

export class Tidier {
  private worker: Worker | undefined
  private remote: Remote<TidyWorker> | undefined
  private refuse: ((error: Error) => void) | undefined

  /** True while it is at work. */
  get isBusy(): boolean {
    return this.refuse !== undefined
  }

  /** New places of all cards, or of some; refused where the worker cannot be had, and by `stop`. */
  async tidied(patch: Patch, room: Room, ids?: ReadonlySet<string>): Promise<Tidied> {
    const refused = new Promise<never>((_, refuse) => {
      this.refuse = refuse
    })
    if (!this.remote) {
      this.worker = new TidyWorkerScript()
      this.worker.onerror = () => {
        this.stop('The layout could not be loaded. Try again when the server answers.')
      }
      this.remote = wrap<TidyWorker>(this.worker)
    }
    try {
      return await Promise.race([this.remote.tidied(patch, room, ids), refused])
    } finally {
      this.refuse = undefined
    }
  }

  /** Gives up what is being laid out. */
  stop(words = 'Tidying was given up.'): void {
    this.worker?.terminate()
    this.worker = undefined
    this.remote = undefined
    this.refuse?.(new Error(words))
  }
}
