/** What the audio side is told of a plan besides what stands in memory: notes, inputs, outputs, what silence clears. */
import { CATALOGUE } from '../catalogue.ts'
import type { Plan, PlanModule } from '../compile/plan.ts'
import type { ModuleDescription } from '../describe/types.ts'
import type { NoteSource } from '../notes/source.ts'
import type { Delta } from './delta.ts'
import { type Keeping, memoryKey } from './keeping.ts'

type ParamAddress = (key: string) => number | undefined

export const hasRole =
  (role: ModuleDescription['role']) =>
  ({ type }: PlanModule): boolean =>
    CATALOGUE.get(type)!.description.role === role

const noteSource = (
  keeping: Keeping,
  params: ParamAddress,
  module: PlanModule,
  instance: number,
): NoteSource => {
  const { slots } = CATALOGUE.get(module.type)!
  const value = (name: string): number => params(`${module.id}.${name}`)!
  const choice = (name: string): number => instance + slots.settings.get(name)!
  const setting = (name: string): number =>
    module.settings.find(([slot]) => slot === slots.settings.get(name))![1]
  return {
    id: module.id,
    voices: module.voices,
    aux: keeping.blockOf(module),
    seed: module.seed,
    channel: setting('channel'),
    mpe: setting('expression') === 1,
    values: {
      lowKey: value('lowKey'),
      highKey: value('highKey'),
      lowVelocity: value('lowVelocity'),
      highVelocity: value('highVelocity'),
      velocityCurve: value('velocityCurve'),
    },
    choices: { mode: choice('mode'), priority: choice('priority'), glideWhen: choice('glideWhen') },
  }
}

/** State and further memory of everything but players, sequences and what was recorded. */
const soundingOf = (keeping: Keeping, plan: Plan): Uint32Array => {
  const blocks = plan.modules
    .filter((module) => CATALOGUE.get(module.type)!.description.family !== 'playing')
    .flatMap((module) => {
      const key = memoryKey(module),
        further = CATALOGUE.get(module.type)!.description.keepsRecording ? undefined : keeping.at(`a:${key}`)
      return [keeping.at(key), further].flatMap((kept) =>
        kept ? [kept.block.address, kept.bytesPerGroup * kept.groups] : [],
      )
    })
  return Uint32Array.from(blocks)
}

const pairsOf = (plan: Plan): number[] => {
  const pairs = plan.modules.filter(hasRole('output')).map(({ type, settings }) => {
    const slot = CATALOGUE.get(type)!.slots.settings.get('pair')!
    return settings.find(([at]) => at === slot)![1] - 1
  })
  return [...new Set([0, ...pairs])].sort()
}

export const toldOf = (
  plan: Plan,
  keeping: Keeping,
  instances: readonly number[],
  params: ParamAddress,
): Pick<Delta, 'sounding' | 'notes' | 'inputs' | 'outputPairs'> => ({
  sounding: soundingOf(keeping, plan),
  notes: plan.modules.flatMap((module, index) =>
    hasRole('notes')(module) ? [noteSource(keeping, params, module, instances[index]!)] : [],
  ),
  inputs: plan.modules.filter(hasRole('input')).map((module) => keeping.blockOf(module)),
  outputPairs: pairsOf(plan),
})
