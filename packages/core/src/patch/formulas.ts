import type { Catalogue } from '../catalogue.ts'
import { isSignalParam } from '../describe/slots.ts'
import { errorText, type ParsedFormula, parseFormula } from '../formula/parse.ts'
import { MOST_REFERENCES } from '../formula/language.ts'
import type { Fault, Patch, PatchModule } from './types.ts'
import { everyModule, portName, splitTarget } from './walk.ts'

/** A parameter's value is a formula when it is a text that begins with =. */
export const isFormula = (value: unknown): value is string =>
  typeof value === 'string' && value.trimStart().startsWith('=')

/** What follows the sign. */
export const formulaText = (value: string): string => value.slice(value.indexOf('=') + 1)

const parsedBefore = new Map<string, ParsedFormula>()
/** A field formula's parse, kept: fields are read again at every edit. */
export const parseField = (value: string): ParsedFormula => {
  let parsed = parsedBefore.get(value)
  if (!parsed) {
    if (parsedBefore.size > 2000) parsedBefore.clear()
    parsed = parseFormula(formulaText(value), 'field')
    parsedBefore.set(value, parsed)
  }
  return parsed
}

/** What a field formula names, each once, in order. */
export const referencesOf = (value: string): string[] => [
  ...new Set(parseField(value).references.map((reference) => reference.target)),
]

/** What is wrong with a field formula by itself; undefined when nothing is. Columns count from the sign. */
export const fieldFault = (value: string): string | undefined => {
  const parsed = parseField(value)
  const [first] = parsed.errors
  const shift = value.indexOf('=') + 1
  if (first)
    return `the formula cannot be read: ${errorText({ ...first, start: first.start + shift, end: first.end + shift })}`
  const count = referencesOf(value).length
  return count > MOST_REFERENCES
    ? `the formula names ${count} ports and parameters, more than ${MOST_REFERENCES}`
    : undefined
}

export interface FieldFormula {
  readonly module: PatchModule
  readonly param: string
  readonly value: string
  readonly place: string
}

/** Every field formula of a patch. */
export const fieldFormulas = (patch: Pick<Patch, 'modules'>, catalogue: Catalogue): FieldFormula[] =>
  everyModule(patch).flatMap(({ module, place }) =>
    Object.entries(module.params ?? {}).flatMap(([param, value]): FieldFormula[] => {
      const description = catalogue.get(module.type)?.params.get(param)
      return description && isSignalParam(description) && isFormula(value)
        ? [{ module, param, value, place: `${place}.params.${param}` }]
        : []
    }),
  )

const referenceFault = (
  target: string,
  patch: Patch,
  modules: ReadonlyMap<string, PatchModule>,
  catalogue: Catalogue,
): string | undefined => {
  if (target.startsWith('macro:'))
    return patch.macros?.some((macro) => macro.id === target.slice(6))
      ? undefined
      : `there is no macro "${target.slice(6)}"`
  const [id = '', name = ''] = splitTarget(target) ?? []
  const module = modules.get(id)
  if (!module) return `there is no module "${id}"`
  if (module.type === 'group')
    return (module.inside?.modules ?? []).some(
      (inner) => inner.type === 'portout' && portName(inner) === name,
    )
      ? undefined
      : `the group "${id}" has no output "${name}"`
  const entry = catalogue.get(module.type)
  if (!entry || entry.outputs.has(name)) return undefined
  const param = entry.params.get(name)
  if (!param)
    return `${module.type} has no output or parameter "${name}" (it has ${[...entry.outputs.keys(), ...[...entry.params.values()].filter(isSignalParam).map((item) => item.name)].join(', ')})`
  return isSignalParam(param)
    ? undefined
    : `${name} of ${module.type} is a choice or set only: a formula cannot read it`
}

/** The parameters in a circle that a formula's field leads back to, by name; undefined when there is none. */
const circleFrom = (start: string, formulas: ReadonlyMap<string, FieldFormula>): string[] | undefined => {
  const visit = (key: string, path: readonly string[]): string[] | undefined => {
    const formula = formulas.get(key)
    if (!formula || path.length > formulas.size) return undefined
    for (const target of referencesOf(formula.value)) {
      if (target === start) return [...path, target]
      if (path.includes(target)) continue
      const found = visit(target, [...path, target])
      if (found) return found
    }
    return undefined
  }
  return visit(start, [start])
}

/** Faults of what field formulas name, circles included. */
export const formulaFaults = (
  patch: Patch,
  modules: ReadonlyMap<string, PatchModule>,
  catalogue: Catalogue,
): Fault[] => {
  const all = fieldFormulas(patch, catalogue)
  const byTarget = new Map(all.map((formula) => [`${formula.module.id}.${formula.param}`, formula]))
  return all.flatMap((formula): Fault[] => {
    const parsed = parseField(formula.value)
    if (parsed.errors.length > 0) return []
    const shift = formula.value.indexOf('=') + 1
    for (const { target, at } of parsed.references) {
      const message = referenceFault(target, patch, modules, catalogue)
      if (message) return [{ place: formula.place, message: `column ${at.start + shift + 1}: ${message}` }]
    }
    const circle = circleFrom(`${formula.module.id}.${formula.param}`, byTarget)
    return circle
      ? [{ place: formula.place, message: `the formula goes round in a circle: ${circle.join(' → ')}` }]
      : []
  })
}

/** The same formula with other module ids: for copies. */
export const renamedFormula = (value: string, ids: ReadonlyMap<string, string>): string => {
  const shift = value.indexOf('=') + 1
  let text = '',
    at = 0
  for (const { target, at: span } of parseField(value).references) {
    const [id, name] = splitTarget(target) ?? ['', '']
    text += value.slice(at, span.start + shift) + (ids.has(id) ? `${ids.get(id)}.${name}` : target)
    at = span.end + shift
  }
  return text + value.slice(at)
}
