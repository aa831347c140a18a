import { noteReach } from '../compile/reach.ts'
import { inOrder, type PlayerEvent } from '../notes/events.ts'
import { CATALOGUE, partOf } from '../catalogue.ts'
import type { Cable, Fault, ParamValue, Patch, PatchModule, Result } from '../patch/types.ts'
import { overlaid } from '../patch/overlay.ts'
import { eventFault } from '../perform/check.ts'
import { FIRE_SECONDS } from '../perform/performance.ts'
import { Playback, type Timed } from '../perform/playback.ts'
import { snapshotNamed } from '../perform/recall.ts'
import { patchIndex } from '../patch/index.ts'
import { splitTarget } from '../patch/walk.ts'
import type { Sound } from '../formats/wav.ts'
import { exactPower } from '../units/exact.ts'
import { type InputWindow, Rendering, type TapSource } from './rendering.ts'

export interface RenderOptions {
  readonly events?: readonly PlayerEvent[]
  /** Exactly this many seconds; without it the last event plus the tail. */
  readonly seconds?: number
  readonly rate?: number
  /** Where the tail ends without `seconds`: so far below the sound's peak, and so many seconds after the last event. */
  readonly tail?: { readonly db: number; readonly most: number }
  readonly best?: boolean
  /** Values that hold from the start, whatever macros give at load. */
  readonly presets?: ReadonlyMap<string, ParamValue>
  /** Tempo at the start, instead of the patch's. */
  readonly tempo?: number
  /** Output ports to write besides: `osc.saw`. */
  readonly taps?: readonly string[]
  /** Recordings the patch brings along, by id. */
  readonly assets?: ReadonlyMap<string, Sound>
  /** What the `input` modules hear; of the render's rate. */
  readonly input?: Sound | InputWindow
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
  /** What was played and could not be done, such as a recall that needs more memory than there may be. */
  readonly faults: readonly Fault[]
}

const LONGEST_TAIL = 30
/** Overrides of `--set`, applied to the patch itself: they hold from the first sample. */
export const withSettings = (
  patch: Patch,
  settings: readonly (readonly [target: string, value: ParamValue])[],
): Patch => (settings.length === 0 ? patch : overlaid(patch, { values: new Map(settings) }))

/**
 * A patch in which every port to be written exists while it plays: ports of groups and buses, and of what is bypassed,
 * are dissolved when a patch is compiled, so something that passes them on is connected to each. Names of the ports that
 * carry them then, by the names asked for.
 */
const withTaps = (
  patch: Patch,
  taps: readonly string[],
  events: readonly PlayerEvent[],
): { readonly patch: Patch; readonly keys: ReadonlyMap<string, string> } => {
  const { module: modules } = patchIndex(patch)
  // What may be bypassed on the way is dissolved then.
  const bypassable = new Set([
    ...events.flatMap((event) => (event.type === 'bypass' ? [event.target] : [])),
    ...(patch.snapshots ?? []).flatMap(({ bypass }) => Object.keys(bypass ?? {})),
  ])
  const added: PatchModule[] = [],
    cables: Cable[] = []
  const keys = taps.map((tap, index): [string, string] => {
    const module = modules.get(splitTarget(tap)?.[0] ?? '')
    const dissolved =
      module?.type === 'group' ||
      module?.bypass === true ||
      bypassable.has(module?.id ?? '') ||
      CATALOGUE.get(module?.type ?? '')?.description.flattened === true
    if (!dissolved) return [tap, tap]
    const id = `~tap:${index}`
    added.push({ id, type: partOf(CATALOGUE, 'listener').description.type })
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
    if (event.type === 'param' && typeof event.value === 'number') noteReach(found, event.target, event.value)
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

/** Events that mean nothing in the patch. */
const eventFaults = (patch: Patch, events: readonly PlayerEvent[]): Fault[] =>
  events.flatMap((event) => {
    const fault = eventFault(patch, event)
    return fault ? [{ place: `event at ${event.t} s, ${fault.place}`, message: fault.message }] : []
  })

/** Frame at which the last thing happens: an event, the end of its morph, the end of the note it fires. */
const lastFrame = (patch: Patch, events: readonly Timed[], rate: number): number =>
  events.reduce((last, { frame, event }) => {
    const snapshot = event.type === 'snapshot' ? snapshotNamed(patch, event.target) : undefined
    const over = 'over' in event && event.over !== undefined ? event.over : (snapshot?.over ?? 0)
    const fire = snapshot?.fire ? (snapshot.fire.length ?? FIRE_SECONDS) : 0
    return Math.max(last, frame + Math.round(Math.max(over, fire) * rate))
  }, 0)

/** Outputs that are kept, by their keys; faults name those that are not there. */
const tapsOf = (
  { layout }: Playback,
  keys: ReadonlyMap<string, string>,
): { readonly taps: Map<string, TapSource>; readonly faults: Fault[] } => {
  const taps = new Map<string, TapSource>(),
    faults: Fault[] = []
  for (const [key, name] of keys) {
    const signal = layout.signal(name)
    if (signal) taps.set(key, { name, lanes: signal.voices * signal.sides })
    else faults.push({ place: `--tap ${key}`, message: 'there is no such output port' })
  }
  return { taps, faults }
}

/** Frames it is to have, or at the most. */
const lengthOf = (
  { seconds, tail }: RenderOptions,
  last: number,
  rate: number,
): { readonly exact: boolean; readonly frames: number } =>
  seconds === undefined
    ? { exact: false, frames: last + Math.round((tail?.most ?? LONGEST_TAIL) * rate) }
    : { exact: true, frames: Math.round(seconds * rate) }

/** Makes everything ready to render a checked patch: faults come here, and nothing is rendered yet. */
export const planRender = (
  kernels: WebAssembly.Module,
  patch: Patch,
  options: RenderOptions = {},
): Result<RenderPlan> => {
  const rate = options.rate ?? 48000
  const given = options.events ?? [],
    wrong = eventFaults(patch, given)
  const events = inOrder(given, rate)
  const timed = options.tempo === undefined ? patch : { ...patch, tempo: options.tempo }
  const { patch: tapped, keys } = withTaps(timed, options.taps ?? [], given)
  const playback = new Playback(kernels, tapped, events, {
    sampleRate: rate,
    ...(options.best ? { best: true } : {}),
    ...(options.assets ? { assets: options.assets } : {}),
    settings: settingsAhead(given),
  })
  if (options.presets) playback.performance.preset(options.presets)
  for (const key of keys.values()) playback.layout.watchRing(key)
  const unplayable = playback.begin()
  if (unplayable.length > 0) return { ok: false, faults: unplayable }
  const { taps, faults } = tapsOf(playback, keys)
  const last = lastFrame(patch, events, rate)
  if (faults.length + wrong.length > 0) return { ok: false, faults: [...faults, ...wrong] }
  const { exact, frames } = lengthOf(options, last, rate)
  // A pair in between that nothing uses is silent, so that channels keep their numbers.
  const channels = 2 * (1 + Math.max(...playback.runtime.pairs))
  return {
    ok: true,
    warnings: [],
    value: {
      rate,
      channels,
      taps: new Map([...taps].map(([key, { lanes }]) => [key, lanes])),
      frames,
      exact,
      run: (sink) =>
        new Rendering(
          playback,
          {
            taps,
            channels,
            last,
            frames,
            exact,
            ...(options.tail ? { tailShare: exactPower(10, options.tail.db / 20) } : {}),
          },
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
