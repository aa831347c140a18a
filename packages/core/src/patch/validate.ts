import { CATALOGUE, type Catalogue, type CatalogueEntry } from '../catalogue.ts'
import { paramAt } from '../describe/params.ts'
import { isSignalParam } from '../describe/slots.ts'
import type { DataDescription, NumberParam, ParamDescription } from '../describe/types.ts'
import { fieldFault, formulaFaults, isFormula } from './formulas.ts'
import { errorText, parseFormula } from '../formula/parse.ts'
import { migrate } from './migrate.ts'
import { shapeFaults } from './schema.ts'
import { tuningFor } from './tuning.ts'
import { type Fault, type Patch, type PatchModule, type Result, PATCH_VERSION } from './types.ts'
import { everyCable, everyModule, portName, splitTarget } from './walk.ts'

/** Ports a group shows come from its own portin and portout modules. */
const groupPorts = (module: PatchModule, type: 'portin' | 'portout'): Set<string> =>
  new Set((module.inside?.modules ?? []).filter((inner) => inner.type === type).map(portName))

const unitOf = (param: NumberParam): string => (param.unit && param.unit !== '%' ? ` ${param.unit}` : '')

const numberFault = (param: NumberParam, value: unknown): string | undefined => {
  if (typeof value !== 'number') return `expected a number, found ${JSON.stringify(value)}`
  if (!Number.isFinite(value)) return 'is not a finite number'
  if (value < param.min) return `${value} is below ${param.min}${unitOf(param)}`
  if (value > param.max) return `${value} is above ${param.max}${unitOf(param)}`
  return param.whole && !Number.isInteger(value) ? `${value} is not a whole number` : undefined
}

/** What is wrong with a value for a parameter, as a sentence's end; undefined when nothing is. */
export const valueFault = (param: ParamDescription, value: unknown): string | undefined => {
  if (isFormula(value) && isSignalParam(param)) return fieldFault(value)
  switch (param.kind) {
    case 'number':
      return numberFault(param, value)
    case 'switch':
      return typeof value === 'boolean' ? undefined : `expected true or false, found ${JSON.stringify(value)}`
    case 'choice':
      return typeof value === 'string' && param.choices.includes(value)
        ? undefined
        : `${JSON.stringify(value)} is not one of ${param.choices.map((word) => `"${word}"`).join(', ')}`
    case 'text':
      return typeof value === 'string' ? undefined : `expected a text, found ${JSON.stringify(value)}`
  }
}

/** Longest list of any module's data. */
const LONGEST_LIST = 4096
/** Fields of the records in lists of records, with their ranges. */
const RECORDS: Readonly<
  Record<string, Readonly<Record<string, readonly [low: number, high: number, required: boolean]>>>
> = {
  points: {
    t: [0, 1e6, false],
    x: [-1e6, 1e6, false],
    v: [-10, 10, false],
    y: [-1e6, 1e6, false],
    curve: [-1, 1, false],
  },
  notes: { start: [0, 1e6, true], length: [0, 1e6, true], note: [0, 127, true], velocity: [0, 1, false] },
}

const itemFault = (
  data: DataDescription,
  item: unknown,
): readonly [place: string, message: string] | undefined => {
  if (data.kind === 'numbers') {
    if (typeof item !== 'number' || !Number.isFinite(item))
      return ['', `expected a number, found ${JSON.stringify(item)}`]
    if (data.min !== undefined && item < data.min) return ['', `${item} is below ${data.min}`]
    return data.max !== undefined && item > data.max ? ['', `${item} is above ${data.max}`] : undefined
  }
  if (data.kind === 'booleans')
    return typeof item === 'boolean' || item === 0 || item === 1
      ? undefined
      : ['', `expected true or false, found ${JSON.stringify(item)}`]
  if (typeof item !== 'object' || item === null || Array.isArray(item))
    return ['', `expected an object, found ${JSON.stringify(item)}`]
  for (const [field, [low, high, required]] of Object.entries(RECORDS[data.kind] ?? {})) {
    const value = (item as Record<string, unknown>)[field]
    if (value === undefined ? required : typeof value !== 'number' || !Number.isFinite(value))
      return [
        `.${field}`,
        value === undefined ? 'is missing' : `expected a number, found ${JSON.stringify(value)}`,
      ]
    if (typeof value === 'number' && (value < low || value > high))
      return [`.${field}`, `${value} is outside ${low}…${high}`]
  }
  return undefined
}

/** What is wrong with one entry of a module's data. */
const dataFaults = (data: DataDescription, value: unknown, place: string): Fault[] => {
  if (data.kind === 'text' || data.kind === 'table') {
    if (typeof value !== 'string')
      return [{ place, message: `expected a text, found ${JSON.stringify(value)}` }]
    if (data.kind === 'table') return []
    return parseFormula(value, 'module')
      .errors.slice(0, 1)
      .map((error) => ({ place, message: errorText(error) }))
  }
  if (!Array.isArray(value)) return [{ place, message: `expected a list, found ${JSON.stringify(value)}` }]
  const most = data.length ?? LONGEST_LIST
  if (value.length > most) return [{ place, message: `holds ${value.length} items, more than ${most}` }]
  return value.flatMap((item, index) => {
    const fault = itemFault(data, item)
    return fault ? [{ place: `${place}[${index}]${fault[0]}`, message: fault[1] }] : []
  })
}

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
    if (data) faults.push(...dataFaults(data, value, `${place}.data.${name}`))
  }
  return faults
}

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
    return groupPorts(module, 'portout').has(parts[1])
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
    return groupPorts(module, 'portin').has(parts[1])
      ? undefined
      : `the group "${parts[0]}" has no input "${parts[1]}"`
  const entry = catalogue.get(module.type)
  if (!entry || entry.description.internal || entry.inputs.has(parts[1])) return undefined
  const param = entry.params.get(parts[1])
  if (!param)
    return `${module.type} has no input or parameter "${parts[1]}" (it has ${[...entry.inputs.keys(), ...[...entry.params.values()].filter(isSignalParam).map((item) => item.name)].join(', ') || 'none'})`
  return isSignalParam(param) ? undefined : `${parts[1]} of ${module.type} is set only: it takes no cable`
}

/** Why a target (`id.param`, `cable:ID`, `macro:ID`) does not exist. */
export const targetFault = (patch: Patch, index: Index, target: string): string | undefined => {
  if (target.startsWith('cable:'))
    return everyCable(patch).some(({ cable }) => cable.id === target.slice(6))
      ? undefined
      : `there is no cable with the id "${target.slice(6)}"`
  if (target.startsWith('macro:'))
    return patch.macros?.some((macro) => macro.id === target.slice(6))
      ? undefined
      : `there is no macro "${target.slice(6)}"`
  const parts = splitTarget(target)
  if (!parts) return `"${target}" does not name a parameter (module.param)`
  const module = index.modules.get(parts[0])
  if (!module) return `there is no module "${parts[0]}"`
  const entry = index.catalogue.get(module.type)
  return !entry || entry.params.has(parts[1]) ? undefined : `${module.type} has no parameter "${parts[1]}"`
}

/** Modules by id; where an id stands twice, the first one. */
export const indexOf = (patch: Patch, catalogue: Catalogue = CATALOGUE): Index => ({
  catalogue,
  modules: new Map(
    everyModule(patch)
      .reverse()
      .map(({ module }) => [module.id, module]),
  ),
})

const isKnown = (catalogue: Catalogue, type: string): boolean =>
  type === 'group' ||
  type === 'portin' ||
  type === 'portout' ||
  (catalogue.get(type)?.description.internal !== true && catalogue.has(type))

/** Faults and warnings that need the catalogue. The shape must already be right. */
export const meaningFaults = (
  patch: Patch,
  catalogue: Catalogue = CATALOGUE,
): { faults: Fault[]; warnings: Fault[] } => {
  const faults: Fault[] = [],
    warnings: Fault[] = []
  const seen = new Map<string, string>()
  for (const { module, place } of everyModule(patch)) {
    const first = seen.get(module.id)
    if (first) faults.push({ place: `${place}.id`, message: `"${module.id}" is already the id of ${first}` })
    else seen.set(module.id, place)
    const entry = catalogue.get(module.type)
    if (!isKnown(catalogue, module.type))
      warnings.push({
        place: `${place}.type`,
        message: `"${module.type}" is not known to this version; it stays as a silent placeholder`,
      })
    else if (entry) faults.push(...moduleFaults(entry, module, place))
  }
  const index = indexOf(patch, catalogue)
  const cableIds = new Set<string>()
  for (const { cable, place } of everyCable(patch)) {
    const from = outputFault(index, cable.from),
      to = inputFault(index, cable.to)
    if (from) faults.push({ place: `${place}.from`, message: from })
    if (to) faults.push({ place: `${place}.to`, message: to })
    if (cable.id !== undefined && cableIds.has(cable.id))
      faults.push({ place: `${place}.id`, message: `"${cable.id}" is already the id of another cable` })
    if (cable.id !== undefined) cableIds.add(cable.id)
  }
  faults.push(...tuningFor(patch).faults)
  faults.push(...formulaFaults(patch, index.modules, catalogue))
  const targets: [string, string][] = [
    ...(patch.macros ?? []).flatMap((macro, m) =>
      (macro.targets ?? []).map((target, t): [string, string] => [
        `macros[${m}].targets[${t}].param`,
        target.param,
      ]),
    ),
    ...(patch.snapshots ?? []).flatMap((snapshot, s) =>
      Object.keys(snapshot.params ?? {}).map((target): [string, string] => [
        `snapshots[${s}].params["${target}"]`,
        target,
      ]),
    ),
    ...((patch['controllers'] as { target: string }[] | undefined) ?? []).map(
      (controller, c): [string, string] => [`controllers[${c}].target`, controller.target],
    ),
  ]
  for (const [place, target] of targets) {
    const message = targetFault(patch, index, target)
    if (message) faults.push({ place, message })
  }
  return { faults, warnings }
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
