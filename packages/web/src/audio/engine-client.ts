/* eslint max-lines: ["error", 500] -- one end of one line: what is played, what comes back, what happens when it breaks */
import {
  compiled,
  type CompileResult,
  type ControllerState,
  type Delta,
  type EngineEvent,
  type Fault,
  HandMoves,
  type Heard,
  listeningTo,
  type Moves,
  NO_MOVES,
  type ParamValue,
  type Patch,
  Performance,
  Planner,
  type PlayerEvent,
  type RestClock,
  type Sound,
  sourceBehind,
  type Step,
  type Untimed,
} from '@ypsilon/core'
import type { FromWorklet, Report, ToWorklet } from './messages.ts'
import { type Picture, Pictures } from './pictures.ts'
import { Pulse } from './pulse.ts'
import { type Opened, openMicrophone, openSound } from './sound.ts'
import type { Piece } from './tape.ts'
import { isOfNotes, WaitingNotes } from './waiting.ts'

/** How long removed modules and old sources stay after their fade, before the settled plan takes over. */
const SETTLE_MS = 10
/** Sound that stops again so soon after it was begun anew is stopped by the patch. */
const AGAIN_MS = 15_000

export interface EngineParts {
  /** The compiled kernels; fetched once. */
  readonly kernels: () => Promise<ArrayBuffer>
  readonly workletUrl: string
  /** Recordings of a patch that are decoded. */
  readonly soundsFor: (patch: Patch) => ReadonlyMap<string, Sound>
  readonly clock: RestClock
  /** Told of each context that sound goes through. */
  readonly onContext?: (context: AudioContext) => void
}

/** `held`: the browser lets nothing sound yet. */
export type SoundState = 'off' | 'held' | 'running'
type Listener = (report: Report) => void

/**
 * The page's end of the live engine: compiles and lays out here, posts finished memory to the worklet, hands reports
 * to whoever draws. Works without sound as well: nothing is lost before the first gesture.
 */
export class EngineClient {
  private opened: Opened | undefined
  private starting: Promise<void> | undefined
  /** What is set and what was moved; there from the first patch on, with or without sound. */
  private player: Performance | undefined
  private wanted: Patch | undefined
  private serial = 0
  private readonly swapped = new Map<number, () => void>()
  private readonly listeners = new Set<Listener>()
  private onTape: ((piece: Piece) => void) | undefined
  private microphone: MediaStreamAudioSourceNode | undefined
  private readonly pulse = new Pulse()
  /** A patch that stopped the sound twice in a row: it is not played until it has changed. */
  private held: Patch | undefined
  private stalledAt = -Infinity
  /** What alone is heard, while that is so. */
  private listened: readonly Heard[] | undefined
  /** What a new worklet has to be told again. */
  private guardActive = true
  private running = true
  /** The audio thread has told that it runs. */
  private hasSound = false
  private stopped = false
  private ending: ReturnType<typeof setTimeout> | undefined
  private readonly hand: HandMoves
  readonly pictures = new Pictures(() => {
    this.sendWatches()
  })
  private readonly waiting = new WaitingNotes((event, device) => {
    this.playNow([event], device)
  })
  /** Called with faults of the patch that only compiling finds. */
  onFaults: (faults: readonly Fault[]) => void = () => undefined
  /** Called when the sound stopped answering: it was begun anew, or (`held`) this patch stops it every time. */
  onStall: (kind: 'anew' | 'held') => void = () => undefined
  /** Told when the browser lets sound go or holds it back. */
  onSound: (state: SoundState) => void = () => undefined
  /** Told of hands that have moved something and rest now. */
  onHand: (name: string, before: Moves, after: Moves) => void = () => undefined
  /** Told when what lies over the document has changed. */
  onMove: () => void = () => undefined

  constructor(private readonly parts: EngineParts) {
    this.hand = new HandMoves(
      () => this.moves(),
      (name, before, after) => {
        this.onHand(name, before, after)
      },
      parts.clock,
    )
  }

  get isRunning(): boolean {
    return this.opened?.context.state === 'running'
  }
  get sampleRate(): number {
    return this.opened?.context.sampleRate ?? 48000
  }
  get audioContext(): AudioContext | undefined {
    return this.opened?.context
  }

  /** Starts sound; must be called from a gesture the first time. Resolves when the engine plays. */
  async start(): Promise<void> {
    this.starting ??= this.open().catch((error: unknown) => {
      this.starting = undefined
      throw error
    })
    await this.starting
    if (!this.isRunning) await this.audioContext!.resume()
  }

  private async open(): Promise<void> {
    // Made within the gesture: later the browser would hold it back.
    const context = new AudioContext({ sampleRate: 48000, latencyHint: 'interactive' })
    const opened = await this.openedWith(context).catch((error: unknown) => {
      void context.close()
      throw error
    })
    this.opened = opened
    this.parts.onContext?.(context)
    opened.node.onprocessorerror = () => {
      if (this.opened === opened) this.replace()
    }
    context.onstatechange = () => {
      if (this.opened === opened) this.tellSound()
    }
    this.pulse.begin(
      () => context.state === 'running',
      () => {
        this.replace()
      },
    )
    this.tellSound()
    if (!this.guardActive) this.setGuard(false)
    this.attach()
    if (!this.running) this.setTransport(false)
    this.sendWatches()
  }

  private async openedWith(context: AudioContext): Promise<Opened> {
    const { kernels, workletUrl } = this.parts
    return openSound(context, await kernels(), workletUrl, (message) => {
      this.receive(message)
    })
  }

  private tellSound(): void {
    this.onSound(this.isRunning ? 'running' : 'held')
  }

  /** The settled plan of a patch as it would play here: the same that plays. */
  compiled(patch: Patch): CompileResult {
    return compiled(patch, { sampleRate: this.sampleRate, assets: this.parts.soundsFor(patch) })
  }

  /** Lets the engine play everything as it stands, unless the patch is held back. */
  private attach(): void {
    if (!this.opened || !this.player || this.held !== undefined) return
    const planner = new Planner(this.opened.layout, this.sampleRate, { assets: this.parts.soundsFor })
    this.take(this.player.attach(planner, this.sampleRate))
  }

  /** The worklet answers no more: another one takes its place, with the patch as it stands. */
  private replace(): void {
    const now = performance.now(),
      again = now - this.stalledAt < AGAIN_MS
    this.stalledAt = now
    this.held = again ? this.wanted : undefined
    this.pulse.end()
    const { opened } = this
    opened?.line.cut()
    opened?.node.disconnect()
    // A thread that hangs may never close its context: nobody waits for it.
    void opened?.context.close().catch(() => undefined)
    this.opened = undefined
    this.hasSound = false
    this.player?.detach()
    this.microphone = undefined
    this.swapped.clear()
    this.pictures.forget()
    this.endTape()
    this.starting = undefined
    this.onStall(again ? 'held' : 'anew')
    this.start().catch(() => undefined)
  }

  private post(message: ToWorklet, transfer: Transferable[] = []): number {
    return this.opened?.line.send(message, transfer) ?? 0
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
      this.onTape?.(message)
      if (message.isLast) this.onTape = undefined
    } else {
      // The buffer is read from until the next one comes, then goes back to be filled again.
      const before = this.pictures.take(message)
      if (!this.hasSound) {
        this.hasSound = true
        this.waiting.begin()
      }
      this.stopped = message.stopped
      for (const listener of this.listeners) listener(message)
      if (before) this.post({ type: 'recycle', buffer: before }, [before])
    }
  }

  /** Makes the engine play a patch, with what was moved over it or what `moves` say. Only what changed travels. */
  setPatch(patch: Patch, moves?: Moves): void {
    this.follow(patch, (player, heard) => player.edit(heard, this.frameNow, moves))
  }

  /** From now on these signals alone are heard; undefined: everything again. */
  listen(heard: readonly Heard[] | undefined): void {
    this.listened = heard
    if (this.wanted) this.setPatch(this.wanted)
  }

  /** Another document: nothing is moved over it. */
  openPatch(patch: Patch): void {
    this.hand.drop()
    this.listened = undefined
    this.follow(patch, (player, heard) => [player.open(heard)])
  }

  private follow(patch: Patch, move: (player: Performance, heard: Patch) => readonly Step[]): void {
    this.wanted = patch
    const heard = this.listened ? listeningTo(patch, this.listened) : patch
    if (!this.player) {
      this.player = new Performance(heard)
      this.player.onMove = () => {
        this.onMove()
      }
      this.attach()
      return
    }
    const isFree = this.held !== undefined && this.held !== patch
    const steps = move(this.player, heard)
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
    if (!this.player || !this.wanted || this.held || this.parts.soundsFor(this.wanted).size === 0) return
    this.take(this.player.reload())
  }

  /** Plays something, all at one time. Faults come back in words. */
  play(...events: readonly Untimed[]): readonly Fault[] {
    return this.playFrom(undefined, ...events)
  }
  /** The same from a device, whose name maps of controls may ask for. Notes wait until there is sound. */
  playFrom(device: string | undefined, ...events: readonly Untimed[]): readonly Fault[] {
    if (this.hasSound) {
      for (const event of events) this.waiting.before(event)
      return this.playNow(events, device)
    }
    for (const event of events) if (isOfNotes(event)) this.waiting.add(event, device)
    return this.playNow(
      events.filter((event) => !isOfNotes(event)),
      device,
    )
  }
  private playNow(events: readonly Untimed[], device: string | undefined): readonly Fault[] {
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

  private get frameNow(): number {
    return this.pictures.frameNow(this.sampleRate)
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

  private take(step: Step): void {
    if (step.kind === 'faults') this.onFaults(step.faults)
    if (step.kind === 'plan') this.sendPlan(step.delta, step.settles)
    if (step.kind === 'events' || step.kind === 'plan') this.send(step.events)
  }

  private sendPlan(delta: Delta, settles: number | undefined): void {
    this.serial += 1
    const { serial } = this
    if (settles !== undefined)
      this.swapped.set(serial, () => {
        setTimeout(
          () => {
            if (this.serial === serial && this.player) this.takeAll(this.player.settled(this.frameNow))
          },
          SETTLE_MS + (1000 * settles) / this.sampleRate,
        )
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
    this.waiting.forget()
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

  private sendWatches(): void {
    if (this.opened) this.post(this.pictures.message(this.opened.layout, (key) => this.behind(key)))
  }
  /** The output that is heard at a port of a group. */
  private behind(key: string): string {
    return this.wanted ? sourceBehind(this.wanted, key) : key
  }
  picture(key: string): Picture | undefined {
    return this.pictures.picture(key)
  }

  /**
   * Records the output until `stopRecording`; pieces go to `take`, the last one said to be so. Resolves when the audio
   * thread has begun.
   */
  async startRecording(take: (piece: Piece) => void): Promise<void> {
    this.onTape = take
    const { line } = this.opened ?? {}
    await line?.arrived(this.post({ type: 'record', on: true }))
  }
  stopRecording(): void {
    this.post({ type: 'record', on: false })
  }
  /** The tape was in a worklet that is gone. */
  private endTape(): void {
    this.onTape?.({ left: new Float32Array(0), right: new Float32Array(0), isLast: true })
    this.onTape = undefined
  }

  /** Connects the audio input; throws with a sentence when it is refused. */
  async openInput(): Promise<void> {
    if (!this.opened || this.microphone) return
    this.microphone = await openMicrophone(this.opened)
  }
}
