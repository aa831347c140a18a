/** Steps that are modules of the bench: their settings stand in `params`. */
import { CATALOGUE } from '../../catalogue.ts'
import { kindOf } from '../../describe/kinds/index.ts'
import type { Patch } from '../../patch/types.ts'
import { described } from '../../units/described.ts'
import { type FieldFault, sameShape, type StepKind } from '../step.ts'
import type { Tape } from '../tape.ts'
import { through } from '../through.ts'

const asParams = (value: unknown): Readonly<Record<string, never>> | undefined =>
  value === undefined
    ? {}
    : typeof value === 'object' && value !== null && !Array.isArray(value)
      ? (value as Record<string, never>)
      : undefined

/** A mono tape stays one: both sides are the same. */
const asNarrow = (tape: Tape, channels: number): Tape =>
  tape.channels === channels
    ? tape
    : {
        ...tape,
        channels,
        read: async (from, to) => (await tape.read(from, to)).slice(0, channels),
      }

const moduleStep = (kind: string, type: string): StepKind => ({
  kind,
  faults: (step, { channels }) => {
    const params = asParams(step['params'])
    if (!params) return [['params', `expected settings by name, found ${described(step['params'])}`]]
    const known = CATALOGUE.get(type)!.params
    const faults = Object.entries(params).flatMap(([name, value]): FieldFault[] => {
      const param = known.get(name)
      const fault = param ? kindOf(param).fault(param, value) : `${type} has no such parameter`
      return fault === undefined ? [] : [[`params.${name}`, fault]]
    })
    return channels > 2
      ? [...faults, ['kind', `${channels} channels are more than the engine takes in`]]
      : faults
  },
  out: sameShape,
  work: (_step, { frames }) => frames,
  run: async function* run(step, tape, tools) {
    const patch: Patch = {
      format: 'ypsilon/patch',
      version: 1,
      name: kind,
      modules: [
        { id: 'in', type: 'input' },
        { id: 'm', type, params: asParams(step['params'])! },
        { id: 'out', type: 'output' },
      ],
      cables: [
        { id: 'a', from: 'in.out', to: 'm.in' },
        { id: 'b', from: 'm.out', to: 'out.in' },
      ],
    }
    const { frames } = tape
    const made = yield* through(tape, { patch, assets: new Map() }, tools, { frames, port: 'm.out' })
    return asNarrow(made, tape.channels)
  },
})

export const equaliser = moduleStep('equaliser', 'equalizer')
export const transient = moduleStep('transient', 'transient')
