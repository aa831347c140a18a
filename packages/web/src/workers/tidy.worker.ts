import type { Patch } from '@ypsilon/core'
import type { ElkAnswer } from '@ypsilon/core/layout/layers.ts'
import { tidied } from '@ypsilon/core/layout/tidied.ts'
import type { Room } from '@ypsilon/core/layout/tidy.ts'
import { expose } from 'comlink'
import Elk, { type ElkNode } from 'elkjs/lib/elk-api.js'
import kernelUrl from 'elkjs/lib/elk-worker.min.js?url'

// The layout kernel is a script of its own, in a worker of its own.
const kernel = new Elk({ workerFactory: () => new Worker(kernelUrl) })

const api = {
  /** New places of a patch's cards, or of some of them, and of its frames and notes. */
  tidied: (patch: Patch, room: Room, ids?: ReadonlySet<string>) =>
    tidied(
      patch,
      room,
      async (graph) => (await kernel.layout(graph as unknown as ElkNode)) as ElkAnswer,
      ids,
    ),
}

export type TidyWorker = typeof api
expose(api)
