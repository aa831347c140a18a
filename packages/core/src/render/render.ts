import { Engine } from '../engine/engine.ts'
import type { EngineEvent } from '../engine/runtime.ts'
import { inOrder, type PlayerEvent } from '../notes/events.ts'
import type { Fault, ParamValue, Patch, Result } from '../patch/types.ts'
import type { Sound } from '../formats/wav.ts'

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
  /** Frames in which the limiter worked; modules reset after a NaN. */
  readonly limited: number
  readonly resets: number
}

const TAIL_LEVEL = 0.001
const LONGEST_TAIL = 30
/** A tail has ended when nothing was above −60 dB for this long. */
const QUIET_SECONDS = 0.25
const BLOCK = 128

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
    case 'param':
      return engine.eventFor(event.target, event.value)
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
    events.push(...result)
  }
  return events
}

/** Overrides of `--set`, applied to the patch itself: they hold from the first sample. */
export const withSettings = (
  patch: Patch,
  settings: readonly (readonly [target: string, value: ParamValue])[],
): Patch => {
  const modulesWith = (
    modules: Patch['modules'],
    id: string,
    name: string,
    value: ParamValue,
  ): Patch['modules'] =>
    modules.map((module) =>
      module.id === id
        ? { ...module, params: { ...module.params, [name]: value } }
        : module.inside
          ? {
              ...module,
              inside: { ...module.inside, modules: modulesWith(module.inside.modules, id, name, value) },
            }
          : module,
    )
  return settings.reduce<Patch>((result, [target, value]) => {
    if (target.startsWith('cable:'))
      return {
        ...result,
        cables: result.cables.map((cable) =>
          cable.id === target.slice(6) ? { ...cable, amount: Number(value) } : cable,
        ),
      }
    const dot = target.indexOf('.')
    return {
      ...result,
      modules: modulesWith(result.modules, target.slice(0, dot), target.slice(dot + 1), value),
    }
  }, patch)
}

/** A growing list of samples. */
class Tape {
  private data = new Float32Array(65536)
  length = 0
  reserve(frames: number): void {
    if (this.length + frames <= this.data.length) return
    const larger = new Float32Array(Math.max(this.data.length * 2, this.length + frames))
    larger.set(this.data)
    this.data = larger
  }
  push(value: number): void {
    this.data[this.length] = value
    this.length += 1
  }
  cut(start: number, frames: number): Float32Array {
    return this.data.slice(start, start + frames)
  }
}

interface Tap {
  readonly key: string
  readonly address: number
  readonly lanes: number
  readonly tapes: Tape[]
}

/** Greatest values that events will set, by target. */
const settingsAhead = (events: readonly PlayerEvent[]): Map<string, number> => {
  const found = new Map<string, number>()
  for (const event of events)
    if (event.type === 'param' && typeof event.value === 'number')
      found.set(event.target, Math.max(found.get(event.target) ?? -Infinity, event.value))
  return found
}

/** Renders a checked patch offline, sample-exact, always the same. */
export const render = (
  kernels: WebAssembly.Module,
  patch: Patch,
  options: RenderOptions = {},
): Result<Rendered> => {
  const rate = options.rate ?? 48000
  const engine = new Engine(kernels, rate, {
    ...(options.best ? { best: true } : {}),
    ...(options.assets ? { assets: options.assets } : {}),
    settings: settingsAhead(options.events ?? []),
  })
  const { runtime, layout } = engine
  for (const tap of options.taps ?? []) layout.watchRing(tap)
  const applied = engine.apply(patch)
  if (!applied.ok) return applied
  const faults: Fault[] = []
  const taps: Tap[] = (options.taps ?? []).flatMap((key) => {
    const signal = layout.signal(key)
    if (!signal) {
      faults.push({ place: `--tap ${key}`, message: 'there is no such output port' })
      return []
    }
    const lanes = signal.voices * signal.sides
    return [{ key, address: signal.address, lanes, tapes: Array.from({ length: lanes }, () => new Tape()) }]
  })
  const ordered = inOrder(options.events ?? [], rate)
  const ids = { next: 0 }
  for (const { frame, event } of ordered) {
    const events = engineEvents(engine, patch, event, rate, ids)
    if (!Array.isArray(events))
      faults.push({ place: `event at ${event.t} s, ${events.place}`, message: events.message })
    else for (const item of events) runtime.schedule(frame, item)
  }
  if (faults.length > 0) return { ok: false, faults }
  const latency = runtime.guardLatency
  const lastEvent = ordered.at(-1)?.frame ?? 0
  const exact = options.seconds === undefined ? undefined : Math.round(options.seconds * rate)
  const most = exact ?? lastEvent + LONGEST_TAIL * rate
  const left = new Tape(),
    right = new Tape()
  const l = new Float32Array(BLOCK),
    r = new Float32Array(BLOCK)
  const input = options.input
  let quiet = 0
  const capture = (_done: number, length: number): void => {
    for (const tap of taps) readTap(runtime, tap, length)
  }
  while (left.length < most + latency) {
    const inputs = input ? blockOf(input, runtime.time) : undefined
    runtime.process(l, r, 0, BLOCK, inputs, taps.length > 0 ? capture : undefined)
    left.reserve(BLOCK)
    right.reserve(BLOCK)
    let loud = false
    for (let f = 0; f < BLOCK; f += 1) {
      left.push(l[f]!)
      right.push(r[f]!)
      if (Math.abs(l[f]!) > TAIL_LEVEL || Math.abs(r[f]!) > TAIL_LEVEL) loud = true
    }
    quiet = loud ? 0 : quiet + BLOCK
    if (exact === undefined && left.length > lastEvent + latency && quiet > QUIET_SECONDS * rate) break
    if (left.length % 65536 < BLOCK && options.progress?.(left.length, most) === false)
      return { ok: false, faults: [{ place: '', message: 'the render was cancelled' }] }
  }
  const frames = exact ?? Math.max(lastEvent, left.length - latency - quiet)
  return {
    ok: true,
    warnings: [],
    value: {
      sound: { rate, channels: [left.cut(latency, frames), right.cut(latency, frames)] },
      taps: new Map(
        taps.map((tap) => [tap.key, { rate, channels: tap.tapes.map((tape) => tape.cut(0, frames)) }]),
      ),
      limited: runtime.limitedFrames(),
      resets: runtime.resets,
    },
  }
}

const blockOf = (
  input: Sound,
  time: number,
): { left: Float32Array; right: Float32Array; offset: number } => ({
  left: input.channels[0]!,
  right: input.channels[1] ?? input.channels[0]!,
  offset: time,
})

const readTap = (runtime: Engine['runtime'], tap: Tap, length: number): void => {
  for (let lane = 0; lane < tap.lanes; lane += 1) {
    const { address, stride } = runtime.laneOf(tap.address, lane)
    const tape = tap.tapes[lane]!
    tape.reserve(length)
    for (let f = 0; f < length; f += 1) tape.push(runtime.f32(address + f * stride))
  }
}
