import { compile, type Delta, type EngineEvent, type Fault, Layout, type Patch, type PatchModule, type ParamValue, type Plan, Runtime, targetEvents, type Cable, CATALOGUE, splitTarget } from '@ypsilon/core'
import kernelsUrl from '@ypsilon/core/generated/kernels.wasm?url'
import workletUrl from './worklet.ts?worker&url'
import { type FromWorklet, type Report, RING, type ToWorklet, WATCH_FLOATS } from './messages.ts'

/** How long removed modules and old sources stay for their fade, before the settled plan takes over. */
const FADE_MS = 15

/** Fetched as soon as the page loads, long before the first gesture. */
const kernelBytes = fetch(kernelsUrl).then(async (response) => {
  if (!response.ok) throw new Error(`The engine could not be loaded (${response.status}); reload the page`)
  return response.arrayBuffer()
})
kernelBytes.catch(() => undefined)

export interface Picture { readonly ring: Float32Array; readonly position: number; readonly min: number; readonly max: number; readonly last: number }

type Listener = (report: Report) => void

/**
 * The page's end of the live engine: compiles and lays out here, posts finished memory to the worklet, hands reports
 * to whoever draws. Works without sound as well: nothing is lost before the first gesture.
 */
export class EngineClient {
  private context: AudioContext | undefined
  private node: AudioWorkletNode | undefined
  private scout: Runtime | undefined
  private layout: Layout | undefined
  private plan: Plan | undefined
  private playing: Patch | undefined
  private wanted: Patch | undefined
  private serial = 0
  private unsettled = false
  private swapped = new Map<number, () => void>()
  private watchKeys: string[] = []
  private watchSerial = 0
  private shown: { readonly serial: number; readonly keys: readonly string[] }[] = []
  private latest: { readonly keys: ReadonlyMap<string, number>; readonly floats: Float32Array; readonly time: number } | undefined
  private readonly listeners = new Set<Listener>()
  private readonly tapes: { left: Float32Array; right: Float32Array }[] = []
  private onTape: ((left: Float32Array, right: Float32Array) => void) | undefined
  private microphone: MediaStreamAudioSourceNode | undefined
  /** Called with faults of the patch that only compiling finds. */
  onFaults: (faults: readonly Fault[]) => void = () => undefined

  get isRunning(): boolean { return this.context?.state === 'running' }
  get sampleRate(): number { return this.context?.sampleRate ?? 48000 }
  get currentPlan(): Plan | undefined { return this.plan }
  get audioContext(): AudioContext | undefined { return this.context }
  get workletNode(): AudioWorkletNode | undefined { return this.node }

  /** Starts sound; must be called from a gesture the first time. */
  async start(): Promise<void> {
    if (this.context) {
      if (this.context.state !== 'running') await this.context.resume()
      return
    }
    const context = new AudioContext({ sampleRate: 48000, latencyHint: 'interactive' })
    this.context = context
    const [kernels] = await Promise.all([kernelBytes, context.audioWorklet.addModule(workletUrl)])
    this.scout = new Runtime(await WebAssembly.compile(kernels), context.sampleRate)
    this.layout = new Layout(this.scout.facts, context.sampleRate)
    const node = new AudioWorkletNode(context, 'ypsilon', { numberOfInputs: 1, numberOfOutputs: 1, outputChannelCount: [2], processorOptions: { kernels: kernels.slice(0) } })
    node.port.onmessage = ({ data }: MessageEvent<FromWorklet>) => { this.receive(data) }
    node.connect(context.destination)
    this.node = node
    await context.resume()
    if (this.wanted) this.setPatch(this.wanted)
    this.sendWatches()
  }

  private post(message: ToWorklet, transfer: Transferable[] = []): void { this.node?.port.postMessage(message, transfer) }

  subscribe(listener: Listener): () => void {
    this.listeners.add(listener)
    return () => { this.listeners.delete(listener) }
  }

  private receive(message: FromWorklet): void {
    if (message.type === 'swapped') {
      this.swapped.get(message.serial)?.()
      this.swapped.delete(message.serial)
    } else if (message.type === 'recorded') {
      this.tapes.push({ left: message.left, right: message.right })
      if (message.last) this.finishTape()
    } else {
      const keys = this.shown.find((item) => item.serial === message.serial)?.keys ?? []
      this.latest = { keys: new Map(keys.map((key, index) => [key, index])), floats: new Float32Array(message.buffer.slice(0, Math.max(4, keys.length * WATCH_FLOATS * 4))), time: message.time }
      for (const listener of this.listeners) listener(message)
      this.post({ type: 'recycle', buffer: message.buffer }, [message.buffer])
    }
  }

  /** Makes the engine play a patch. Only what changed travels: values as events, structure as a new plan. */
  setPatch(patch: Patch): void {
    this.wanted = patch
    if (!this.layout || !this.node) return
    const before = this.playing
    if (before && patch === before) return
    const values = before ? valueChanges(before, patch) : undefined
    this.playing = patch
    if (values) {
      for (const [target, value] of values) this.sendTarget(target, value)
      if (before!.tempo !== patch.tempo) this.send({ type: 'tempo', bpm: patch.tempo ?? 120 })
      return
    }
    const previous = this.plan
    const retiring = before && previous ? retired(before, patch) : undefined
    const result = compile(patch, { sampleRate: this.sampleRate, ...(previous ? { previous } : {}), ...(retiring ? { retiring } : {}) })
    if (!result.ok) {
      this.onFaults(result.faults)
      return
    }
    const fades = previous !== undefined && result.plan.adapters.some((adapter) => adapter.fades)
    this.plan = result.plan
    this.sendPlan(this.layout.next(result.plan), fades || retiring ? () => { this.settle() } : undefined)
    if (before && before.tempo !== patch.tempo) this.send({ type: 'tempo', bpm: patch.tempo ?? 120 })
  }

  private sendPlan(delta: Delta, then: (() => void) | undefined): void {
    this.serial += 1
    const { serial } = this
    this.unsettled = then !== undefined
    if (then) this.swapped.set(serial, () => { setTimeout(() => { if (this.serial === serial && this.unsettled) then() }, FADE_MS) })
    this.post({ type: 'plan', delta, serial }, [delta.bytes.buffer, delta.writes.buffer, delta.zero.buffer, delta.words.buffer, delta.copies.buffer, delta.statics.buffer])
    this.sendWatches()
  }

  /** After the fades: the plan as a fresh build of the same patch would be. */
  private settle(): void {
    if (!this.playing || !this.layout) return
    const result = compile(this.playing, { sampleRate: this.sampleRate })
    if (!result.ok) return
    this.plan = result.plan
    this.sendPlan(this.layout.next(result.plan), undefined)
  }

  send(event: EngineEvent): void { this.post({ type: 'event', event }) }

  private sendTarget(target: string, value: ParamValue): void {
    const events = targetEvents(this.layout!, this.playing!, target, value, -1, (x, curve) => this.scout!.curve(x, curve), this.sampleRate)
    if (Array.isArray(events)) for (const event of events) this.send(event)
  }

  noteOn(note: number, velocity: number, id: number): void { this.send({ type: 'on', note, velocity, id }) }
  noteOff(note: number, id: number): void { this.send({ type: 'off', note, id, velocity: 0.5 }) }
  silence(): void { this.send({ type: 'silence' }); this.post({ type: 'open' }) }
  setGuard(active: boolean): void { this.post({ type: 'guard', active }) }
  setTransport(running: boolean): void { this.send({ type: 'transport', running }) }

  /** Names the signals pictures want: `osc.saw` for outputs, `>filter.cutoff` for modulated parameters. */
  watch(keys: readonly string[]): void {
    const next = [...new Set(keys)]
    if (next.length === this.watchKeys.length && next.every((key, index) => key === this.watchKeys[index])) return
    this.watchKeys = next
    this.sendWatches()
  }

  private watchedBefore = new Set<string>()
  private sendWatches(): void {
    const { layout } = this
    if (!layout || !this.node) return
    const words: (readonly [number, number])[] = []
    const now = new Set(this.watchKeys)
    for (const key of this.watchedBefore) if (!now.has(key)) { const word = layout.setWatched(key, false); if (word) words.push(word) }
    for (const key of now) { const word = layout.setWatched(key, true); if (word) words.push(word) }
    this.watchedBefore = now
    let memoryBytes = 0
    const keys: string[] = []
    const watches = this.watchKeys.flatMap((key) => {
      const signal = layout.signal(key)
      if (!signal) return []
      const ring = layout.watchRing(key)
      memoryBytes = Math.max(memoryBytes, ring.memoryBytes)
      keys.push(key)
      return [{ signal: signal.address, voices: signal.voices, sides: signal.sides, ring: ring.address }]
    })
    this.watchSerial += 1
    this.shown = [...this.shown.slice(-3), { serial: this.watchSerial, keys }]
    this.post({ type: 'watch', watches, words, memoryBytes, serial: this.watchSerial })
  }

  /** The latest picture of a watched signal. */
  picture(key: string): Picture | undefined {
    const { latest } = this
    const index = latest?.keys.get(key)
    if (!latest || index === undefined || (index + 1) * WATCH_FLOATS > latest.floats.length) return undefined
    const at = index * WATCH_FLOATS
    return { ring: latest.floats.subarray(at, at + RING), position: latest.time % RING, min: latest.floats[at + RING]!, max: latest.floats[at + RING + 1]!, last: latest.floats[at + RING + 2]! }
  }

  /** Records the output until `stopRecording`; the sound goes to `done`. */
  startRecording(done: (left: Float32Array, right: Float32Array) => void): void {
    this.tapes.length = 0
    this.onTape = done
    this.post({ type: 'record', on: true })
  }
  stopRecording(): void { this.post({ type: 'record', on: false }) }

  private finishTape(): void {
    const frames = this.tapes.reduce((sum, tape) => sum + tape.left.length, 0)
    const left = new Float32Array(frames), right = new Float32Array(frames)
    let at = 0
    for (const tape of this.tapes) {
      left.set(tape.left, at)
      right.set(tape.right, at)
      at += tape.left.length
    }
    this.tapes.length = 0
    this.onTape?.(left, right)
    this.onTape = undefined
  }

  /** Connects the audio input; throws with a sentence when it is refused. */
  async openInput(): Promise<void> {
    if (!this.context || !this.node || this.microphone) return
    let stream: MediaStream
    try {
      stream = await navigator.mediaDevices.getUserMedia({ audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false } })
    } catch {
      throw new Error('The browser did not allow the audio input. Allow the microphone for this page and try again.')
    }
    this.microphone = this.context.createMediaStreamSource(stream)
    this.microphone.connect(this.node)
  }
}

const SAME_MODULE = new Set(['params', 'x', 'y', 'label', 'view'])

/** Values that differ between two patches of the same structure; undefined when the structure differs. */
const valueChanges = (before: Patch, after: Patch): [string, ParamValue][] | undefined => {
  if (before.modules.length !== after.modules.length || before.cables.length !== after.cables.length || before.seed !== after.seed) return undefined
  const changes: [string, ParamValue][] = []
  for (let i = 0; i < before.modules.length; i += 1) {
    const a = before.modules[i]!, b = after.modules[i]!
    if (a === b) continue
    if (a.id !== b.id || a.type !== b.type) return undefined
    for (const field of new Set([...Object.keys(a), ...Object.keys(b)])) if (!SAME_MODULE.has(field) && a[field] !== b[field]) return undefined
    const values = moduleChanges(a, b)
    if (!values) return undefined
    changes.push(...values)
  }
  for (let i = 0; i < before.cables.length; i += 1) {
    const a: Cable = before.cables[i]!, b: Cable = after.cables[i]!
    if (a === b) continue
    if (a.id !== b.id || a.from !== b.from || a.to !== b.to || Boolean(a.muted) !== Boolean(b.muted) || b.id === undefined) return undefined
    if ((a.amount ?? 1) !== (b.amount ?? 1)) changes.push([`cable:${b.id}`, b.amount ?? 1])
  }
  return changes
}

const moduleChanges = (a: PatchModule, b: PatchModule): [string, ParamValue][] | undefined => {
  if (a.params === b.params) return []
  const entry = CATALOGUE.get(b.type)
  const changes: [string, ParamValue][] = []
  for (const name of new Set([...Object.keys(a.params ?? {}), ...Object.keys(b.params ?? {})])) {
    const param = entry?.params.get(name)
    if (!param || a.params?.[name] === b.params?.[name]) continue
    if (param.setOnly) return undefined
    changes.push([`${b.id}.${name}`, b.params?.[name] ?? param.default])
  }
  return changes
}

/** Modules gone since the last patch, with the cables that fed them: they stay for their fade. */
const retired = (before: Patch, after: Patch): { modules: PatchModule[]; cables: Cable[] } | undefined => {
  const ids = new Set(after.modules.map((module) => module.id))
  const modules = before.modules.filter((module) => !ids.has(module.id))
  if (modules.length === 0) return undefined
  const gone = new Set(modules.map((module) => module.id))
  return { modules, cables: before.cables.filter((cable) => gone.has(splitTarget(cable.to)?.[0] ?? '')) }
}

export const engine = new EngineClient()
