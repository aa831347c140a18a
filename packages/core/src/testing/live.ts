import type { Draft } from 'immer'
import { Layout } from '../engine/layout.ts'
import { Planner, type Step } from '../engine/planner.ts'
import { Runtime } from '../engine/runtime.ts'
import { edit } from '../patch/document.ts'
import { withCableIds } from '../patch/edits.ts'
import type { Patch } from '../patch/types.ts'
import { Performance } from '../perform/performance.ts'
import type { Untimed } from '../perform/recorder.ts'
import type { PlayerEvent } from '../notes/events.ts'
import { testKernels } from './kernels.ts'

/** Frames after which a plan that fades is settled: as offline, but on the blocks of the audio thread. */

/** The live engine without a browser: what is played arrives between blocks, plans are staged block by block. */
export class Live {
  readonly runtime: Runtime
  readonly layout: Layout
  readonly planner: Planner
  readonly performance: Performance
  readonly out: number[] = []
  private settleAt = Infinity
  private swaps = 0
  /** `stepBytes`: what is staged of a plan in one block; a large plan may take several. */
  constructor(
    public patch: Patch,
    options: { readonly stepBytes?: number; readonly kernels?: WebAssembly.Module } = {},
  ) {
    this.runtime = new Runtime(options.kernels ?? testKernels(), 48000, options)
    this.layout = new Layout(this.runtime.facts, 48000)
    this.planner = new Planner(this.layout, 48000)
    this.patch = patch = withCableIds(patch)
    this.performance = new Performance(patch, this.planner, 48000)
    const step = this.performance.begin()
    if (step.kind !== 'plan') throw new Error('the patch cannot be played')
    // The first plan stands before the first block, as where an engine is made anew.
    this.runtime.load(step.delta)
  }
  take(step: Step): void {
    if (step.kind === 'faults') throw new Error(step.faults[0]!.message)
    if (step.kind === 'plan') {
      this.runtime.send(step.delta)
      const { settles } = step
      this.swaps += 1
      const swap = this.swaps
      this.settleAt = Infinity
      this.mark((frame) => {
        if (settles !== undefined && swap === this.swaps)
          this.settleAt = frame + 128 * Math.ceil(settles / 128)
      })
    }
    if (step.kind === 'plan' || step.kind === 'events')
      for (const event of step.events) this.runtime.send({ event })
  }
  private mark(taken: (frame: number) => void): void {
    this.runtime.send({ mark: { taken } })
  }
  private takeAll(steps: readonly Step[]): void {
    for (const step of steps) this.take(step)
    const stamp = this.performance.recorder?.batch()
    if (stamp) this.mark(stamp)
  }
  change(recipe: (draft: Draft<Patch>) => void): void {
    const result = edit(this.patch, 'edit', recipe)
    if (!result.ok) throw new Error(result.faults.map((fault) => `${fault.place}: ${fault.message}`).join())
    this.patch = result.patch
    this.takeAll(this.performance.edit(this.patch, this.runtime.time))
  }
  /** Plays events at once, all at one time. */
  play(...events: readonly Untimed[]): void {
    for (const event of events) {
      const fault = this.performance.play({ t: 0, ...event } as PlayerEvent, this.runtime.time)
      if (fault) throw new Error(`${fault.place}: ${fault.message}`)
    }
    this.takeAll(this.performance.flush(this.runtime.time))
  }
  run(seconds: number): void {
    const left = new Float32Array(128),
      right = new Float32Array(128)
    for (let n = 0; n < Math.round((seconds * 48000) / 128); n += 1) {
      this.runtime.process(left, right, 0, 128)
      for (const x of left) this.out.push(x)
      const { time } = this.runtime
      if (time >= this.settleAt) {
        this.settleAt = Infinity
        this.takeAll(this.performance.settled(time))
      }
      if ((this.performance.nextFrame ?? Infinity) <= time) this.takeAll(this.performance.flush(time))
    }
  }
}
