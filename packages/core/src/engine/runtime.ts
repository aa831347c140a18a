/* eslint max-lines: ["error", 500] -- one thing: what happens in a segment, in its order */
import * as abi from '../kernels/abi.ts'
import type { VoiceMemory } from '../notes/allocator.ts'
import { AUX_LEFT, AUX_RIGHT } from '../kernels/boundary.ts'
import type { EngineEvent } from './events.ts'
import { factsOf } from './facts.ts'
import { Hush } from './hush.ts'
import { instantiate } from './instantiate.ts'
import type { Kernels } from './kernel-exports.ts'
import type { Delta, KernelFacts } from './layout.ts'
import { SMOOTHING_SECONDS } from './smoothing.ts'
import { Players } from './players.ts'
import { Stager } from './stager.ts'
import { Transport } from './transport.ts'
import { WasmMemory } from './wasm-memory.ts'

export interface Watch {
  readonly signal: number
  readonly voices: number
  readonly sides: number
  readonly ring: number
  /** Where the right side goes, of a signal of two. */
  readonly right?: number
}

/** What is watched from now on: addresses are those of the plan sent before. */
export interface WatchList {
  readonly watches: readonly Watch[]
  readonly words: readonly (readonly [address: number, value: number])[]
  readonly memoryBytes: number
  readonly taken?: () => void
}

/** Told at which frame everything sent before it has taken effect. */
interface Mark {
  readonly taken: (frame: number) => void
}

/** What waits its turn: plans, and what only makes sense once the plan before it runs. */
type Untimely = { readonly event: EngineEvent } | { readonly list: WatchList } | { readonly mark: Mark }
type Item = Delta | Untimely
const isPlan = (item: Item): item is Delta => 'program' in item

export type { EngineEvent, LaterEvent } from './events.ts'

const FIRST_PAIR: readonly number[] = [0]

/** Staging never moves more than this in one block. */
const STEP_BYTES = 65536

/** While it is silent, no block clears much more than this. */
const CLEARED_BYTES = 2 ** 20

/**
 * The audio side of the engine: one wasm instance, the running plan, the clock. Decides nothing, allocates nothing while
 * it runs.
 */
export class Runtime implements VoiceMemory {
  readonly facts: KernelFacts
  private readonly stepBytes: number
  private readonly kernels: Kernels
  private readonly memory: WasmMemory
  private readonly stager: Stager<Untimely>
  private current: Delta | undefined
  /** Events to come, in time; those before `queueHead` are done. */
  private queue: { frame: number; event: EngineEvent }[] = []
  private queueHead = 0
  private readonly players: Players
  private readonly transport: Transport
  private watches: readonly Watch[] = []
  private clock = 0
  /** Marks a voice as stolen: its share in voice sums fades. */
  steal(address: number): void {
    this.setU32(address, Math.max(1, Math.round(abi.STEAL_SECONDS * this.sampleRate)))
    this.players.noteSteal()
  }
  /** False only after an explicit act, for this session. */
  guardActive = true
  /** Modules cleared after a NaN since the start. */
  resets = 0
  swaps = 0

  constructor(
    module: WebAssembly.Module,
    readonly sampleRate: number,
    options: { readonly best?: boolean; readonly stepBytes?: number } = {},
  ) {
    this.stepBytes = options.stepBytes ?? STEP_BYTES
    const kernels = instantiate(module, sampleRate)
    this.kernels = kernels
    this.memory = new WasmMemory(kernels)
    this.stager = new Stager<Untimely>(
      this.memory,
      isPlan,
      (item) => {
        this.does(item)
      },
      (delta) => {
        this.swap(delta)
      },
    )
    this.players = new Players(this, kernels)
    this.transport = new Transport(kernels, sampleRate)
    kernels.setRate(sampleRate)
    kernels.setOversampling(options.best ? 8 : 4)
    kernels.prepare()
    this.facts = factsOf(kernels)
    this.hush = new Hush(sampleRate, this.guardLatency)
  }

  /** Frames since the start. */
  get time(): number {
    return this.clock
  }
  get beats(): number {
    return this.transport.beatsAt(this.clock)
  }
  private readonly hush: Hush
  /** Frame at which the segment just run began. */
  private segmentStart = 0
  get running(): boolean {
    return this.transport.running
  }
  /** Everything was silenced, and nothing has begun again since. */
  get silenced(): boolean {
    return this.hush.isSilent
  }
  get guardLatency(): number {
    return this.kernels.GUARD_LATENCY.value
  }
  get memoryBytes(): number {
    return this.memory.bytes.length
  }
  get isStaging(): boolean {
    return this.stager.isBusy
  }

  /** Makes sure the memory is at least this large. */
  reserve(bytes: number): void {
    this.memory.grow(bytes)
  }

  f32(address: number): number {
    return this.memory.floats[address >> 2]!
  }
  u32(address: number): number {
    return this.memory.words[address >> 2]!
  }
  /** Writes into what kernels read; whoever does wakes them. */
  setF32(address: number, value: number): void {
    this.memory.floats[address >> 2] = value
  }
  setU32(address: number, value: number): void {
    this.memory.words[address >> 2] = value
  }
  /** Off, every module runs in every block: for tests, the sound is the same. */
  allowRest(allowed: boolean): void {
    this.kernels.allowRest(allowed ? 1 : 0)
  }
  param(address: number): number {
    return this.kernels.paramHeard(address)
  }
  curve(x: number, curve: number): number {
    return this.kernels.curveAt(x, curve)
  }
  /** Does a fixed piece of work: what costs are counted in. */
  work(): void {
    this.kernels.referenceBlock()
  }
  /** A copy of floats in the engine's memory. */
  read(address: number, count: number): Float32Array {
    return this.memory.floats.slice(address >> 2, (address >> 2) + count)
  }
  readInto(address: number, target: Float32Array, offset: number, count: number): void {
    target.set(this.memory.floats.subarray(address >> 2, (address >> 2) + count), offset)
  }

  /** `count` floats, every `step`-th. */
  readThinned(address: number, target: Float32Array, offset: number, count: number, step: number): void {
    for (let i = 0; i < count; i += 1) target[offset + i] = this.memory.floats[(address >> 2) + i * step]!
  }

  /** Address of a lane's first frame in a signal, and the bytes to the next: for the segment just run. */
  laneOf(signal: number, lane: number): { readonly address: number; readonly stride: number } {
    const group = lane >> 2
    return {
      address:
        this.u32(signal + abi.SIGNAL_DATA) +
        group * this.u32(signal + abi.SIGNAL_GROUP_STRIDE) +
        (lane & 3) * 4,
      stride: this.u32(signal + abi.SIGNAL_STRIDES + 4 * group),
    }
  }

  /** Takes a plan or an event, in order: what comes after a plan waits until that runs. */
  send(item: Item): void {
    this.stager.send(item)
  }
  /** Takes over a plan at once: before the start, or offline. */
  load(delta: Delta): void {
    this.stager.send(delta)
    while (this.isStaging) this.stager.stage(Number.MAX_SAFE_INTEGER)
  }
  private does(item: Untimely): void {
    if ('event' in item) this.apply(item.event)
    else if ('list' in item) this.takeWatches(item.list)
    else item.mark.taken(this.clock)
  }

  /** An event for a later sample; times need not come in order. */
  schedule(frame: number, event: EngineEvent): void {
    let at = this.queue.length
    while (at > this.queueHead && this.queue[at - 1]!.frame > frame) at -= 1
    this.queue.splice(at, 0, { frame, event })
  }

  /** Counts on from a later frame, as if nothing had happened until then; events to come move along. */
  skipTo(frame: number): void {
    const way = frame - this.clock
    this.clock += way
    this.transport.skip(way)
    this.queue.forEach((item, index) => {
      this.queue[index] = { ...item, frame: item.frame + way }
    })
  }

  /** Begins the summary of a watched ring anew. */
  resetWatch(ring: number): void {
    const last = this.memory.floats[(ring + 2056) >> 2]!
    this.memory.floats[(ring + 2048) >> 2] = last
    this.memory.floats[(ring + 2052) >> 2] = last
  }

  setWatches(watches: readonly Watch[]): void {
    this.watches = watches
  }

  private takeWatches({ watches, words, memoryBytes, taken }: WatchList): void {
    this.memory.grow(memoryBytes)
    for (const [address, value] of words) this.setU32(address, value)
    this.kernels.wake()
    this.watches = watches
    taken?.()
  }

  private swap(delta: Delta): void {
    const { copies, words, statics } = delta
    for (let i = 0; i < copies.length; i += 3)
      this.memory.bytes.copyWithin(copies[i + 1]!, copies[i]!, copies[i]! + copies[i + 2]!)
    for (let i = 0; i < words.length; i += 2) this.memory.words[words[i]! >> 2] = words[i + 1]!
    this.kernels.setMovingList(delta.moving, 0)
    for (let i = 0; i < statics.length; i += 1) {
      const param = statics[i]!
      if (
        i < delta.freshStatics ||
        this.memory.words[(param + abi.PARAM_LISTED) >> 2] ||
        (this.memory.words[(param + abi.PARAM_REMAINING) >> 2]! | 0) > 0
      )
        this.kernels.listParam(param)
    }
    this.players.adopt(delta.notes, delta.tuning)
    for (const [param, value] of delta.params) this.kernels.setParam(param, value, -1)
    const smoothing = Math.round(SMOOTHING_SECONDS * this.sampleRate)
    for (const [term, amount] of delta.amounts) this.kernels.setAmount(term, amount, smoothing)
    if (!this.current) this.transport.load(delta.tempo)
    if (delta.fadeIn && this.current) for (const pair of delta.outputPairs) this.kernels.fadeIn(pair)
    this.current = delta
    this.hush.again()
    // Watches name addresses of the plan they were made for; the next list follows right behind.
    this.watches = []
    this.swaps += 1
  }

  private apply(event: EngineEvent): void {
    const { kernels, clock } = this
    switch (event.type) {
      case 'param':
        kernels.setParam(event.address, event.value, event.glide)
        return
      case 'amount':
        kernels.setAmount(event.address, event.value, event.glide)
        return
      case 'setting':
        if (event.whole) this.setU32(event.address, event.value)
        else this.setF32(event.address, event.value)
        kernels.wake()
        return
      case 'clock':
        this.transport.follow(event.value, clock)
        return
      case 'tempo':
        this.transport.setTempo(event.bpm, clock)
        return
      case 'transport':
        if (event.value !== 'stop') this.hush.end(clock)
        this.transport.change(event.value, clock)
        return
      case 'later':
        this.schedule(clock + event.frames, event.event)
        return
      case 'resume':
        this.hush.end(clock)
        return
      case 'silence':
        this.hush.begin(clock)
        this.players.silence(clock)
        return
      case 'on':
        this.hush.end(clock)
        this.players.play(event, clock)
        return
      default:
        this.players.play(event, clock)
    }
  }

  /** Voice that started last, for pictures of one voice. */
  get newestVoice(): number {
    return this.players.newestVoice
  }

  /**
   * Renders frames into `left` and `right` from `offset`. Inputs are stereo, silence where left out. `each` is called
   * after every segment, while the signals of that segment stand in memory.
   */
  process(
    left: Float32Array,
    right: Float32Array,
    offset: number,
    frames: number,
    inputs?: { readonly left: Float32Array; readonly right: Float32Array; readonly offset: number },
    each?: (done: number, length: number) => void,
  ): void {
    let done = 0
    if (this.isStaging) this.stager.stage(this.stepBytes)
    while (done < frames) {
      this.applyDue()
      let length = Math.min(frames - done, abi.BLOCK_FRAMES - (this.clock % abi.BLOCK_FRAMES))
      const next = this.queue[this.queueHead]
      if (next) length = Math.min(length, next.frame - this.clock)
      this.segment(length, left, right, offset + done, inputs, done)
      each?.(done, length)
      done += length
    }
  }

  /** Applies every event whose frame has come. */
  private applyDue(): void {
    for (
      let next = this.queue[this.queueHead];
      next && next.frame <= this.clock;
      next = this.queue[this.queueHead]
    ) {
      this.queueHead += 1
      this.apply(next.event)
    }
    if (this.queueHead > 0 && this.queueHead === this.queue.length) {
      this.queue.length = 0
      this.queueHead = 0
    }
  }

  private segment(
    frames: number,
    left: Float32Array,
    right: Float32Array,
    at: number,
    inputs:
      { readonly left: Float32Array; readonly right: Float32Array; readonly offset: number } | undefined,
    done: number,
  ): void {
    const { kernels, current } = this
    this.segmentStart = this.clock
    if (this.hush.isOn) this.hush.passed(this.clock)
    kernels.setTime(this.clock)
    this.transport.send(this.clock)
    kernels.clearBuses(frames)
    if (current) {
      for (const aux of current.inputs) this.feed(aux, frames, inputs, done)
      if (this.timing) this.runTimed(current, frames)
      else
        kernels.run(
          current.program.address,
          current.program.ops,
          current.adapters.address,
          current.adapters.count,
          frames,
        )
    }
    for (const pair of this.pairs) kernels.guardOutput(pair, frames, this.guardActive ? 1 : 0)
    this.readPair(0, frames, left, right, at)
    if (this.hush.isOn && this.clock % abi.BLOCK_FRAMES === 0) this.clearSome()
    this.watch(frames)
    this.clock += frames
    if (current) this.players.passed(current.notes, frames)
    if (this.clock % abi.BLOCK_FRAMES === 0 && current)
      this.resets += kernels.guard(current.instances.address, current.instances.count, frames - 1)
  }

  private watch(frames: number): void {
    const voice = this.watches.length > 0 ? this.newestVoice : 0
    for (const watch of this.watches) {
      const lane = Math.min(voice, watch.voices - 1) * watch.sides
      this.kernels.watch(watch.signal, lane, watch.ring, this.clock % 512, frames)
      if (watch.right !== undefined)
        this.kernels.watch(watch.signal, lane + 1, watch.right, this.clock % 512, frames)
    }
  }

  private timing: { readonly now: () => number; readonly times: Float64Array } | undefined
  /** From now on every op of the program is timed, in order, into `times` (seconds, added up). */
  timeOps(now: () => number, times: Float64Array): void {
    this.timing = { now, times }
  }

  private runTimed(delta: Delta, frames: number): void {
    const { kernels } = this,
      { now, times } = this.timing!
    kernels.beginOps(frames)
    for (let index = 0, op = 0; index < delta.program.ops; op += 1) {
      const start = now()
      index += kernels.runOp(delta.program.address, index, frames)
      times[op] = times[op]! + now() - start
    }
    kernels.endOps(delta.adapters.address, delta.adapters.count, frames)
  }

  private feed(
    aux: number,
    frames: number,
    inputs:
      { readonly left: Float32Array; readonly right: Float32Array; readonly offset: number } | undefined,
    done: number,
  ): void {
    const toLeft = (aux + AUX_LEFT) >> 2,
      toRight = (aux + AUX_RIGHT) >> 2
    for (let f = 0; f < frames; f += 1) {
      const l = inputs?.left[inputs.offset + done + f] ?? 0,
        r = inputs?.right[inputs.offset + done + f] ?? 0
      this.memory.floats[toLeft + f] = Number.isFinite(l) ? l : 0
      this.memory.floats[toRight + f] = Number.isFinite(r) ? r : 0
    }
  }

  /** Output pairs of the running plan; the first always. */
  get pairs(): readonly number[] {
    return this.current?.outputPairs ?? FIRST_PAIR
  }
  /** What the guard let out of a pair in the segment just run, into `left` and `right` from `at`. */
  readPair(pair: number, frames: number, left: Float32Array, right: Float32Array, at: number): void {
    const { hush, segmentStart } = this,
      { floats } = this.memory,
      [leftPlane, rightPlane] = this.memory.planes[pair]!
    if (!hush.isOn && frames === abi.BLOCK_FRAMES) {
      left.set(leftPlane, at)
      right.set(rightPlane, at)
      return
    }
    const from = leftPlane.byteOffset >> 2
    for (let f = 0; f < frames; f += 1) {
      const gain = hush.isOn ? hush.gainAt(segmentStart + f) : 1
      left[at + f] = floats[from + f]! * gain
      right[at + f] = floats[from + abi.BLOCK_FRAMES + f]! * gain
    }
  }

  /** While everything is silent: what sounded begins anew, some of it in every block. */
  private clearSome(): void {
    const { current, hush } = this
    const from = hush.clearingFrom(this.clock)
    if (!current || from === undefined || from >= current.sounding.length) return
    if (from === 0) for (const pair of this.pairs) this.kernels.resetGuard(pair, 1)
    let at = from
    for (let bytes = 0; at < current.sounding.length && bytes < CLEARED_BYTES; at += 2) {
      const address = current.sounding[at]!,
        size = current.sounding[at + 1]!
      this.memory.bytes.fill(0, address, address + size)
      bytes += size
    }
    hush.cleared(at)
    this.kernels.wake()
  }
  /** Frames since the last look in which the limiter worked, of the pair where it worked most. */
  limitedFrames(): number {
    return Math.max(...this.pairs.map((pair) => this.kernels.limitedFrames(pair)))
  }
  /** The least gain of the limiter since the last look. */
  leastGain(): number {
    return Math.min(...this.pairs.map((pair) => this.kernels.leastGain(pair)))
  }
  isStopped(): boolean {
    return this.pairs.some((pair) => this.kernels.isStopped(pair) !== 0)
  }
  /** Starts the output over with a fade-in: when sound begins, or after a stop. */
  openOutput(): void {
    this.kernels.resetGuard(0, 0)
  }
}
