/** What lies over a patch's set values: moves of the moment, settings of a render, what macros give. */
import type { Cable, Patch, PatchModule, ParamValue } from './types.ts'
import { patchIndex } from './index.ts'
import { splitTarget } from './walk.ts'

/** Values that differ from what a patch holds. */
export interface Overlay {
  /** By target: `id.param`, `cable:ID`, `macro:ID`. */
  readonly values?: ReadonlyMap<string, ParamValue>
  /** All data of a module, by its id. */
  readonly data?: ReadonlyMap<string, Readonly<Record<string, unknown>>>
  readonly bypass?: ReadonlyMap<string, boolean>
}

interface Inside {
  readonly modules: readonly PatchModule[]
  readonly cables: readonly Cable[]
}

/** The same list where nothing in it changes, so that what did not change keeps its identity. */
const mapped = <T>(list: readonly T[], of: (item: T) => T): readonly T[] => {
  let changed: T[] | undefined
  list.forEach((item, index) => {
    const now = of(item)
    if (now !== item) (changed ??= [...list])[index] = now
  })
  return changed ?? list
}

/** The patch with the overlay's values in place of its own, groups opened; the same patch where there are none. */
export const overlaid = (patch: Patch, { values, data, bypass }: Overlay): Patch => {
  const params = new Map<string, Map<string, ParamValue>>()
  for (const [target, value] of values ?? []) {
    const [id, name] = target.includes(':') ? [] : (splitTarget(target) ?? [])
    if (id === undefined || name === undefined) continue
    const known = params.get(id)
    if (known) known.set(name, value)
    else params.set(id, new Map([[name, value]]))
  }
  const { parent } = patchIndex(patch)
  const touched = new Set([...params.keys(), ...(data?.keys() ?? []), ...(bypass?.keys() ?? [])])
  for (const id of touched) {
    const group = parent.get(id)
    if (group) touched.add(group.id)
  }
  const holdsCables = [...(values?.keys() ?? [])].some((target) => target.startsWith('cable:'))
  const moduleOf = (module: PatchModule): PatchModule => {
    let now = module
    if (touched.has(module.id)) {
      const set = params.get(module.id),
        list = data?.get(module.id),
        passes = bypass?.get(module.id)
      if (set) now = { ...now, params: { ...module.params, ...Object.fromEntries(set) } }
      if (list) now = { ...now, data: list }
      if (passes !== undefined) now = { ...now, bypass: passes }
    }
    if (!module.inside || !(touched.has(module.id) || holdsCables)) return now
    const inside = insideOf(module.inside)
    return inside === module.inside ? now : { ...now, inside: { ...module.inside, ...inside } }
  }
  const cableOf = (cable: Cable): Cable => {
    const amount = cable.id === undefined ? undefined : values?.get(`cable:${cable.id}`)
    return amount === undefined || amount === (cable.amount ?? 1)
      ? cable
      : { ...cable, amount: Number(amount) }
  }
  const insideOf = <T extends Inside>(inside: T): T => {
    const modules = mapped(inside.modules, moduleOf),
      cables = holdsCables ? mapped(inside.cables ?? [], cableOf) : inside.cables
    return modules === inside.modules && cables === inside.cables ? inside : { ...inside, modules, cables }
  }
  const whole = insideOf(patch)
  const macros =
    patch.macros &&
    mapped(patch.macros, (macro) => {
      const value = values?.get(`macro:${macro.id}`)
      return value === undefined || value === macro.value ? macro : { ...macro, value: Number(value) }
    })
  return macros === patch.macros ? whole : { ...whole, macros: macros! }
}
