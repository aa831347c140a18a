import { moduleLoads, type Patch, type PlayerEvent, render, type Sound } from '@ypsilon/core'
import { responseOf } from '@ypsilon/core/analysis/response.ts'
import { heardIn } from '@ypsilon/core/render/heard.ts'
import { impulseResponse, type PathOptions } from '@ypsilon/core/render/impulse.ts'
import kernelsUrl from '@ypsilon/core/generated/kernels.wasm?url'
import { expose } from 'comlink'

const kernels = fetch(kernelsUrl)
  .then((response) => response.arrayBuffer())
  .then((bytes) => WebAssembly.compile(bytes))

const api = {
  async render(patch: Patch, events: readonly PlayerEvent[], seconds: number) {
    return render(await kernels, patch, { events, seconds })
  },
  /** What a path answers to a click, and what is read from that. */
  async response(patch: Patch, options: PathOptions) {
    const impulse = impulseResponse(await kernels, patch, options)
    return impulse.ok ? { ...impulse, ...responseOf(impulse.channels, impulse.rate) } : impulse
  },
  /** How loud every port is while a note is held; undefined where the patch cannot be played. */
  async heard(patch: Patch, assets: ReadonlyMap<string, Sound>) {
    return heardIn(await kernels, patch, assets)
  },
  /** What each module of a patch costs, the dearest first; a chord sounds while it is measured. */
  async loads(patch: Patch) {
    return moduleLoads(await kernels, patch, { now: () => performance.now() / 1000 })
  },
}

export type OfflineWorker = typeof api
expose(api)
