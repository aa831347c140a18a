import { CATALOGUE, type Catalogue, type CatalogueEntry } from '../catalogue.ts'
import { paramAt } from '../describe/params.ts'
import { isSignalParam } from '../describe/slots.ts'
import { formulaFaults } from './formulas.ts'
import { structureEntry } from './groups.ts'
import { groupPorts, patchIndex, type PatchIndex } from './index.ts'
import { migrate } from './migrate.ts'
import { ownerWarnings, playingFaults } from './playing.ts'
import { nestingFault, shapeFaults, sizeFaults } from './schema.ts'
import { tuningFor } from './tuning.ts'
import { type Fault, type Patch, type PatchModule, type Result, PATCH_VERSION } from './types.ts'
import { dataFaults, valueFault } from './values.ts'
import { varyWarnings } from './vary.ts'
import { splitTarget } from './walk.ts'
import { append } from '../units/append.ts'

const moduleFaults = (entry: CatalogueEntry, module: PatchModule, place: string): Fault[] => {
  const faults: Fault[] = []
  for (const [name, value] of Object.entries(module.params ?? {})) {
    const param = entry.params.get(name)
    const message = param
      ? valueFault(paramAt(param, module.params), value)
      : `${module.type} has no parameter "${name}" (it has ${[...entry.params.keys()].join(', ') || 'none'})`
    if (message) faults.push({ place: `${place}.params.${name}`, message })
  }
  const known = new Map((entry.description.data ?? []).map((data) => [data.name, data]))
  for (const [name, value] of Object.entries(module.data ?? {})) {
    const data = known.get(name)
    if (data) append(faults, dataFaults(data, value, `${place}.data.${name}`))
  }
  return faults
}

/** What faults of cables are found by: modules by id, and what each type has. */
interface Index {
  readonly modules: ReadonlyMap<string, PatchModule>
  readonly catalogue: Catalogue
}

/** Why a name is no output of a module; undefined when it is one, or when the module is a placeholder. */
const outputFault = ({ modules, catalogue }: Index, target: string): string | undefined => {
  const parts = splitTarget(target)
  if (!parts) return `"${target}" does not name a port (module.port)`
  const module = modules.get(parts[0])
  if (!module) return `there is no module "${parts[0]}"`
  if (module.type === 'group')
    return groupPorts(module).out.has(parts[1])
      ? undefined
      : `the group "${parts[0]}" has no output "${parts[1]}"`
  const entry = catalogue.get(module.type)
  if (!entry || entry.description.internal || entry.outputs.has(parts[1])) return undefined
  return `${module.type} has no output "${parts[1]}" (it has ${[...entry.outputs.keys()].join(', ') || 'none'})`
}

const inputFault = ({ modules, catalogue }: Index, target: string): string | undefined => {
  const parts = splitTarget(target)
  if (!parts) return `"${target}" does not name a port or parameter (module.port)`
  const module = modules.get(parts[0])
  if (!module) return `there is no module "${parts[0]}"`
  if (module.type === 'group')
    return groupPorts(module).in.has(parts[1])
      ? undefined
      : `the group "${parts[0]}" has no input "${parts[1]}"`
  const entry = catalogue.get(module.type)
  if (!entry || entry.description.internal || entry.inputs.has(parts[1])) return undefined
  const param = entry.params.get(parts[1])
  if (!param)
    return `${module.type} has no input or parameter "${parts[1]}" (it has ${[...entry.inputs.keys(), ...[...entry.params.values()].filter(isSignalParam).map((item) => item.name)].join(', ') || 'none'})`
  return isSignalParam(param) ? undefined : `${parts[1]} of ${module.type} is set only: it takes no cable`
}

const isKnown = (catalogue: Catalogue, type: string): boolean =>
  type === 'group' ||
  type === 'portin' ||
  type === 'portout' ||
  (catalogue.get(type)?.description.internal !== true && catalogue.has(type))

/** Is every module of a patch still there, with the ports it had? */
const hasItsPorts = (before: PatchIndex, after: PatchIndex): boolean =>
  before.modules.every(({ module }) => {
    const now = after.module.get(module.id)
    return now === module || (now?.type === module.type && module.type !== 'group')
  })

interface Findings {
  readonly faults: Fault[]
  readonly warnings: Fault[]
}

/** `before`: of a patch without faults; its modules that are still the same are not looked at again. */
const checkModules = (
  { modules }: PatchIndex,
  catalogue: Catalogue,
  before: PatchIndex | undefined,
  { faults, warnings }: Findings,
): void => {
  const seen = new Map<string, string>()
  for (const { module, place } of modules) {
    const first = seen.get(module.id)
    if (first) faults.push({ place: `${place}.id`, message: `"${module.id}" is already the id of ${first}` })
    else seen.set(module.id, place)
    if (before?.module.get(module.id) === module) continue
    const entry = catalogue.get(module.type) ?? structureEntry(module.type)
    if (!isKnown(catalogue, module.type))
      warnings.push({
        place: `${place}.type`,
        message: `"${module.type}" is not known to this version; it stays as a silent placeholder`,
      })
    else if (entry) append(faults, moduleFaults(entry, module, place))
  }
}

const checkCables = (
  after: PatchIndex,
  catalogue: Catalogue,
  before: PatchIndex | undefined,
  faults: Fault[],
): void => {
  const index = { modules: after.module, catalogue },
    kept = before && hasItsPorts(before, after) ? before.cable : undefined
  const ids = new Set<string>()
  for (const { cable, place } of after.cables) {
    const { id } = cable,
      isKept = id !== undefined && kept?.get(id) === cable
    const from = isKept ? undefined : outputFault(index, cable.from),
      to = isKept ? undefined : inputFault(index, cable.to)
    if (from) faults.push({ place: `${place}.from`, message: from })
    if (to) faults.push({ place: `${place}.to`, message: to })
    if (id === undefined) continue
    if (ids.has(id))
      faults.push({ place: `${place}.id`, message: `"${id}" is already the id of another cable` })
    ids.add(id)
  }
}

/**
 * Faults and warnings that need the catalogue. The shape must already be right.
 * `valid`: a patch without faults that this one was made from; what is the same object in both is not looked at again.
 */
export const meaningFaults = (
  patch: Patch,
  catalogue: Catalogue = CATALOGUE,
  valid?: Patch,
): { faults: Fault[]; warnings: Fault[] } => {
  const found: Findings = { faults: [], warnings: [] },
    { faults, warnings } = found
  const after = patchIndex(patch),
    before = valid && patchIndex(valid)
  const tooMany = sizeFaults(after.modules.length, after.cables.length)
  if (tooMany.length > 0) return { faults: tooMany, warnings }
  checkModules(after, catalogue, before, found)
  checkCables(after, catalogue, before, faults)
  append(faults, tuningFor(patch).faults)
  append(faults, formulaFaults(patch, after.module, catalogue))
  append(faults, playingFaults(patch, catalogue))
  append(warnings, ownerWarnings(patch))
  append(warnings, varyWarnings(patch))
  return found
}

/** Checks a value that came from anywhere. Migrates older versions. Never half-succeeds. */
export const checkPatch = (value: unknown, catalogue: Catalogue = CATALOGUE): Result<Patch> => {
  const version = (value as { version?: unknown } | null)?.version
  if (typeof version === 'number' && version > PATCH_VERSION) {
    return {
      ok: false,
      faults: [
        {
          place: 'version',
          message: `this file is of version ${version}; this application reads up to ${PATCH_VERSION}. Open it with a newer one`,
        },
      ],
    }
  }
  const deep = nestingFault(value)
  if (deep) return { ok: false, faults: [deep] }
  const shape = shapeFaults(value)
  if (shape.length > 0) return { ok: false, faults: shape }
  const patch = migrate({ cables: [], name: 'Untitled', ...(value as object) } as unknown as Patch)
  const { faults, warnings } = meaningFaults(patch, catalogue)
  return faults.length > 0 ? { ok: false, faults } : { ok: true, value: patch, warnings }
}

/** Reads a patch file's text. */
export const parsePatch = (text: string, catalogue: Catalogue = CATALOGUE): Result<Patch> => {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch (error) {
    const where = /position (\d+)/.exec(String(error))
    const line = where ? text.slice(0, Number(where[1])).split('\n').length : undefined
    return {
      ok: false,
      faults: [
        { place: line ? `line ${line}` : '', message: 'this is not JSON; a patch file is a JSON text' },
      ],
    }
  }
  return checkPatch(value, catalogue)
}
