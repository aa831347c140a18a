/** What a patch will cost while everything in it plays, from what its modules cost when they were measured. */
import { CATALOGUE } from '../catalogue.ts'
import type { FlatPatch } from '../compile/flatten.ts'
import type { Plan, PlanOp } from '../compile/plan.ts'
import { contextOf } from '../compile/shapes.ts'

/** Nanoseconds a sample of what every patch has: the guard, the fades, the events. */
const ALWAYS = 14
/** Of an adapter: for each cable and group of four lanes that it fits to another shape or scale. */
const PER_TERM = 1.1
/** Of finding everything once more, at every call: what short blocks inside loops pay for. */
const PER_CALL = 45
const BLOCK = 128

const groupsOf = (voices: number, sides: number): number => Math.ceil((voices * sides) / 4)

/** Nanoseconds a sample of an op outside a loop, and how many calls it is. */
const costOf = (
  op: PlanOp,
  plan: Plan,
  weights: readonly number[],
): { readonly perSample: number; readonly calls: number } => {
  if (op.kind === 'adapter') {
    const adapter = plan.adapters[op.adapter]!
    const perSample = adapter.terms.reduce(
      (sum, term) =>
        sum +
        PER_TERM *
          Math.max(groupsOf(adapter.voices, adapter.sides), groupsOf(term.sourceVoices, term.sourceSides)),
      0,
    )
    return { perSample, calls: 1 }
  }
  if (op.kind === 'module') {
    const module = plan.modules[op.module]!
    const { description } = CATALOGUE.get(module.type)!
    const [one, four, further] = description.cost ?? [0, 0, 0],
      lanes = module.voices * module.sides
    const first = one + ((four - one) * (Math.min(lanes, 4) - 1)) / 3
    // Stages share what the whole was measured at.
    const share = 1 / (description.stages?.length ?? 1)
    return {
      perSample:
        weights[op.module]! * share * (first + further * (groupsOf(module.voices, module.sides) - 1)),
      calls: 1,
    }
  }
  return op.body.reduce(
    (sum, inner) => {
      const { perSample, calls } = costOf(inner, plan, weights)
      return { perSample: sum.perSample + perSample, calls: sum.calls + calls }
    },
    { perSample: 0, calls: 0 },
  )
}

/** How much more than usual each module of a plan costs at its settings. */
const weightsOf = (plan: Plan, flat: FlatPatch): number[] => {
  return plan.modules.map((planned) => {
    const module = flat.byId.get(planned.id)
    const costlier = module && CATALOGUE.get(module.type)!.description.costlier
    return costlier
      ? costlier({
          ...contextOf(module, CATALOGUE, 48000),
          isCabled: (name) => flat.feeds.has(`${module.id}.${name}`),
          table: planned.table,
        })
      : 1
  })
}

/**
 * Share of one core of the machine that the costs were measured on (docs/performance.md). A loop is counted in blocks of
 * one frame where it has no delay, in whole ones where it has.
 */
export const estimatedLoad = (plan: Plan, flat: FlatPatch): number => {
  const weights = weightsOf(plan, flat)
  let perSample = ALWAYS
  for (const op of plan.ops) {
    const cost = costOf(op, plan, weights)
    const block = op.kind === 'loop' && op.probes.length === 0 ? 1 : BLOCK
    perSample += cost.perSample + (cost.calls * PER_CALL) / block
  }
  return perSample * 48000e-9
}
