/** A patch without groups, buses, bypassed and unknown modules, and muted cables. */
import { type Catalogue, partOf } from '../catalogue.ts'
import { addsVoices } from '../patch/groups.ts'
import { patchIndex, type PatchIndex } from '../patch/index.ts'
import type { Patch, PatchModule } from '../patch/types.ts'
import { endsOf, portName } from '../patch/walk.ts'
import { Amendable } from './amend.ts'
import { type Feed, Gathering, merged } from './gathering.ts'
import { hiddenFormulas } from './hidden.ts'
import { keepersOf } from './keepers.ts'
import { endings, type HeldCable, passagesOf, tailOf } from './passages.ts'

export { type Feed, MOST_FEEDS } from './gathering.ts'
export { macroModule } from './hidden.ts'
export type { HeldCable } from './passages.ts'

/** An input or parameter that something ends on. */
export interface FedInput {
  readonly input: string
  readonly feeds: readonly Feed[]
}

export interface FlatPatch {
  readonly modules: readonly PatchModule[]
  readonly byId: ReadonlyMap<string, PatchModule>
  /** Everything that ends on `module.port`, in file order. */
  readonly feeds: ReadonlyMap<string, readonly Feed[]>
  /** The same by module. */
  readonly fed: ReadonlyMap<string, readonly FedInput[]>
  /** Module that each hidden formula gives a value to: it takes its shape. */
  readonly serves: ReadonlyMap<string, string>
  /** Unit delays put into circles that hold no module, by their hidden ids. */
  readonly held: ReadonlyMap<string, HeldCable>
  /** Modules that are bypassed and play on for their tails, with what would come in: they keep its shape. */
  readonly ringing: ReadonlyMap<string, readonly Feed[]>
  /** Modules that look into another one's memory, with the one that keeps it. */
  readonly keepers: ReadonlyMap<string, string>
  /** Cables whose amount appears in many feeds but is the one to set in none: changing it needs a new plan. */
  readonly shadowed: ReadonlySet<string>
  /** Where more connections meet than can be played; then `feeds` is not complete. */
  readonly overfull?: string
}

const known = new WeakMap<Patch, { readonly flat: FlatPatch; readonly catalogue: Catalogue }>()
/** The last patch of the same modules: an edit of cables goes on from there. */
const latest = new WeakMap<readonly PatchModule[], Amendable>()

/** Once for a patch; costs nothing while playing. */
export const flatten = (patch: Patch, catalogue: Catalogue): FlatPatch => {
  const before = known.get(patch)
  if (before?.catalogue === catalogue) return before.flat
  const now = latest.get(patch.modules)?.next(patch, catalogue) ?? dissolved(patch, catalogue)
  latest.set(patch.modules, now)
  known.set(patch, { flat: now.flat, catalogue })
  return now.flat
}

/** Does a module run, or is it dissolved? */
const runs = (module: PatchModule, catalogue: Catalogue): boolean => {
  const description = catalogue.get(module.type)?.description
  if (description === undefined || description.flattened) return false
  return !module.bypass || !description.bypass || description.bypass.tail === true
}

const apart = new WeakMap<PatchModule, PatchModule>()

/** A module as it runs: in a group that runs per voice, what could be shared by all voices is not. */
const asItRuns = (module: PatchModule, catalogue: Catalogue, { parent }: PatchIndex): PatchModule => {
  let group = parent.get(module.id)
  while (group && (group.params?.['per'] ?? 'own') === 'own') group = parent.get(group.id)
  if (group?.params?.['per'] !== 'voice') return module
  const param = catalogue.get(module.type)?.params.get('per')
  if (param?.kind !== 'choice' || !param.choices.includes('voice')) return module
  let found = apart.get(module)
  if (!found) apart.set(module, (found = { ...module, params: { ...module.params, per: 'voice' } }))
  return found
}

/** Notes what ends on an input, by its key and by its module. */
const note = (
  feeds: Map<string, readonly Feed[]>,
  fed: Map<string, FedInput[]>,
  module: string,
  input: string,
  found: readonly Feed[],
): void => {
  if (found.length === 0) return
  feeds.set(`${module}.${input}`, found)
  const list = fed.get(module)
  if (list) list.push({ input, feeds: found })
  else fed.set(module, [{ input, feeds: found }])
}

const dissolved = (patch: Patch, catalogue: Catalogue): Amendable => {
  const hidden = hiddenFormulas(patch, catalogue),
    index = patchIndex(patch)
  const all = [...index.modules.map(({ module }) => module), ...hidden.modules]
  const ending = endings(hidden.cables, new Map(all.map((module) => [module.id, module])), catalogue, index)
  const { keys, held } = passagesOf(ending)
  const gathering = new Gathering(ending, hidden.serves, held),
    { passed, shadowed } = gathering
  for (const key of keys) passed.set(key, merged(gathering.at(key)))
  const modules = all
    .filter((module) => runs(module, catalogue))
    .map((module) => asItRuns(module, catalogue, index))
  const adding = all.filter((module) => addsVoices(module, index.parent.get(module.id)))
  for (const { id } of adding) modules.push({ id, type: partOf(catalogue, 'sum').description.type })
  for (const id of held.keys()) modules.push({ id, type: partOf(catalogue, 'unitdelay').description.type })
  const byId = new Map(modules.map((module) => [module.id, module]))
  const feeds = new Map<string, readonly Feed[]>(),
    fed = new Map<string, FedInput[]>(),
    ringing = new Map<string, readonly Feed[]>()
  for (const module of modules) {
    const tail = tailOf(module, catalogue)
    if (tail) ringing.set(module.id, gathering.at(`${module.id}.${tail.from}`))
  }
  const isOpen = (module: PatchModule, port: string): boolean =>
    !(ringing.has(module.id) && tailOf(module, catalogue)?.from === port) &&
    catalogue.get(module.type)!.slots.inputs.has(port)
  for (const [key, [first]] of ending) {
    // What is dissolved has keys of its own.
    if (key !== first!.cable.to) continue
    const { toModule, toPort } = endsOf(first!.cable),
      module = byId.get(toModule)
    if (module && isOpen(module, toPort)) note(feeds, fed, toModule, toPort, gathering.at(key))
  }
  for (const port of adding)
    note(feeds, fed, port.id, 'in', gathering.at(`${index.parent.get(port.id)!.id}.${portName(port)}`))
  for (const [id, { key }] of held) note(feeds, fed, id, 'in', passed.get(key) ?? [])
  const keepers = keepersOf(modules, catalogue)
  const flat = { modules, byId, feeds, fed, serves: hidden.serves, held, ringing, keepers, shadowed }
  const { overfull, count } = gathering
  return new Amendable(overfull === undefined ? flat : { ...flat, overfull }, patch, catalogue, count)
}
