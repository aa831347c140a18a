import { CATALOGUE, moduleLoads, type Patch, type PlayerEvent, render, type Sound } from '@ypsilon/core'
import { partOf } from '@ypsilon/core/catalogue.ts'
import { checkPatch } from '@ypsilon/core/patch/validate.ts'
import { heardIn } from '@ypsilon/core/render/heard.ts'
import { impulseResponse, type PathOptions } from '@ypsilon/core/render/impulse.ts'
import kernelsUrl from '@ypsilon/core/generated/kernels.wasm?url'
import { expose } from 'comlink'

const kernels = fetch(kernelsUrl)
  .then((response) => response.arrayBuffer())
  .then((bytes) => WebAssembly.compile(bytes))

/** A test note, where a snapshot has none of its own. */
const TEST_NOTE = { note: 60, velocity: 0.8, begin: 0.05, seconds: 1.2 } as const
const SNAPSHOT_SECONDS = 2
/** Sums the voices of what is listened to. */
const SUM = 'probesum'

export interface SnapshotOptions {
  readonly snapshot: string
  /** The output that is listened to; undefined: what leaves the patch. */
  readonly tap: string | undefined
  readonly assets: ReadonlyMap<string, Sound>
  readonly rate: number
}

/** The events that let a snapshot be heard. */
const playing = (patch: Patch, id: string): readonly PlayerEvent[] => {
  const { note, velocity, begin, seconds } = TEST_NOTE
  const fires = patch.snapshots?.find((snapshot) => snapshot.id === id)?.fire !== undefined
  return [
    { t: 0, type: 'snapshot', target: id, over: 0 },
    ...(fires
      ? []
      : [
          { t: begin, type: 'on', note, velocity, id: 1 } as const,
          { t: begin + seconds, type: 'off', note, id: 1, velocity: 0.5 } as const,
        ]),
  ]
}

/** A patch that works a formula out: the left side of what comes in is a, the right one b. */
const FORMULA_PATCH = (text: string): unknown => ({
  format: 'ypsilon/patch',
  version: 1,
  name: 'waves',
  modules: [
    { id: 'in', type: 'input', params: { level: 1 } },
    { id: 'sides', type: 'split' },
    { id: 'formula', type: 'formula', data: { text } },
    { id: 'out', type: 'output' },
  ],
  cables: [
    { from: 'in.out', to: 'sides.in' },
    { from: 'sides.left', to: 'formula.a' },
    { from: 'sides.right', to: 'formula.b' },
    { from: 'formula.x', to: 'out.in' },
  ],
})

const api = {
  async render(patch: Patch, events: readonly PlayerEvent[], seconds: number) {
    return render(await kernels, patch, { events, seconds })
  },
  /** What a path answers. */
  async path(patch: Patch, options: PathOptions) {
    return impulseResponse(await kernels, patch, options)
  },
  /** A snapshot as it sounds, at an output or at a place in the patch. */
  async snapshot(patch: Patch, { snapshot, tap, assets, rate }: SnapshotOptions) {
    const summed =
      tap === undefined
        ? patch
        : {
            ...patch,
            modules: [...patch.modules, { id: SUM, type: partOf(CATALOGUE, 'sum').description.type }],
            cables: [...patch.cables, { from: tap, to: `${SUM}.in` }],
          }
    const checked = checkPatch(summed)
    if (!checked.ok) return checked
    const key = `${SUM}.out`
    const result = render(await kernels, checked.value, {
      events: playing(patch, snapshot),
      seconds: SNAPSHOT_SECONDS,
      rate,
      assets,
      ...(tap === undefined ? {} : { taps: [key] }),
    })
    if (!result.ok) return result
    return { ok: true as const, value: tap === undefined ? result.value.sound : result.value.taps.get(key)! }
  },
  /** Waves by a formula: `count` of `size` samples; a goes over each of them, b over all. */
  async waves(text: string, count: number, size: number) {
    const checked = checkPatch(FORMULA_PATCH(text))
    if (!checked.ok) return checked
    const frames = count * size,
      rate = 48000,
      place = Float32Array.from({ length: frames }, (_, i) => (i % size) / size),
      frame = Float32Array.from({ length: frames }, (_, i) =>
        count > 1 ? Math.floor(i / size) / (count - 1) : 0,
      )
    const result = render(await kernels, checked.value, {
      seconds: frames / rate,
      rate,
      input: { rate, channels: [place, frame] },
      taps: ['formula.x'],
    })
    if (!result.ok) return result
    return { ok: true as const, value: result.value.taps.get('formula.x')!.channels[0]! }
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
