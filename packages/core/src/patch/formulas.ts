import type { Catalogue } from '../catalogue.ts'
import { isSignalParam } from '../describe/slots.ts'
import { errorText, type ParsedFormula, parseFormula } from '../formula/parse.ts'
import { MOST_REFERENCES } from '../formula/language.ts'
import type { Fault, Patch, PatchModule } from './types.ts'
import { components } from './graph.ts'
import { groupPorts, patchIndex } from './index.ts'
import { everyModule, splitTarget } from './walk.ts'
import { leastOf } from '../units/append.ts'

/** A parameter's value is a formula when it is a text that begins with =. */
export const isFormula = (value: unknown): value is string =>
  typeof value === 'string' && value.trimStart().startsWith('=')

/** What follows the sign. */
export const formulaText = (value: string): string => value.slice(value.indexOf('=') + 1)

/** As many as a patch of the largest size can have, twice over. */
const MOST_KEPT = 40_000
/** Names of a circle that a fault tells. */
const MOST_NAMES = 8
const parsedBefore = new Map<string, ParsedFormula>()
/** A field formula's parse, kept: fields are read again at every edit. */
export const parseField = (value: string): ParsedFormula => {
  let parsed = parsedBefore.get(value)
  if (!parsed) {
    if (parsedBefore.size > MOST_KEPT) parsedBefore.clear()
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
    return patchIndex(patch).macro.has(target.slice(6)) ? undefined : `there is no macro "${target.slice(6)}"`
  const [id = '', name = ''] = splitTarget(target) ?? []
  const module = modules.get(id)
  if (!module) return `there is no module "${id}"`
  if (module.type === 'group')
    return groupPorts(module).out.has(name) ? undefined : `the group "${id}" has no output "${name}"`
  const entry = catalogue.get(module.type)
  if (!entry || entry.outputs.has(name)) return undefined
  const param = entry.params.get(name)
  if (!param)
    return `${module.type} has no output or parameter "${name}" (it has ${[...entry.outputs.keys(), ...[...entry.params.values()].filter(isSignalParam).map((item) => item.name)].join(', ')})`
  return isSignalParam(param)
    ? undefined
    : `${name} of ${module.type} is a choice or set only: a formula cannot read it`
}

/** For every field whose formula leads back to it: a shortest circle of parameters through it, by name. */
const circlesOf = (formulas: readonly FieldFormula[]): Map<string, string[]> => {
  const keys = formulas.map((formula) => `${formula.module.id}.${formula.param}`)
  const numbers = new Map(keys.map((key, number) => [key, number]))
  const edges = formulas.map((formula) =>
    referencesOf(formula.value).flatMap((target) => numbers.get(target) ?? []),
  )
  const found = new Map<string, string[]>()
  for (const members of components(keys.length, edges).members) {
    const [start] = members
    if (members.length === 1 && !edges[start!]!.includes(start!)) continue
    // One circle tells of a whole knot; it is named at each of its members that stands on it.
    const circle = shortestCircle(leastOf(members), edges)
    for (const node of circle)
      found.set(
        keys[node]!,
        [...circle, circle[0]!].map((at) => keys[at]!),
      )
    for (const node of members)
      if (!found.has(keys[node]!)) found.set(keys[node]!, found.get(keys[circle[0]!]!)!)
  }
  return found
}

/** The ends of a long list of names. */
export const shortened = (names: readonly string[]): readonly string[] =>
  names.length <= MOST_NAMES
    ? names
    : [...names.slice(0, MOST_NAMES - 2), `… ${names.length - MOST_NAMES + 1} more …`, names.at(-1)!]

/** A shortest way from a node that lies on a circle back to it, without the return. */
const shortestCircle = (start: number, edges: readonly (readonly number[])[]): number[] => {
  const cameFrom = new Map<number, number>()
  const waiting = [start]
  for (const node of waiting)
    for (const next of edges[node]!) {
      if (next === start) {
        const way = [node]
        for (let at = node; at !== start;) {
          at = cameFrom.get(at)!
          way.push(at)
        }
        return way.reverse()
      }
      if (cameFrom.has(next)) continue
      cameFrom.set(next, node)
      waiting.push(next)
    }
  return [start]
}

/** Faults of what field formulas name, circles included. */
export const formulaFaults = (
  patch: Patch,
  modules: ReadonlyMap<string, PatchModule>,
  catalogue: Catalogue,
): Fault[] => {
  const all = fieldFormulas(patch, catalogue)
  const circles = circlesOf(all)
  return all.flatMap((formula): Fault[] => {
    const parsed = parseField(formula.value)
    if (parsed.errors.length > 0) return []
    const shift = formula.value.indexOf('=') + 1
    for (const { target, at } of parsed.references) {
      const message = referenceFault(target, patch, modules, catalogue)
      if (message) return [{ place: formula.place, message: `column ${at.start + shift + 1}: ${message}` }]
    }
    const circle = circles.get(`${formula.module.id}.${formula.param}`)
    return circle
      ? [
          {
            place: formula.place,
            message: `the formula goes round in a circle: ${shortened(circle).join(' → ')}`,
          },
        ]
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
