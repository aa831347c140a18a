import { Engine } from '../engine/engine.ts'
import type { EngineEvent } from '../engine/runtime.ts'
import { inOrder, type PlayerEvent } from '../notes/events.ts'
import { CATALOGUE } from '../catalogue.ts'
import type { Cable, Fault, ParamValue, Patch, PatchModule, Result } from '../patch/types.ts'
import { isFormula } from '../patch/formulas.ts'
import { targetOf, targetValueFault } from '../patch/playing.ts'
import { patchIndex } from '../patch/index.ts'
import { splitTarget } from '../patch/walk.ts'
import type { Sound } from '../formats/wav.ts'
import { Rendering, type TapSource } from './rendering.ts'
import { append } from '../units/append.ts'

export interface RenderOptions {
  readonly events?: readonly PlayerEvent[]
  /** Exactly this many seconds; without it the last event plus the tail. */
  readonly seconds?: number
  readonly rate?: number
  readonly best?: boolean
  /** Output ports to write besides: `osc.saw`. */
  readonly taps?: readonly string[]
  /** Recordings the patch brings along, by id. */
  readonly assets?: ReadonlyMap<string, Sound>
  /** What the `input` modules hear; of the render's rate. */
  readonly input?: Sound
  /** Called now and then with frames done and frames known to come; returning false cancels. */
  readonly progress?: (done: number, total: number) => boolean | void
}

export interface Rendered {
  readonly sound: Sound
  readonly taps: ReadonlyMap<string, Sound>
  /** Frames in which the limiter worked, and by how many decibels at the most. */
  readonly limited: number
  readonly limitedDb: number
  /** The guard ended the sound: it stayed above +24 dB. */
  readonly stopped: boolean
  /** Modules reset after a NaN. */
  readonly resets: number
}

const LONGEST_TAIL = 30
const engineEvents = (
  engine: Engine,
  patch: Patch,
  event: PlayerEvent,
  frameRate: number,
  ids: { next: number },
): EngineEvent[] | Fault => {
  switch (event.type) {
    case 'on':
      return [
        {
          type: 'on',
          note: event.note,
          velocity: event.velocity ?? 1,
          id: event.id ?? (ids.next -= 1),
          ...(event.channel === undefined ? {} : { channel: event.channel }),
        },
      ]
    case 'off':
      return [
        {
          type: 'off',
          note: event.note,
          velocity: event.velocity ?? 0,
          ...(event.id === undefined ? {} : { id: event.id }),
        },
      ]
    case 'pressure':
    case 'slide':
    case 'bend':
    case 'control': {
      const { t: _t, ...rest } = event
      return [rest as EngineEvent]
    }
    case 'clock':
      return [{ type: 'clock', value: event.value }]
    case 'transport':
      return [{ type: 'transport', running: event.value !== 'stop' }]
    case 'param': {
      const wrong = targetValueFault(targetOf(patch, event.target, CATALOGUE), event.value)
      if (wrong) return { place: event.target, message: wrong }
      if (isFormula(event.value))
        return { place: event.target, message: 'a formula cannot be set while it plays' }
      return engine.eventFor(event.target, event.value)
    }
    case 'macro':
      return engine.eventFor(`macro:${event.target}`, event.value)
    case 'snapshot':
      return snapshotEvents(engine, patch, event.target, Math.round((event.over ?? 0) * frameRate))
  }
}

const snapshotEvents = (engine: Engine, patch: Patch, id: string, glide: number): EngineEvent[] | Fault => {
  const snapshot = patch.snapshots?.find((item) => item.id === id)
  if (!snapshot) return { place: `snapshot ${id}`, message: 'there is no such snapshot' }
  const events: EngineEvent[] = []
  for (const [target, value] of Object.entries(snapshot.params ?? {})) {
    const result = engine.eventFor(target, value, glide > 0 ? glide : -1)
    if (!Array.isArray(result)) return result
    append(events, result)
  }
  return events
}

/** Modules and cables changed one by one, groups opened. */
const changed = (
  inside: { readonly modules: Patch['modules']; readonly cables: Patch['cables'] },
  moduleOf: (module: PatchModule) => PatchModule,
  cableOf: (cable: Cable) => Cable,
): { readonly modules: PatchModule[]; readonly cables: Cable[] } => ({
  modules: inside.modules.map((module) => {
    const now = moduleOf(module)
    return now.inside ? { ...now, inside: { ...now.inside, ...changed(now.inside, moduleOf, cableOf) } } : now
  }),
  cables: (inside.cables ?? []).map(cableOf),
})

/** Overrides of `--set`, applied to the patch itself: they hold from the first sample. */
export const withSettings = (
  patch: Patch,
  settings: readonly (readonly [target: string, value: ParamValue])[],
): Patch => {
  if (settings.length === 0) return patch
  const params = new Map<string, [string, ParamValue][]>(),
    amounts = new Map<string, number>()
  for (const [target, value] of settings) {
    const [id = '', name = ''] = splitTarget(target) ?? []
    if (target.startsWith('cable:')) amounts.set(target.slice(6), Number(value))
    else params.set(id, [...(params.get(id) ?? []), [name, value]])
  }
  return {
    ...patch,
    ...changed(
      patch,
      (module) => {
        const set = params.get(module.id)
        return set ? { ...module, params: { ...module.params, ...Object.fromEntries(set) } } : module
      },
      (cable) => {
        const amount = cable.id === undefined ? undefined : amounts.get(cable.id)
        return amount === undefined ? cable : { ...cable, amount }
      },
    ),
  }
}

/**
 * A patch in which every port to be written exists while it plays: ports of groups and buses, and of what is bypassed,
 * are dissolved when a patch is compiled, so something that passes them on is connected to each. Names of the ports that
 * carry them then, by the names asked for.
 */
const withTaps = (
  patch: Patch,
  taps: readonly string[],
): { readonly patch: Patch; readonly keys: ReadonlyMap<string, string> } => {
  const { module: modules } = patchIndex(patch)
  const added: PatchModule[] = [],
    cables: Cable[] = []
  const keys = taps.map((tap, index): [string, string] => {
    const module = modules.get(splitTarget(tap)?.[0] ?? '')
    const dissolved =
      module?.type === 'group' ||
      module?.bypass === true ||
      CATALOGUE.get(module?.type ?? '')?.description.flattened === true
    if (!dissolved) return [tap, tap]
    const id = `~tap:${index}`
    added.push({ id, type: 'meter' })
    cables.push({ from: tap, to: `${id}.in` })
    return [tap, `${id}.out`]
  })
  return {
    patch:
      added.length > 0
        ? { ...patch, modules: [...patch.modules, ...added], cables: [...patch.cables, ...cables] }
        : patch,
    keys: new Map(keys),
  }
}

/** Greatest values that events will set, by target. */
const settingsAhead = (events: readonly PlayerEvent[]): Map<string, number> => {
  const found = new Map<string, number>()
  for (const event of events)
    if (event.type === 'param' && typeof event.value === 'number')
      found.set(event.target, Math.max(found.get(event.target) ?? -Infinity, event.value))
  return found
}

/** Where a render's sound goes, piece by piece. Channels hold `frames` new frames; they are used again afterwards. */
export interface RenderSink {
  output(channels: readonly Float32Array[], frames: number): void
  tap(key: string, channels: readonly Float32Array[], frames: number): void
}

/** What is known before the first sample. */
export interface RenderPlan {
  readonly rate: number
  /** Channels of the output, and of every tap. */
  readonly channels: number
  readonly taps: ReadonlyMap<string, number>
  /** Frames it will have, or at the most. */
  readonly frames: number
  readonly exact: boolean
  /** Renders on: each step some frames, with how many are done. */
  run(sink: RenderSink): Generator<number, RenderReport>
}

export type RenderReport = Omit<Rendered, 'sound' | 'taps'>

const scheduled = (
  engine: Engine,
  patch: Patch,
  events: readonly PlayerEvent[],
  rate: number,
): { readonly last: number; readonly faults: readonly Fault[] } => {
  const faults: Fault[] = [],
    ids = { next: 0 }
  const ordered = inOrder(events, rate)
  for (const { frame, event } of ordered) {
    const meant = engineEvents(engine, patch, event, rate, ids)
    if (!Array.isArray(meant))
      faults.push({ place: `event at ${event.t} s, ${meant.place}`, message: meant.message })
    else for (const item of meant) engine.runtime.schedule(frame, item)
  }
  return { last: ordered.at(-1)?.frame ?? 0, faults }
}

/** Makes everything ready to render a checked patch: faults come here, and nothing is rendered yet. */
export const planRender = (
  kernels: WebAssembly.Module,
  patch: Patch,
  options: RenderOptions = {},
): Result<RenderPlan> => {
  const rate = options.rate ?? 48000
  const engine = new Engine(kernels, rate, {
    ...(options.best ? { best: true } : {}),
    ...(options.assets ? { assets: options.assets } : {}),
    settings: settingsAhead(options.events ?? []),
  })
  const { patch: tapped, keys } = withTaps(patch, options.taps ?? [])
  for (const key of keys.values()) engine.layout.watchRing(key)
  const applied = engine.apply(tapped)
  if (!applied.ok) return applied
  const taps = new Map<string, TapSource>(),
    faults: Fault[] = []
  for (const [key, name] of keys) {
    const signal = engine.layout.signal(name)
    if (signal) taps.set(key, { address: signal.address, lanes: signal.voices * signal.sides })
    else faults.push({ place: `--tap ${key}`, message: 'there is no such output port' })
  }
  const { last, faults: wrong } = scheduled(engine, patch, options.events ?? [], rate)
  if (faults.length + wrong.length > 0) return { ok: false, faults: [...faults, ...wrong] }
  const exact = options.seconds === undefined ? undefined : Math.round(options.seconds * rate)
  const frames = exact ?? last + LONGEST_TAIL * rate
  // A pair in between that nothing uses is silent, so that channels keep their numbers.
  const channels = 2 * (1 + Math.max(...engine.runtime.pairs))
  return {
    ok: true,
    warnings: [],
    value: {
      rate,
      channels,
      taps: new Map([...taps].map(([key, { lanes }]) => [key, lanes])),
      frames,
      exact: exact !== undefined,
      run: (sink) =>
        new Rendering(
          engine,
          { taps, channels, last, frames, exact: exact !== undefined },
          options.input,
        ).run(sink),
    },
  }
}

/** Renders a checked patch offline, sample-exact, always the same; the whole sound in memory. */
export const render = (
  kernels: WebAssembly.Module,
  patch: Patch,
  options: RenderOptions = {},
): Result<Rendered> => {
  const planned = planRender(kernels, patch, options)
  if (!planned.ok) return planned
  const { rate, channels, frames } = planned.value
  const sound = new Tapes(channels)
  const taps = new Map([...planned.value.taps].map(([key, lanes]) => [key, new Tapes(lanes)]))
  const steps = planned.value.run({
    output: (piece, count) => {
      sound.append(piece, count)
    },
    tap: (key, piece, count) => {
      taps.get(key)!.append(piece, count)
    },
  })
  let step = steps.next()
  while (!step.done) {
    if (options.progress?.(step.value, frames) === false)
      return { ok: false, faults: [{ place: '', message: 'the render was cancelled' }] }
    step = steps.next()
  }
  return {
    ok: true,
    warnings: [],
    value: {
      sound: { rate, channels: sound.channels() },
      taps: new Map([...taps].map(([key, tapes]) => [key, { rate, channels: tapes.channels() }])),
      ...step.value,
    },
  }
}

/** Channels that grow. */
class Tapes {
  private data: Float32Array[]
  private length = 0
  constructor(count: number) {
    this.data = Array.from({ length: count }, () => new Float32Array(65536))
  }
  append(piece: readonly Float32Array[], frames: number): void {
    if (this.length + frames > (this.data[0]?.length ?? 0))
      this.data = this.data.map((tape) => {
        const larger = new Float32Array(Math.max(tape.length * 2, this.length + frames))
        larger.set(tape)
        return larger
      })
    this.data.forEach((tape, index) => {
      tape.set(piece[index]!.subarray(0, frames), this.length)
    })
    this.length += frames
  }
  channels(): Float32Array[] {
    return this.data.map((tape) => tape.slice(0, this.length))
  }
}
