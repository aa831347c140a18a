/** A patch played in one thread with its engine: renders, the command line, tests. Every event on its sample. */
import type { AssetSound } from '../describe/types.ts'
import { Layout } from '../engine/layout.ts'
import { Planner, type Step } from '../engine/planner.ts'
import { Runtime } from '../engine/runtime.ts'
import type { PlayerEvent } from '../notes/events.ts'
import type { Fault, Patch } from '../patch/types.ts'
import { Performance } from './performance.ts'

/** Frames up to the next multiple of a block. */
const wholeBlocks = (frames: number): number => Math.ceil(frames / 128) * 128

export interface PlaybackOptions {
  readonly sampleRate?: number
  readonly best?: boolean
  readonly assets?: ReadonlyMap<string, AssetSound>
  /** Greatest values that events to come will set, by target. */
  readonly settings?: ReadonlyMap<string, number>
}

/** What is played, by frame, in time. */
export interface Timed {
  readonly frame: number
  readonly event: PlayerEvent
}

/** Sound from outside: stereo, read from `offset`. */
export interface Heard {
  readonly left: Float32Array
  readonly right: Float32Array
  readonly offset: number
}

export class Playback {
  readonly runtime: Runtime
  readonly layout: Layout
  readonly planner: Planner
  readonly performance: Performance
  private readonly events: readonly Timed[]
  private at = 0
  private settleFrame: number | undefined
  /** Faults of plans that could not be made while it played. */
  readonly faults: Fault[] = []

  constructor(
    kernels: WebAssembly.Module,
    patch: Patch,
    /** In time. */
    events: readonly Timed[],
    options: PlaybackOptions = {},
  ) {
    const sampleRate = options.sampleRate ?? 48000,
      { assets, settings } = options
    this.runtime = new Runtime(kernels, sampleRate, options.best ? { best: true } : {})
    this.layout = new Layout(this.runtime.facts, sampleRate)
    this.planner = new Planner(this.layout, sampleRate, {
      ...(assets ? { assets: () => assets } : {}),
      ...(settings ? { settings } : {}),
    })
    this.performance = new Performance(patch, this.planner, sampleRate)
    this.events = events
  }

  /** Makes the engine ready; faults of the patch that only compiling finds. */
  begin(): readonly Fault[] {
    const step = this.performance.begin()
    if (step.kind === 'faults') return step.faults
    this.take(step)
    return []
  }

  private take(step: Step): void {
    const { runtime } = this
    if (step.kind === 'faults') for (const fault of step.faults) this.faults.push(fault)
    if (step.kind === 'plan') {
      runtime.load(step.delta)
      this.settleFrame = step.settles === undefined ? undefined : runtime.time + wholeBlocks(step.settles)
    }
    if (step.kind === 'plan' || step.kind === 'events')
      for (const event of step.events) runtime.send({ event })
  }

  /** Does everything whose frame has come. */
  private due(): void {
    const { time } = this.runtime
    if (this.settleFrame !== undefined && this.settleFrame <= time) {
      this.settleFrame = undefined
      for (const step of this.performance.settled(time)) this.take(step)
    }
    // What ends by itself at this frame comes before what is played at it, as it does in the audio thread.
    if ((this.performance.nextFrame ?? Infinity) <= time)
      for (const step of this.performance.flush(time)) this.take(step)
    while ((this.events[this.at]?.frame ?? Infinity) <= time) {
      this.playGroup(time)
      for (const step of this.performance.flush(time)) this.take(step)
    }
  }

  /** What is given at one time is taken together. */
  private playGroup(time: number): void {
    const { t } = this.events[this.at]!.event
    for (let next = this.events[this.at]; next?.event.t === t; next = this.events[this.at]) {
      const fault = this.performance.play(next.event, time)
      if (fault) this.faults.push(fault)
      this.at += 1
    }
  }

  /** Frames until something is due again. */
  private ahead(): number {
    const next = Math.min(
      this.events[this.at]?.frame ?? Infinity,
      this.settleFrame ?? Infinity,
      this.performance.nextFrame ?? Infinity,
    )
    return next - this.runtime.time
  }

  /** Renders frames, as `Runtime.process` does; `each` is called after every piece. */
  process(
    left: Float32Array,
    right: Float32Array,
    frames: number,
    inputs?: Heard,
    each?: (done: number, length: number) => void,
  ): void {
    for (let done = 0; done < frames;) {
      this.due()
      const length = Math.min(frames - done, this.ahead())
      const heard = inputs && { ...inputs, offset: inputs.offset + done }
      this.runtime.process(left, right, done, length, heard, each)
      done += length
    }
  }
}
