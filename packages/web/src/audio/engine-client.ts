import {
  type Delta,
  type EngineEvent,
  type Fault,
  Layout,
  type Patch,
  Planner,
  Runtime,
  type Step,
} from '@ypsilon/core'
import kernelsUrl from '@ypsilon/core/generated/kernels.wasm?url'
import workletUrl from './worklet.ts?worker&url'
import { soundsFor } from '../files/audio-store.ts'
import { Pulse } from './pulse.ts'
import { type FromWorklet, type Report, RING, type ToWorklet, WATCH_FLOATS } from './messages.ts'

/** How long removed modules and old sources stay for their fade, before the settled plan takes over. */
const FADE_MS = 15
/** Sound that stops again so soon after it was begun anew is stopped by the patch. */
const AGAIN_MS = 15_000

/** Fetched as soon as the page loads, long before the first gesture. */
const kernelBytes = fetch(kernelsUrl).then(async (response) => {
  if (!response.ok) throw new Error(`The engine could not be loaded (${response.status}); reload the page`)
  return response.arrayBuffer()
})
kernelBytes.catch(() => undefined)

export interface Picture {
  readonly ring: Float32Array
  readonly position: number
  readonly min: number
  readonly max: number
  readonly last: number
}

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
  private planner: Planner | undefined
  private wanted: Patch | undefined
  private serial = 0
  private swapped = new Map<number, () => void>()
  private watchKeys: string[] = []
  private watchSerial = 0
  private shown: { readonly serial: number; readonly keys: readonly string[] }[] = []
  private latest:
    | {
        readonly serial: number
        readonly keys: ReadonlyMap<string, number>
        readonly floats: Float32Array<ArrayBuffer>
        readonly time: number
      }
    | undefined
  private readonly listeners = new Set<Listener>()
  private readonly tapes: { left: Float32Array; right: Float32Array }[] = []
  private onTape: ((left: Float32Array, right: Float32Array) => void) | undefined
  private microphone: MediaStreamAudioSourceNode | undefined
  /** Called with faults of the patch that only compiling finds. */
  onFaults: (faults: readonly Fault[]) => void = () => undefined
  /** Called when the sound stopped answering: it was begun anew, or (`held`) this patch stops it every time. */
  onStall: (kind: 'anew' | 'held') => void = () => undefined
  private readonly pulse = new Pulse()
  /** A patch that stopped the sound twice in a row: it is not played until it has changed. */
  private held: Patch | undefined
  private stalledAt = -Infinity
  /** What a new worklet has to be told again. */
  private guardActive = true
  private running = true

  get isRunning(): boolean {
    return this.context?.state === 'running'
  }
  get sampleRate(): number {
    return this.context?.sampleRate ?? 48000
  }
  get audioContext(): AudioContext | undefined {
    return this.context
  }

  /** Starts sound; must be called from a gesture the first time. Resolves when the engine plays. */
  async start(): Promise<void> {
    this.starting ??= this.open().catch((error: unknown) => {
      this.starting = undefined
      throw error
    })
    await this.starting
    if (this.context!.state !== 'running') await this.context!.resume()
  }
  private starting: Promise<void> | undefined

  private async open(): Promise<void> {
    const context = new AudioContext({ sampleRate: 48000, latencyHint: 'interactive' })
    this.context = context
    const [kernels] = await Promise.all([kernelBytes, context.audioWorklet.addModule(workletUrl)])
    this.scout = new Runtime(await WebAssembly.compile(kernels), context.sampleRate)
    const scout = this.scout
    this.layout = new Layout(scout.facts, context.sampleRate)
    this.planner = new Planner(
      this.layout,
      context.sampleRate,
      (x, curve) => scout.curve(x, curve),
      soundsFor,
    )
    const node = new AudioWorkletNode(context, 'ypsilon', {
      numberOfInputs: 1,
      numberOfOutputs: 1,
      outputChannelCount: [2],
      processorOptions: { kernels: kernels.slice(0) },
    })
    node.port.onmessage = ({ data }: MessageEvent<FromWorklet>) => {
      this.receive(data)
    }
    node.onprocessorerror = () => {
      if (this.node === node) this.replace()
    }
    node.connect(context.destination)
    this.node = node
    this.pulse.begin(
      () => context.state === 'running',
      () => {
        this.replace()
      },
    )
    if (!this.guardActive) this.setGuard(false)
    if (this.wanted) this.setPatch(this.wanted)
    if (!this.running) this.setTransport(false)
    this.sendWatches()
  }

  /** The worklet answers no more: another one takes its place, with the patch as it stands. */
  private replace(): void {
    const now = performance.now(),
      again = now - this.stalledAt < AGAIN_MS
    this.stalledAt = now
    this.held = again ? this.wanted : undefined
    this.pulse.end()
    const { context, node } = this
    if (node) {
      node.port.onmessage = null
      node.disconnect()
    }
    // A thread that hangs may never close its context: nobody waits for it.
    void context?.close().catch(() => undefined)
    this.node = undefined
    this.planner = undefined
    this.layout = undefined
    this.microphone = undefined
    this.swapped.clear()
    this.watchedBefore = new Set()
    this.latest = undefined
    if (this.onTape) this.finishTape()
    this.starting = undefined
    this.onStall(again ? 'held' : 'anew')
    this.start().catch(() => undefined)
  }

  private post(message: ToWorklet, transfer: Transferable[] = []): void {
    this.node?.port.postMessage(message, transfer)
  }

  subscribe(listener: Listener): () => void {
    this.listeners.add(listener)
    return () => {
      this.listeners.delete(listener)
    }
  }

  private receive(message: FromWorklet): void {
    this.pulse.beat()
    if (message.type === 'swapped') {
      this.swapped.get(message.serial)?.()
      this.swapped.delete(message.serial)
    } else if (message.type === 'recorded') {
      this.tapes.push({ left: message.left, right: message.right })
      if (message.last) this.finishTape()
    } else {
      const keys = this.shown.find((item) => item.serial === message.serial)?.keys ?? []
      // The buffer is read from until the next one comes, then goes back to be filled again.
      const before = this.latest?.floats.buffer
      const same = this.latest?.serial === message.serial
      this.latest = {
        serial: message.serial,
        keys: same ? this.latest!.keys : new Map(keys.map((key, index) => [key, index])),
        floats: new Float32Array(message.buffer),
        time: message.time,
      }
      for (const listener of this.listeners) listener(message)
      if (before) this.post({ type: 'recycle', buffer: before }, [before])
    }
  }

  /** Makes the engine play a patch. Only what changed travels. */
  setPatch(patch: Patch): void {
    this.wanted = patch
    if (this.held === patch) return
    this.held = undefined
    if (this.planner) this.take(this.planner.next(patch))
  }

  /** Plays a patch that was held back after all. */
  playHeld(): void {
    this.held = undefined
    if (this.wanted) this.setPatch(this.wanted)
  }

  /** Recordings the patch names have come: what needs them is made anew. */
  reloadAssets(): void {
    if (!this.planner || !this.wanted || this.held || soundsFor(this.wanted).size === 0) return
    this.take(this.planner.next({ ...this.wanted, assets: { ...(this.wanted['assets'] as object) } }))
  }

  private take(step: Step): void {
    if (step.kind === 'faults') this.onFaults(step.faults)
    if (step.kind === 'plan') this.sendPlan(step.delta, step.settles)
    if (step.kind === 'events' || step.kind === 'plan') for (const event of step.events) this.send(event)
  }

  private sendPlan(delta: Delta, settles: boolean): void {
    this.serial += 1
    const { serial } = this
    if (settles)
      this.swapped.set(serial, () => {
        setTimeout(() => {
          if (this.serial === serial) this.take(this.planner!.settle())
        }, FADE_MS)
      })
    this.post({ type: 'plan', delta, serial }, [
      delta.bytes.buffer,
      delta.writes.buffer,
      delta.zero.buffer,
      delta.words.buffer,
      delta.copies.buffer,
      delta.statics.buffer,
    ])
    this.sendWatches()
  }

  send(event: EngineEvent): void {
    this.post({ type: 'event', event })
  }

  noteOn(note: number, velocity: number, id: number): void {
    this.send({ type: 'on', note, velocity, id })
  }
  noteOff(note: number, id: number): void {
    this.send({ type: 'off', note, id, velocity: 0.5 })
  }
  silence(): void {
    this.send({ type: 'silence' })
    this.post({ type: 'open' })
  }
  setGuard(active: boolean): void {
    this.guardActive = active
    this.post({ type: 'guard', active })
  }
  setTransport(running: boolean): void {
    this.running = running
    this.send({ type: 'transport', running })
  }

  /** Names the signals pictures want: `osc.saw` for outputs, `>filter.cutoff` for modulated parameters. */
  watch(keys: readonly string[]): void {
    const next = [...new Set(keys)]
    if (next.length === this.watchKeys.length && next.every((key, index) => key === this.watchKeys[index]))
      return
    this.watchKeys = next
    this.sendWatches()
  }

  private watchedBefore = new Set<string>()
  private sendWatches(): void {
    const { layout } = this
    if (!layout || !this.node) return
    const words: (readonly [number, number])[] = []
    const now = new Set(this.watchKeys)
    for (const key of this.watchedBefore)
      if (!now.has(key)) {
        const word = layout.setWatched(key, false)
        if (word) words.push(word)
      }
    for (const key of now) {
      const word = layout.setWatched(key, true)
      if (word) words.push(word)
    }
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
    return {
      ring: latest.floats.subarray(at, at + RING),
      position: latest.time % RING,
      min: latest.floats[at + RING]!,
      max: latest.floats[at + RING + 1]!,
      last: latest.floats[at + RING + 2]!,
    }
  }

  /** Records the output until `stopRecording`; the sound goes to `done`. */
  startRecording(done: (left: Float32Array, right: Float32Array) => void): void {
    this.tapes.length = 0
    this.onTape = done
    this.post({ type: 'record', on: true })
  }
  stopRecording(): void {
    this.post({ type: 'record', on: false })
  }

  private finishTape(): void {
    const frames = this.tapes.reduce((sum, tape) => sum + tape.left.length, 0)
    const left = new Float32Array(frames),
      right = new Float32Array(frames)
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
      stream = await navigator.mediaDevices.getUserMedia({
        audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false },
      })
    } catch {
      throw new Error(
        'The browser did not allow the audio input. Allow the microphone for this page and try again.',
      )
    }
    this.microphone = this.context.createMediaStreamSource(stream)
    this.microphone.connect(this.node)
  }
}

export const engine = new EngineClient()
