import type { Heard, Playback } from '../perform/playback.ts'
import type { Sound } from '../formats/wav.ts'
import { exactLog } from '../units/exact.ts'
import type { RenderReport, RenderSink } from './render.ts'

const TAIL_LEVEL = 0.001
/** A tail has ended when nothing was above its level for this long. */
const QUIET_SECONDS = 0.25
const BLOCK = 128
/** Frames between two steps. */
export const RENDER_STEP = 65536

/** Sound from outside that is not all there: what it is around a frame, when that is asked for. */
export interface InputWindow {
  blockAt(frame: number): Heard
}

/** An output port that is written besides, by the name of its signal: plans come and go while it is rendered. */
export interface TapSource {
  readonly name: string
  readonly lanes: number
}

interface Shape {
  readonly taps: ReadonlyMap<string, TapSource>
  readonly channels: number
  /** Frame of the last event. */
  readonly last: number
  /** Frames to render, or at the most. */
  readonly frames: number
  readonly exact: boolean
  /** A tail is over below this share of the highest peak; left out, below −60 dB of full scale. */
  readonly tailShare?: number
}

/** Frames that are made but not yet certain to belong to the sound: its end is known only when it has been quiet. */
class Pending {
  private readonly rows: Float32Array[]
  private readonly room: number
  length = 0
  /** Frames handed on or dropped so far. */
  taken = 0

  constructor(count: number, room: number) {
    this.room = room
    this.rows = Array.from({ length: count }, () => new Float32Array(room))
  }
  get made(): number {
    return this.taken + this.length
  }
  /** Makes room for a block and gives the row to write into, from `length` on. */
  row(index: number): Float32Array {
    return this.rows[index]!
  }
  added(frames: number): void {
    this.length += frames
    if (this.length > this.room) throw new RangeError(`${this.length} frames wait where ${this.room} can`)
  }
  /** Hands on all frames before `until`, counted from the start; those before `from` are dropped. */
  take(from: number, until: number, give: (rows: readonly Float32Array[], frames: number) => void): void {
    this.drop(Math.min(Math.max(0, from - this.taken), this.length))
    const count = Math.min(Math.max(0, until - this.taken), this.length)
    if (count === 0) return
    give(this.rows, count)
    this.drop(count)
  }
  private drop(count: number): void {
    if (count === 0) return
    for (const row of this.rows) row.copyWithin(0, count, this.length)
    this.length -= count
    this.taken += count
  }
}

/** One render from its first sample to its last, in bounded memory. */
export class Rendering {
  private readonly output: Pending
  private readonly taps: ReadonlyMap<string, { readonly source: TapSource; readonly pending: Pending }>
  private readonly left = new Float32Array(BLOCK)
  private readonly right = new Float32Array(BLOCK)
  private readonly latency: number
  private readonly quietFrames: number
  private quiet = 0
  private loud = false
  private peak = 0

  constructor(
    private readonly playback: Playback,
    private readonly shape: Shape,
    private readonly input: Sound | InputWindow | undefined,
  ) {
    const { runtime } = playback
    // What the patch itself holds back as well, as it stands at the start.
    this.latency = runtime.guardLatency + (playback.planner.plan?.latency.samples ?? 0)
    this.quietFrames = Math.ceil(QUIET_SECONDS * runtime.sampleRate)
    const room = RENDER_STEP + 2 * BLOCK + this.latency + this.quietFrames + BLOCK
    this.output = new Pending(shape.channels, room)
    this.taps = new Map(
      [...shape.taps].map(([key, source]) => [key, { source, pending: new Pending(source.lanes, room) }]),
    )
  }

  *run(sink: RenderSink): Generator<number, RenderReport> {
    const { runtime } = this.playback,
      { frames, exact, last } = this.shape
    const capture = (_done: number, length: number): void => {
      this.readTaps(length)
      this.readPairs(length)
    }
    let next = RENDER_STEP
    while (this.output.made < frames + this.latency) {
      const inputs = this.input ? blockOf(this.input, runtime.time) : undefined
      this.loud = false
      this.playback.process(this.left, this.right, BLOCK, inputs, capture)
      this.quiet = this.loud ? 0 : this.quiet + BLOCK
      if (!exact && this.output.made > last + this.latency && this.quiet > this.quietFrames) break
      if (this.output.made < next) continue
      next += RENDER_STEP
      const known = this.output.made - this.latency
      this.hand(
        sink,
        exact ? Math.min(frames, known) : Math.max(0, known - Math.min(this.quiet, this.quietFrames)),
      )
      yield Math.min(frames, known)
    }
    const known = this.output.made - this.latency
    this.hand(sink, exact ? frames : Math.max(last, known - this.quiet))
    return {
      limited: runtime.limitedFrames(),
      limitedDb: Math.max(0, (-20 / Math.LN10) * exactLog(runtime.leastGain())),
      stopped: runtime.isStopped(),
      resets: runtime.resets,
      faults: this.playback.faults,
    }
  }

  private hand(sink: RenderSink, until: number): void {
    this.output.take(this.latency, this.latency + until, (rows, count) => {
      sink.output(rows, count)
    })
    for (const [key, { pending }] of this.taps)
      pending.take(0, until, (rows, count) => {
        sink.tap(key, rows, count)
      })
  }

  /** Appends what every output pair let out in a segment; notes whether any of it is above the level of tails. */
  private readPairs(length: number): void {
    const { runtime } = this.playback,
      { output } = this,
      { tailShare } = this.shape
    const at = output.length
    for (let pair = 0; 2 * pair < this.shape.channels; pair += 1) {
      const l = output.row(2 * pair),
        r = output.row(2 * pair + 1)
      if (runtime.pairs.includes(pair)) runtime.readPair(pair, length, l, r, at)
      else {
        l.fill(0, at, at + length)
        r.fill(0, at, at + length)
      }
      for (let f = at; f < at + length; f += 1) {
        const level = Math.max(Math.abs(l[f]!), Math.abs(r[f]!))
        if (level > this.peak) this.peak = level
        if (level > (tailShare === undefined ? TAIL_LEVEL : tailShare * this.peak)) this.loud = true
      }
    }
    output.added(length)
  }

  private readTaps(length: number): void {
    const { runtime, layout } = this.playback
    for (const { source, pending } of this.taps.values()) {
      const signal = layout.signal(source.name)
      for (let lane = 0; lane < source.lanes; lane += 1) {
        const lanes = signal ? signal.voices * signal.sides : 0
        if (!signal || lane >= lanes) {
          pending.row(lane).fill(0, pending.length, pending.length + length)
          continue
        }
        const { address, stride } = runtime.laneOf(signal.address, lane)
        const row = pending.row(lane),
          at = pending.length
        for (let f = 0; f < length; f += 1) {
          // One sample that is not finite may pass through what only adds; it never goes into a file.
          const x = runtime.f32(address + f * stride)
          row[at + f] = Number.isFinite(x) ? x : 0
        }
      }
      pending.added(length)
    }
  }
}

const blockOf = (input: Sound | InputWindow, time: number): Heard =>
  'blockAt' in input
    ? input.blockAt(time)
    : { left: input.channels[0]!, right: input.channels[1] ?? input.channels[0]!, offset: time }
