import { described } from '../../units/described.ts'
import { boundFaults, type ChainStep, numberOf, type StepKind } from '../step.ts'
import type { Tape } from '../tape.ts'
import { through } from '../through.ts'

const LONGEST_TAIL = 120
const framesOf = (
  step: ChainStep,
  { rate, frames }: { readonly rate: number; readonly frames: number },
): number => frames + Math.round(numberOf(step, 'tail', 0) * rate)

/** Dry and wet: exactly either at the ends. */
const blended = (dry: Tape, wet: Tape, mix: number): Tape => ({
  ...wet,
  read: async (from, to) => {
    if (mix >= 1) return wet.read(from, to)
    const [a, b] = await Promise.all([dry.read(from, to), wet.read(from, to)])
    return b.map((side, n) => {
      const own = a[n] ?? a[0]!
      return mix <= 0 ? own : side.map((y, i) => own[i]! + mix * (y - own[i]!))
    })
  },
})

/** Any patch that has an input: what comes in is played into it, and its tail heard. */
export const patch: StepKind = {
  kind: 'patch',
  faults: (step, { channels }, lookup) => {
    const faults = [
      ...boundFaults(step, 'mix', 0, 1),
      ...boundFaults(step, 'tail', 0, LONGEST_TAIL, { unit: ' s' }),
    ]
    const name = step['patch']
    if (typeof name !== 'string') return [...faults, ['patch', `expected a patch, found ${described(name)}`]]
    const found = lookup.patch(name)
    if (!found) return [...faults, ['patch', `${described(name)} is not here`]]
    if (!found.patch.modules.some(({ type }) => type === 'input'))
      return [...faults, ['patch', `${described(found.patch.name)} takes no sound in: it has no input`]]
    return channels > 2
      ? [...faults, ['patch', `${channels} channels are more than the engine takes in`]]
      : faults
  },
  out: (step, shape) => ({ ...shape, channels: 2, frames: framesOf(step, shape) }),
  work: (step, shape) => framesOf(step, shape),
  run: async function* run(step, tape, tools) {
    const frames = framesOf(step, tape)
    const wet = yield* through(tape, tools.patch(String(step['patch']))!, tools, { frames })
    return blended(tape, wet, numberOf(step, 'mix', 1))
  },
}
