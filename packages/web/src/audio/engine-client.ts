import {
  type ControllerState,
  type Delta,
  type EngineEvent,
  type Fault,
  HandMoves,
  Layout,
  type Moves,
  NO_MOVES,
  type ParamValue,
  type Patch,
  Performance,
  Planner,
  type PlayerEvent,
  Runtime,
  type Step,
  type Untimed,
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
  private layout: Layout | undefined
  /** What is set and what was moved; there from the first patch on, with or without sound. */
  private player: Performance | undefined
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
        /** When it came, on the page's clock. */
        readonly at: number
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
  private stopped = false

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
    const scout = new Runtime(await WebAssembly.compile(kernels), context.sampleRate)
    this.layout = new Layout(scout.facts, context.sampleRate)
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
    this.attach()
    if (!this.running) this.setTransport(false)
    this.sendWatches()
  }

  /** Lets the engine play everything as it stands, unless the patch is held back. */
  private attach(): void {
    if (!this.layout || !this.node || !this.player || this.held !== undefined) return
    const planner = new Planner(this.layout, this.sampleRate, { assets: soundsFor })
    this.take(this.player.attach(planner, this.sampleRate))
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
    this.player?.detach()
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
        at: performance.now(),
      }
      this.stopped = message.stopped
      for (const listener of this.listeners) listener(message)
      if (before) this.post({ type: 'recycle', buffer: before }, [before])
    }
  }

  /** Makes the engine play a patch, with what was moved over it or what `moves` say. Only what changed travels. */
  setPatch(patch: Patch, moves?: Moves): void {
    this.follow(patch, (player) => player.edit(patch, this.frameNow, moves))
  }

  /** Another document: nothing is moved over it. */
  openPatch(patch: Patch): void {
    this.hand.drop()
    this.follow(patch, (player) => [player.open(patch)])
  }

  private follow(patch: Patch, move: (player: Performance) => readonly Step[]): void {
    this.wanted = patch
    if (!this.player) {
      this.player = new Performance(patch)
      this.player.onMove = () => {
        this.onMove()
      }
      this.attach()
      return
    }
    const isFree = this.held !== undefined && this.held !== patch
    const steps = move(this.player)
    if (isFree) {
      this.held = undefined
      this.attach()
    } else this.takeAll(steps)
  }

  /** Plays a patch that was held back after all. */
  playHeld(): void {
    this.held = undefined
    this.attach()
  }

  /** Recordings the patch names have come: what needs them is made anew. */
  reloadAssets(): void {
    if (!this.player || !this.wanted || this.held || soundsFor(this.wanted).size === 0) return
    this.take(this.player.reload())
  }

  /** Plays something, all at one time. Faults come back in words. */
  play(...events: readonly Untimed[]): readonly Fault[] {
    return this.playFrom(undefined, ...events)
  }
  /** The same from a device, whose name maps of controls may ask for. */
  playFrom(device: string | undefined, ...events: readonly Untimed[]): readonly Fault[] {
    const { player } = this
    if (!player) return []
    const faults = events.flatMap(
      (event) => player.play({ t: 0, ...event } as PlayerEvent, this.frameNow, device) ?? [],
    )
    this.takeAll(player.flush(this.frameNow))
    return faults
  }
  /** The same as a move of a hand: once it rests, it is a step that undo takes back. */
  playByHand(name: string, device: string | undefined, ...events: readonly Untimed[]): readonly Fault[] {
    let faults: readonly Fault[] = []
    this.hand.moving(name, () => {
      faults = this.playFrom(device, ...events)
    })
    return faults
  }
  /** Told of hands that have moved something and rest now. */
  onHand: (name: string, before: Moves, after: Moves) => void = () => undefined
  /** Told when what lies over the document has changed. */
  onMove: () => void = () => undefined
  private readonly hand = new HandMoves(
    () => this.moves(),
    (name, before, after) => {
      this.onHand(name, before, after)
    },
    {
      wait: (milliseconds, then) => setTimeout(then, milliseconds),
      cancel: (waiting) => {
        clearTimeout(waiting as ReturnType<typeof setTimeout> | undefined)
      },
    },
  )
  /** A hand's move that has not rested yet becomes a step now. */
  restHand(): void {
    this.hand.rest()
  }

  /** What lies over the document. */
  moves(): Moves {
    return this.player?.moves() ?? NO_MOVES
  }
  /** What is heard of a target, where that is not what is set. */
  movedValue(target: string): ParamValue | undefined {
    return this.player?.isMoved(target) ? this.player.valueOf(target) : undefined
  }
  /** Maps of controls, and which of them have picked up their target. */
  controllers(): readonly ControllerState[] {
    return this.player?.controllers() ?? []
  }

  /** The engine's frame by now, as the last report tells. */
  private get frameNow(): number {
    const { latest } = this
    return latest ? latest.time + Math.round(((performance.now() - latest.at) / 1000) * this.sampleRate) : 0
  }

  private takeAll(steps: readonly Step[]): void {
    if (this.held !== undefined) return
    for (const step of steps) this.take(step)
    clearTimeout(this.ending)
    const next = this.player?.nextFrame
    if (next === undefined) return
    this.ending = setTimeout(
      () => {
        this.takeAll(this.player!.flush(Math.max(next, this.frameNow)))
      },
      Math.max(0, ((next - this.frameNow) / this.sampleRate) * 1000),
    )
  }
  private ending: ReturnType<typeof setTimeout> | undefined

  private take(step: Step): void {
    if (step.kind === 'faults') this.onFaults(step.faults)
    if (step.kind === 'plan') this.sendPlan(step.delta, step.settles)
    if (step.kind === 'events' || step.kind === 'plan') this.send(step.events)
  }

  private sendPlan(delta: Delta, settles: boolean): void {
    this.serial += 1
    const { serial } = this
    if (settles)
      this.swapped.set(serial, () => {
        setTimeout(() => {
          if (this.serial === serial && this.player) this.takeAll(this.player.settled(this.frameNow))
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

  private send(events: readonly EngineEvent[]): void {
    if (events.length > 0) this.post({ type: 'events', events })
  }

  noteOn(note: number, velocity: number, id: number): void {
    this.play({ type: 'on', note, velocity, id })
  }
  noteOff(note: number, id: number): void {
    this.play({ type: 'off', note, id, velocity: 0.5 })
  }
  /** Everything is quiet until somebody plays; a guard that had stopped the sound is opened again. */
  silence(): void {
    this.play({ type: 'silence' })
    if (this.stopped) this.post({ type: 'open' })
  }
  /** What was silenced plays on. */
  playOn(): void {
    this.play({ type: 'silence', value: false })
  }
  setGuard(active: boolean): void {
    this.guardActive = active
    this.post({ type: 'guard', active })
  }
  setTransport(running: boolean): void {
    this.running = running
    this.play({ type: 'transport', value: running ? 'start' : 'stop' })
  }

  /** Names the signals pictures want: `osc.saw` for outputs, `>filter.cutoff` for modulated parameters. */
  watch(keys: readonly string[]): void {
    this.pictured = keys
    this.watchAll()
  }
  /** The same for set values that were moved: `=osc.fine`. */
  watchMoved(keys: readonly string[]): void {
    if (keys.length === 0 && this.moving.length === 0) return
    this.moving = keys
    this.watchAll()
  }
  private pictured: readonly string[] = []
  private moving: readonly string[] = []

  private watchAll(): void {
    const next = [...new Set([...this.pictured, ...this.moving])]
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
