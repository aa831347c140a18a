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

/** What lies over the values of each module, by its id. */
const paramsOf = (values: Overlay['values']): Map<string, Map<string, ParamValue>> => {
  const params = new Map<string, Map<string, ParamValue>>()
  for (const [target, value] of values ?? []) {
    const [id, name] = target.includes(':') ? [] : (splitTarget(target) ?? [])
    if (id === undefined || name === undefined) continue
    const known = params.get(id)
    if (known) known.set(name, value)
    else params.set(id, new Map([[name, value]]))
  }
  return params
}

/** Lays an overlay over the modules and cables of one patch. */
class Overlaying {
  private readonly params: ReadonlyMap<string, ReadonlyMap<string, ParamValue>>
  /** Modules that differ, and the groups they stand in. */
  private readonly touched: ReadonlySet<string>
  private readonly holdsCables: boolean

  constructor(
    patch: Patch,
    private readonly overlay: Overlay,
  ) {
    const { values, data, bypass } = overlay
    this.params = paramsOf(values)
    const { parent } = patchIndex(patch)
    // A set takes in what is added while it is walked.
    const touched = new Set([...this.params.keys(), ...(data?.keys() ?? []), ...(bypass?.keys() ?? [])])
    for (const id of touched) {
      const group = parent.get(id)
      if (group) touched.add(group.id)
    }
    this.touched = touched
    this.holdsCables = [...(values?.keys() ?? [])].some((target) => target.startsWith('cable:'))
  }

  inside<T extends Inside>(inside: T): T {
    const modules = mapped(inside.modules, (module) => this.module(module)),
      cables = this.holdsCables ? mapped(inside.cables ?? [], (cable) => this.cable(cable)) : inside.cables
    return modules === inside.modules && cables === inside.cables ? inside : { ...inside, modules, cables }
  }

  /** A module's own values, data and bypass. */
  private own(module: PatchModule): PatchModule {
    const { data, bypass } = this.overlay,
      set = this.params.get(module.id),
      list = data?.get(module.id),
      passes = bypass?.get(module.id)
    let now = module
    if (set) now = { ...now, params: { ...module.params, ...Object.fromEntries(set) } }
    if (list) now = { ...now, data: list }
    return passes === undefined ? now : { ...now, bypass: passes }
  }

  private module(module: PatchModule): PatchModule {
    const isTouched = this.touched.has(module.id),
      now = isTouched ? this.own(module) : module
    if (!module.inside || !(isTouched || this.holdsCables)) return now
    const inside = this.inside(module.inside)
    return inside === module.inside ? now : { ...now, inside: { ...module.inside, ...inside } }
  }

  private cable(cable: Cable): Cable {
    const amount = cable.id === undefined ? undefined : this.overlay.values?.get(`cable:${cable.id}`)
    return amount === undefined || amount === (cable.amount ?? 1)
      ? cable
      : { ...cable, amount: Number(amount) }
  }
}

/** The patch with the overlay's values in place of its own, groups opened; the same patch where there are none. */
export const overlaid = (patch: Patch, overlay: Overlay): Patch => {
  const whole = new Overlaying(patch, overlay).inside(patch)
  const macros =
    patch.macros &&
    mapped(patch.macros, (macro) => {
      const value = overlay.values?.get(`macro:${macro.id}`)
      return value === undefined || value === macro.value ? macro : { ...macro, value: Number(value) }
    })
  return macros === patch.macros ? whole : { ...whole, macros: macros! }
}
