/**
 * A chain of steps over a recording, which itself never changes: planned first, with everything that is wrong by its
 * place, then run. Whatever is read at once is a piece; what has to be made from its beginning goes through a spool.
 */
import type { Fault, Result } from '../patch/types.ts'
import { described } from '../units/described.ts'
import { cut } from './kinds/cut.ts'
import { dc } from './kinds/dc.ts'
import { fade } from './kinds/fade.ts'
import { gain } from './kinds/gain.ts'
import { equaliser, transient } from './kinds/module.ts'
import { normalise } from './kinds/normalise.ts'
import { patch } from './kinds/patch.ts'
import { reverse } from './kinds/reverse.ts'
import { speed } from './kinds/speed.ts'
import type { ChainStep, Lookup, StepKind, Tools } from './step.ts'
import type { Tape, TapeShape } from './tape.ts'

export const STEP_KINDS: ReadonlyMap<string, StepKind> = new Map(
  [cut, fade, gain, normalise, dc, reverse, speed, equaliser, transient, patch].map((kind) => [
    kind.kind,
    kind,
  ]),
)
const MOST_STEPS = 64

interface PlannedStep {
  readonly step: ChainStep
  readonly kind: StepKind
  /** What comes in. */
  readonly shape: TapeShape
}

export interface ChainPlan {
  readonly steps: readonly PlannedStep[]
  /** What comes out. */
  readonly shape: TapeShape
  /** Frames that are read or made on the way. */
  readonly work: number
}

const isStep = (value: unknown): value is ChainStep =>
  typeof value === 'object' && value !== null && !Array.isArray(value) && 'kind' in value

/** What a chain makes of a recording of some shape; faults name steps and fields. */
export const planChain = (
  chain: unknown,
  shape: TapeShape,
  lookup: Lookup = { patch: () => undefined },
  place = 'chain',
): Result<ChainPlan> => {
  if (!Array.isArray(chain))
    return { ok: false, faults: [{ place, message: `expected a list of steps, found ${described(chain)}` }] }
  if (chain.length > MOST_STEPS)
    return { ok: false, faults: [{ place, message: `${chain.length} steps are more than ${MOST_STEPS}` }] }
  const steps: PlannedStep[] = [],
    faults: Fault[] = []
  const { rate, channels, frames } = shape
  let now: TapeShape = { rate, channels, frames },
    work = 0
  for (const [n, step] of (chain as unknown[]).entries()) {
    const at = `${place}.${n}`
    const kind = isStep(step) ? STEP_KINDS.get(step.kind) : undefined
    if (!isStep(step) || !kind) {
      const message = isStep(step)
        ? `${described(step.kind)} is no kind of step; there are ${[...STEP_KINDS.keys()].join(', ')}`
        : `expected a step, found ${described(step)}`
      faults.push({ place: isStep(step) ? `${at}.kind` : at, message })
      continue
    }
    if (step.on === false) continue
    const wrong = kind.faults(step, now, lookup)
    for (const [field, message] of wrong) faults.push({ place: `${at}.${field}`, message })
    // What comes after is only known where this is right.
    if (wrong.length > 0) break
    steps.push({ step, kind, shape: now })
    work += kind.work(step, now)
    now = kind.out(step, now)
  }
  return faults.length > 0
    ? { ok: false, faults }
    : { ok: true, value: { steps, shape: now, work }, warnings: [] }
}

/** Where a frame of the recording is in what comes out; undefined where it is not there any more. */
export const frameAfter = ({ steps }: ChainPlan, frame: number): number | undefined => {
  let now: number | undefined = frame
  for (const { step, kind, shape } of steps)
    if (now !== undefined && kind.goes) now = kind.goes(step, shape, now)
  return now
}

/** Runs a plan over the recording it was made for; tells its share that is done, 0…1. */
export async function* runChain(plan: ChainPlan, tape: Tape, tools: Tools): AsyncGenerator<number, Tape> {
  let now = tape,
    before = 0
  for (const { step, kind, shape } of plan.steps) {
    const running = kind.run(step, now, tools)
    let next = await running.next()
    while (!next.done) {
      yield plan.work > 0 ? (before + next.value) / plan.work : 1
      next = await running.next()
    }
    now = next.value
    before += kind.work(step, shape)
  }
  return now
}
