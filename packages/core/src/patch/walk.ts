import type { Cable, Patch, PatchModule } from './types.ts'

export interface Placed {
  readonly module: PatchModule
  readonly place: string
}
export interface PlacedCable {
  readonly cable: Cable
  readonly place: string
}

/** Every module with its place in the file, groups opened. */
export const everyModule = (patch: Pick<Patch, 'modules'>): Placed[] => {
  const found: Placed[] = []
  const open = (modules: readonly PatchModule[], place: string): void => {
    modules.forEach((module, index) => {
      const here = `${place}[${index}]`
      found.push({ module, place: here })
      const inside = module.inside?.modules
      if (Array.isArray(inside)) open(inside, `${here}.inside.modules`)
    })
  }
  open(patch.modules, 'modules')
  return found
}

/** Every cable with its place in the file, groups opened. */
export const everyCable = (
  patch: Pick<Patch, 'modules' | 'cables'>,
  modules: readonly Placed[] = everyModule(patch),
): PlacedCable[] => {
  const found: PlacedCable[] = (patch.cables ?? []).map((cable, index) => ({
    cable,
    place: `cables[${index}]`,
  }))
  for (const { module, place } of modules)
    module.inside?.cables?.forEach((cable, index) => {
      found.push({ cable, place: `${place}.inside.cables[${index}]` })
    })
  return found
}

/** Name of a group's port: the `name` of its portin or portout, or its id. */
export const portName = (module: PatchModule): string => {
  const name = module.params?.['name']
  return typeof name === 'string' ? name : module.id
}

/** `osc.saw` → ['osc', 'saw']; undefined when it is no such thing. */
export const splitTarget = (target: string): readonly [string, string] | undefined => {
  const dot = target.indexOf('.')
  return dot > 0 && dot < target.length - 1 ? [target.slice(0, dot), target.slice(dot + 1)] : undefined
}

/** `osc.saw` with what it names under its new name, where it has one. */
export const renamedEnd = (end: string, names: ReadonlyMap<string, string>): string => {
  const dot = end.indexOf('.'),
    name = names.get(end.slice(0, dot))
  return name === undefined ? end : `${name}${end.slice(dot)}`
}

/** Both ends of a cable, taken apart: '' where one is no such thing. */
export interface CableEnds {
  readonly fromModule: string
  readonly fromPort: string
  readonly toModule: string
  readonly toPort: string
}

const ends = new WeakMap<Cable, CableEnds>()

/** The ends of a cable of a document, taken apart once. */
export const endsOf = (cable: Cable): CableEnds => {
  let found = ends.get(cable)
  if (!found) {
    const [fromModule = '', fromPort = ''] = splitTarget(cable.from) ?? [],
      [toModule = '', toPort = ''] = splitTarget(cable.to) ?? []
    found = { fromModule, fromPort, toModule, toPort }
    ends.set(cable, found)
  }
  return found
}
