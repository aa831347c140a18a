/** A patch of which one signal alone is heard: to listen to a place in it. The patch itself stays as it is. */
import { CATALOGUE } from '../catalogue.ts'
import { descriptionOf, structureEntry } from './groups.ts'
import { patchIndex } from './index.ts'
import { mainOutput } from './edits.ts'
import type { Cable, Patch, PatchModule } from './types.ts'
import { endsOf, splitTarget } from './walk.ts'

/** A signal, and how much of it. */
export interface Heard {
  /** `osc.saw` */
  readonly from: string
  readonly amount: number
}

/** Nothing is louder than this while one listens: what is taken out of its place may be. */
const SAFE_DB = -12

const isOutput = ({ type }: PatchModule): boolean => CATALOGUE.get(type)?.description.role === 'output'

/** What comes to the sound input of a module; nothing where it has none or nothing comes. */
export const heardBefore = (patch: Patch, id: string): readonly Heard[] => {
  const module = patchIndex(patch).module.get(id),
    input = module && descriptionOf(module)?.inputs.find(({ kind }) => kind === 'audio')
  if (!input) return []
  return patchIndex(patch)
    .cables.filter(({ cable }) => cable.to === `${id}.${input.name}` && cable.muted !== true)
    .map(({ cable: { from, amount = 1 } }) => ({ from, amount }))
}

/** What leaves a module by its main output. */
export const heardAfter = (patch: Patch, id: string): readonly Heard[] => {
  const module = patchIndex(patch).module.get(id),
    output = module && mainOutput(module)
  return output ? [{ from: `${id}.${output.name}`, amount: 1 }] : []
}

const isThere = (patch: Patch, { from }: Heard): boolean => {
  const [id = '', port = ''] = splitTarget(from) ?? []
  const module = patchIndex(patch).module.get(id)
  return module !== undefined && (descriptionOf(module)?.outputs.some(({ name }) => name === port) ?? false)
}

/** The same patch with these signals alone at its output, no louder than is safe. What is not there any more is not heard. */
export const listeningTo = (patch: Patch, heard: readonly Heard[]): Patch => {
  const outputs = new Set(
    patchIndex(patch).modules.flatMap(({ module }) => (isOutput(module) ? [module.id] : [])),
  )
  const kept = (cables: readonly Cable[]): Cable[] =>
    cables.filter((cable) => !outputs.has(endsOf(cable).toModule))
  const within = (modules: readonly PatchModule[]): PatchModule[] =>
    modules.map((module) =>
      module.inside && structureEntry(module.type)
        ? {
            ...module,
            inside: {
              ...module.inside,
              modules: within(module.inside.modules),
              cables: kept(module.inside.cables),
            },
          }
        : module,
    )
  const out: PatchModule = { id: '~listen', type: 'output', params: { level: SAFE_DB } }
  const added = heard
    .filter((one) => isThere(patch, one))
    .map(({ from, amount }, n): Cable => ({ id: `~listen${n}`, from, to: '~listen.in', amount }))
  return { ...patch, modules: [...within(patch.modules), out], cables: [...kept(patch.cables), ...added] }
}
