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
export const everyModule = (patch: Pick<Patch, 'modules'>, place = 'modules'): Placed[] =>
  patch.modules.flatMap((module, index) => {
    const here = { module, place: `${place}[${index}]` }
    const inside = module.inside?.modules
    return Array.isArray(inside)
      ? [here, ...everyModule({ modules: inside }, `${here.place}.inside.modules`)]
      : [here]
  })

/** Every cable with its place in the file, groups opened. */
export const everyCable = (patch: Pick<Patch, 'modules' | 'cables'>): PlacedCable[] => [
  ...(patch.cables ?? []).map((cable, index) => ({ cable, place: `cables[${index}]` })),
  ...everyModule(patch).flatMap(({ module, place }) =>
    (module.inside?.cables ?? []).map((cable, index) => ({
      cable,
      place: `${place}.inside.cables[${index}]`,
    })),
  ),
]

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
