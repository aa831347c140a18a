/** What a patch holds, found by name: made once for a patch and used wherever something is looked up. */
import type { Cable, Macro, Patch, PatchModule } from './types.ts'
import { everyCable, everyModule, type Placed, type PlacedCable, portName } from './walk.ts'

export interface PatchIndex {
  /** In file order, groups opened. */
  readonly modules: readonly Placed[]
  readonly cables: readonly PlacedCable[]
  /** Where an id stands twice, the first one. */
  readonly module: ReadonlyMap<string, PatchModule>
  readonly cable: ReadonlyMap<string, Cable>
  readonly macro: ReadonlyMap<string, Macro>
  /** Group that each module inside one stands in. */
  readonly parent: ReadonlyMap<string, PatchModule>
}

const known = new WeakMap<Patch, PatchIndex>()

/** The index of a patch. Patches are immutable: it holds for as long as the object does. */
export const patchIndex = (patch: Patch): PatchIndex => {
  let index = known.get(patch)
  if (!index) {
    index = makeIndex(patch)
    known.set(patch, index)
  }
  return index
}

const firstById = <T>(items: readonly T[], idOf: (item: T) => string | undefined): Map<string, T> => {
  const found = new Map<string, T>()
  for (const item of items) {
    const id = idOf(item)
    if (id !== undefined && !found.has(id)) found.set(id, item)
  }
  return found
}

const makeIndex = (patch: Patch): PatchIndex => {
  const modules = everyModule(patch),
    cables = everyCable(patch, modules)
  const parent = new Map<string, PatchModule>()
  for (const { module } of modules)
    for (const inner of module.inside?.modules ?? []) parent.set(inner.id, module)
  return {
    modules,
    cables,
    module: firstById(
      modules.map(({ module }) => module),
      ({ id }) => id,
    ),
    cable: firstById(
      cables.map(({ cable }) => cable),
      ({ id }) => id,
    ),
    macro: firstById(patch.macros ?? [], ({ id }) => id),
    parent,
  }
}

const ports = new WeakMap<
  PatchModule,
  { readonly in: Map<string, string>; readonly out: Map<string, string> }
>()

/** Ports of a group by name: id of the portin or portout inside that each is. */
export const groupPorts = (
  group: PatchModule,
): { readonly in: ReadonlyMap<string, string>; readonly out: ReadonlyMap<string, string> } => {
  let found = ports.get(group)
  if (!found) {
    found = { in: new Map(), out: new Map() }
    for (const inner of group.inside?.modules ?? []) {
      const side = inner.type === 'portin' ? found.in : inner.type === 'portout' ? found.out : undefined
      if (side && !side.has(portName(inner))) side.set(portName(inner), inner.id)
    }
    ports.set(group, found)
  }
  return found
}
