import type { Draft } from 'immer'
import { Layout } from '../engine/layout.ts'
import { Planner, type Step } from '../engine/planner.ts'
import { Runtime } from '../engine/runtime.ts'
import { edit } from '../patch/document.ts'
import { withCableIds } from '../patch/edits.ts'
import type { Patch } from '../patch/types.ts'
import { testKernels } from './kernels.ts'

/** The live engine without a browser: planner and runtime, plans staged block by block as in the worklet. */
export class Live {
  readonly runtime = new Runtime(testKernels(), 48000)
  readonly layout = new Layout(this.runtime.facts, 48000)
  readonly planner = new Planner(this.layout, 48000, (x, c) => this.runtime.curve(x, c))
  readonly out: number[] = []
  private settleAt = Infinity
  constructor(public patch: Patch) {
    this.patch = patch = withCableIds(patch)
    this.take(this.planner.next(patch))
  }
  take(step: Step): void {
    if (step.kind === 'faults') throw new Error(step.faults[0]!.message)
    if (step.kind === 'plan') {
      this.runtime.send(step.delta)
      this.settleAt = step.settles ? this.runtime.time + 1000 : Infinity
    }
    if (step.kind === 'plan' || step.kind === 'events')
      for (const event of step.events) this.runtime.send({ event })
  }
  change(recipe: (draft: Draft<Patch>) => void): void {
    const result = edit(this.patch, 'edit', recipe)
    if (!result.ok) throw new Error(result.faults.map((fault) => `${fault.place}: ${fault.message}`).join())
    this.patch = result.patch
    this.take(this.planner.next(this.patch))
  }
  run(seconds: number): void {
    const left = new Float32Array(128),
      right = new Float32Array(128)
    for (let n = 0; n < (seconds * 48000) / 128; n += 1) {
      this.runtime.process(left, right, 0, 128)
      this.out.push(...left)
      if (this.runtime.time >= this.settleAt && !this.runtime.isStaging) {
        this.settleAt = Infinity
        this.take(this.planner.settle())
      }
    }
  }
}
