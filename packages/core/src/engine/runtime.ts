import * as abi from '../kernels/abi.ts'
import { KERNEL_NAMES } from '../generated/kernelNames.ts'
import { NoteAllocator, type VoiceMemory } from '../notes/allocator.ts'
import { ExternalClock } from '../time/external.ts'
import { tunedPitch } from '../formats/scala.ts'
import { AUX_LEFT, AUX_RIGHT } from '../kernels/boundary.ts'
import type { EngineEvent } from './events.ts'
import { Hush } from './hush.ts'
import type { Kernels } from './kernel-exports.ts'
import { type Delta, type KernelFacts, SMOOTHING_SECONDS } from './layout.ts'

export interface Watch {
  readonly signal: number
  readonly voices: number
  readonly sides: number
  readonly ring: number
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
type Item = Delta | { readonly event: EngineEvent } | { readonly list: WatchList } | { readonly mark: Mark }

export type { EngineEvent, LaterEvent } from './events.ts'

const FIRST_PAIR: readonly number[] = [0]

/** Staging never moves more than this in one block. */
const STEP_BYTES = 65536

interface Staging {
  readonly delta: Delta
  zero: number
  zeroAt: number
  write: number
  writeAt: number
}

/** While it is silent, no block clears much more than this. */
const CLEARED_BYTES = 2 ** 20

/** The line of beats begins anew after so many frames, before the kernels' counters of frames come round. */
const REBASE = 2 ** 30

/**
 * The audio side of the engine: one wasm instance, the running plan, the clock. Decides nothing, allocates nothing while
 * it runs.
 */
export class Runtime implements VoiceMemory {
  readonly facts: KernelFacts
  private readonly stepBytes: number
  private readonly kernels: Kernels
  private bytes!: Uint8Array
  private words!: Uint32Array
  private floats!: Float32Array
  /** Where both sides of every output pair leave. */
  private planes!: readonly (readonly [left: Float32Array, right: Float32Array])[]
  private current: Delta | undefined
  /** Pitches of the 128 notes; equal steps where there is none. */
  private tuning: readonly number[] | undefined
  private staging: Staging | undefined
  private readonly waiting: Item[] = []
  /** Events to come, in time; those before `queueHead` are done. */
  private queue: { frame: number; event: EngineEvent }[] = []
  private queueHead = 0
  private readonly allocators = new Map<string, NoteAllocator>()
  private watches: readonly Watch[] = []
  private clock = 0
  /** Beats at `beatFrame`: the straight line since tempo or transport last changed. */
  private beatBase = 0
  private beatFrame = 0
  private bpm = 120
  private isRunning = true
  private starts = 0
  private stealing = false
  /** Marks a voice as stolen: its share in voice sums fades. */
  steal(address: number): void {
    this.setU32(address, Math.max(1, Math.round(abi.STEAL_SECONDS * this.sampleRate)))
    this.stealing = true
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
    const instance = new WebAssembly.Instance(module, { env: {} })
    const kernels = instance.exports as unknown as Kernels
    this.kernels = kernels
    kernels.setRate(sampleRate)
    kernels.setOversampling(options.best ? 8 : 4)
    kernels.prepare()
    this.facts = {
      heapBase: kernels.heapBase(),
      zeroSignal: kernels.zeroSignal(),
      oneSignal: kernels.oneSignal(),
      adapterFunctions: [kernels.adapterFunction(0), kernels.adapterFunction(1), kernels.adapterFunction(2)],
      functions: KERNEL_NAMES.map((_name, index) => kernels.kernelFunction(index)),
    }
    this.hush = new Hush(sampleRate, this.guardLatency)
    this.view()
  }

  /** Frames since the start. */
  get time(): number {
    return this.clock
  }
  get beats(): number {
    return this.beatBase + (this.clock - this.beatFrame) * this.beatsPerFrame
  }
  private get beatsPerFrame(): number {
    return this.isRunning ? this.bpm / (60 * this.sampleRate) : 0
  }
  /** Begins a new line of beats at this moment. */
  private setBeats(beats: number): void {
    this.beatBase = beats
    this.beatFrame = this.clock
    this.linesDirty = true
  }
  private linesDirty = true
  private readonly hush: Hush
  /** Frame at which the segment just run began. */
  private segmentStart = 0
  get running(): boolean {
    return this.isRunning
  }
  /** Everything was silenced, and nothing has begun again since. */
  get silenced(): boolean {
    return this.hush.isSilent
  }
  get guardLatency(): number {
    return this.kernels.GUARD_LATENCY.value
  }
  get memoryBytes(): number {
    return this.bytes.length
  }
  get isStaging(): boolean {
    return this.staging !== undefined || this.waiting.length > 0
  }

  private view(): void {
    const { buffer } = this.kernels.memory
    this.bytes = new Uint8Array(buffer)
    this.words = new Uint32Array(buffer)
    this.floats = new Float32Array(buffer)
    const plane = (pair: number, side: number): Float32Array =>
      new Float32Array(buffer, this.kernels.planeOf(pair) + side * 4 * abi.BLOCK_FRAMES, abi.BLOCK_FRAMES)
    this.planes = [0, 1, 2, 3].map((pair) => [plane(pair, 0), plane(pair, 1)] as const)
  }

  private grow(bytes: number): void {
    const missing = Math.ceil((bytes - this.bytes.length) / 65536)
    if (missing > 0) {
      this.kernels.memory.grow(missing)
      this.view()
    }
  }

  /** Makes sure the memory is at least this large. */
  reserve(bytes: number): void {
    this.grow(bytes)
  }

  f32(address: number): number {
    return this.floats[address >> 2]!
  }
  u32(address: number): number {
    return this.words[address >> 2]!
  }
  setF32(address: number, value: number): void {
    this.floats[address >> 2] = value
    this.kernels.wake()
  }
  setU32(address: number, value: number): void {
    this.words[address >> 2] = value
    this.kernels.wake()
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
    return this.floats.slice(address >> 2, (address >> 2) + count)
  }
  readInto(address: number, target: Float32Array, offset: number, count: number): void {
    target.set(this.floats.subarray(address >> 2, (address >> 2) + count), offset)
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
    if ('event' in item && this.waiting.length === 0 && !this.staging) this.apply(item.event)
    else if ('list' in item && this.waiting.length === 0 && !this.staging) this.takeWatches(item.list)
    else if ('mark' in item && this.waiting.length === 0 && !this.staging) item.mark.taken(this.clock)
    else this.waiting.push(item)
  }

  /** Takes over a plan at once: before the start, or offline. */
  load(delta: Delta): void {
    this.waiting.push(delta)
    while (this.isStaging) this.stage(Number.MAX_SAFE_INTEGER)
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
    this.beatFrame += way
    this.queue.forEach((item, index) => {
      this.queue[index] = { ...item, frame: item.frame + way }
    })
    this.linesDirty = true
  }

  /** Begins the summary of a watched ring anew. */
  resetWatch(ring: number): void {
    const last = this.floats[(ring + 2056) >> 2]!
    this.floats[(ring + 2048) >> 2] = last
    this.floats[(ring + 2052) >> 2] = last
  }

  setWatches(watches: readonly Watch[]): void {
    this.watches = watches
  }

  private takeWatches({ watches, words, memoryBytes, taken }: WatchList): void {
    this.grow(memoryBytes)
    for (const [address, value] of words) this.setU32(address, value)
    this.watches = watches
    taken?.()
  }

  /** Carries staging on by at most `budget` bytes; swaps when it is complete, and goes on with what waits behind. */
  private stage(budget: number): void {
    let left = budget
    while (this.staging || this.waiting.length > 0) {
      this.staging ??= this.nextStaging()
      if (!this.staging) return
      left = this.copySome(this.staging, left)
      const { delta, zero, write } = this.staging
      if (zero < delta.zero.length || write < delta.writes.length) return
      this.staging = undefined
      this.swap(delta)
    }
  }

  /** Does what waits up to the next plan, and begins to stage that. */
  private nextStaging(): Staging | undefined {
    for (let item = this.waiting.shift(); item; item = this.waiting.shift()) {
      if ('event' in item) this.apply(item.event)
      else if ('list' in item) this.takeWatches(item.list)
      else if ('mark' in item) item.mark.taken(this.clock)
      else {
        this.grow(item.memoryBytes)
        return { delta: item, zero: 0, zeroAt: 0, write: 0, writeAt: 0 }
      }
    }
    return undefined
  }

  /** Clears and writes beside what runs, no more than `budget` bytes; what is left of the budget. */
  private copySome(s: Staging, budget: number): number {
    const { zero, writes, bytes } = s.delta
    let left = budget
    while (s.zero < zero.length && left > 0) {
      const address = zero[s.zero]!,
        size = zero[s.zero + 1]!
      const count = Math.min(left, size - s.zeroAt)
      this.bytes.fill(0, address + s.zeroAt, address + s.zeroAt + count)
      left -= count
      s.zeroAt += count
      if (s.zeroAt >= size) {
        s.zero += 2
        s.zeroAt = 0
      }
    }
    while (s.zero >= zero.length && s.write < writes.length && left > 0) {
      const offset = writes[s.write + 1]!,
        size = writes[s.write + 2]!
      this.bytes.set(bytes.subarray(offset, offset + size), writes[s.write]!)
      left -= size
      s.write += 3
    }
    return left
  }

  private swap(delta: Delta): void {
    const { copies, words, statics } = delta
    for (let i = 0; i < copies.length; i += 3)
      this.bytes.copyWithin(copies[i + 1]!, copies[i]!, copies[i]! + copies[i + 2]!)
    for (let i = 0; i < words.length; i += 2) this.words[words[i]! >> 2] = words[i + 1]!
    this.kernels.setMovingList(delta.moving, 0)
    for (let i = 0; i < statics.length; i += 1) {
      const param = statics[i]!
      if (
        i < delta.freshStatics ||
        this.words[(param + abi.PARAM_LISTED) >> 2] ||
        (this.words[(param + abi.PARAM_REMAINING) >> 2]! | 0) > 0
      )
        this.kernels.listParam(param)
    }
    this.tuning = delta.tuning
    const sources = new Set(delta.notes.map((source) => source.id))
    for (const id of [...this.allocators.keys()]) if (!sources.has(id)) this.allocators.delete(id)
    for (const source of delta.notes) {
      const allocator = this.allocators.get(source.id)
      if (allocator) allocator.adopt(source)
      else
        this.allocators.set(
          source.id,
          new NoteAllocator(source, this, (note) => {
            const { tuning } = this
            return tuning ? tunedPitch(tuning, note) : (note - 60) / 12
          }),
        )
    }
    for (const [param, value] of delta.params) this.kernels.setParam(param, value, -1)
    const smoothing = Math.round(SMOOTHING_SECONDS * this.sampleRate)
    for (const [term, amount] of delta.amounts) this.kernels.setAmount(term, amount, smoothing)
    if (!this.current) {
      this.bpm = delta.tempo
      this.linesDirty = true
    }
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
        return
      case 'clock':
        this.followClock(event.value)
        return
      case 'tempo':
        this.setBeats(this.beats)
        this.bpm = event.bpm
        return
      case 'transport':
        if (event.value !== 'stop') this.hush.end(clock)
        this.setBeats(event.value === 'start' ? 0 : this.beats)
        if (event.value === 'start') this.starts += 1
        this.isRunning = event.value !== 'stop'
        return
      case 'later':
        this.schedule(clock + event.frames, event.event)
        return
      case 'resume':
        this.hush.end(clock)
        return
      case 'silence':
        this.hush.begin(clock)
        for (const allocator of this.allocators.values()) allocator.silence(clock)
        return
    }
    if (event.type === 'on') this.hush.end(clock)
    for (const allocator of this.allocators.values()) {
      if (event.type === 'on') allocator.on(clock, event.note, event.velocity, event.id, event.channel)
      else if (event.type === 'off') allocator.off(clock, event.note, event.id, event.velocity)
      else if (event.type === 'control')
        allocator.control(clock, event.controller, event.value, event.channel)
      else allocator.touch(event.type, event.value, event.note, event.channel)
    }
  }

  private outer: ExternalClock | undefined
  private followClock(value: 'tick' | 'start' | 'stop' | 'continue'): void {
    this.outer ??= new ExternalClock(this.sampleRate)
    const { outer, clock } = this
    if (value === 'tick') outer.tick(clock)
    else if (value === 'start') outer.start(clock)
    else if (value === 'stop') outer.stop(clock)
    else outer.resume(clock)
    this.sendOuter()
  }
  private sendOuter(): void {
    const line = this.outer!.at(this.clock)
    this.kernels.setOuterClock(
      line.beats,
      line.perFrame,
      line.frame >>> 0,
      line.running ? 1 : 0,
      this.outer!.starts,
    )
  }

  /** Voice that started last, for pictures of one voice. */
  get newestVoice(): number {
    for (const allocator of this.allocators.values()) return allocator.newest
    return 0
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
    if (this.isStaging) this.stage(this.stepBytes)
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
    if (this.clock % REBASE === 0 && this.clock > 0) this.setBeats(this.beats)
    this.segmentStart = this.clock
    if (this.hush.isOn) this.hush.passed(this.clock)
    kernels.setTime(this.clock)
    if (this.linesDirty) {
      kernels.setTransport(
        this.beatBase,
        this.beatsPerFrame,
        this.beatFrame >>> 0,
        this.isRunning ? 1 : 0,
        this.starts,
      )
      kernels.wake()
      this.linesDirty = false
    }
    if (this.outer) this.sendOuter()
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
    const voice = this.watches.length > 0 ? this.newestVoice : 0
    for (const watch of this.watches) {
      const lane = Math.min(voice, watch.voices - 1) * watch.sides
      kernels.watch(watch.signal, lane, watch.ring, this.clock % 512, frames)
    }
    this.clock += frames
    if (current && this.stealing) {
      this.stealing = false
      for (const source of current.notes)
        if (kernels.countSteals(source.aux + abi.CHANNEL_STEALS, frames)) this.stealing = true
    }
    if (this.clock % abi.BLOCK_FRAMES === 0 && current)
      this.resets += kernels.guard(current.instances.address, current.instances.count, frames - 1)
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
      this.floats[toLeft + f] = Number.isFinite(l) ? l : 0
      this.floats[toRight + f] = Number.isFinite(r) ? r : 0
    }
  }

  /** Output pairs of the running plan; the first always. */
  get pairs(): readonly number[] {
    return this.current?.outputPairs ?? FIRST_PAIR
  }
  /** What the guard let out of a pair in the segment just run, into `left` and `right` from `at`. */
  readPair(pair: number, frames: number, left: Float32Array, right: Float32Array, at: number): void {
    const { hush, segmentStart, floats } = this,
      [leftPlane, rightPlane] = this.planes[pair]!
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
      this.bytes.fill(0, address, address + size)
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
