/** A module made another one in its place: what fits stays. */
import type { Draft } from 'immer'
import { CATALOGUE } from '../catalogue.ts'
import { isSignalParam } from '../describe/slots.ts'
import { paramAt } from '../describe/params.ts'
import type { SignalKind } from '../describe/types.ts'
import { dropTargets, outputKind, removeCables } from './edits.ts'
import { descriptionOf } from './groups.ts'
import { cablesAmong, moduleIn } from './levels.ts'
import { nameAfresh } from './shared.ts'
import type { Patch, PatchModule } from './types.ts'
import { valueFault } from './values.ts'
import { endsOf, splitTarget } from './walk.ts'

type D = Draft<Patch>

/** Parameters and data of a module that another type has as well, with values it may take. */
const fitting = (module: PatchModule, type: string): Pick<PatchModule, 'params' | 'data'> => {
  const entry = CATALOGUE.get(type)!
  const params = Object.entries(module.params ?? {}).filter(([name, value]) => {
    const param = entry.params.get(name)
    return param !== undefined && valueFault(paramAt(param, module.params), value) === undefined
  })
  const known = new Map((descriptionOf(module)?.data ?? []).map((data) => [data.name, data.kind])),
    taken = new Map((entry.description.data ?? []).map((data) => [data.name, data.kind]))
  const data = Object.entries(module.data ?? {}).filter(
    ([name]) => taken.get(name) !== undefined && taken.get(name) === known.get(name),
  )
  return {
    ...(params.length > 0 ? { params: Object.fromEntries(params) } : {}),
    ...(data.length > 0 ? { data: Object.fromEntries(data) } : {}),
  }
}

interface Port {
  readonly name: string
  readonly kind: SignalKind
}

/** The port that stands for another one: of its name, else the first of its kind that nothing has taken, else the first of its kind. */
const portLike = (
  ports: readonly Port[],
  name: string,
  kind: SignalKind,
  taken: Set<string>,
): string | undefined => {
  const found =
    ports.find((port) => port.name === name) ??
    ports.find((port) => port.kind === kind && !taken.has(port.name)) ??
    ports.find((port) => port.kind === kind)
  if (found) taken.add(found.name)
  return found?.name
}

/** Brings the cables of a module to the ports of what it has become; those that fit nowhere are named. */
const rewire = (draft: D, id: string, was: PatchModule, type: string): Set<string> => {
  const { description, params } = CATALOGUE.get(type)!
  const lost = new Set<string>(),
    inputs = new Map<string, string | undefined>(),
    outputs = new Map<string, string | undefined>(),
    takenIn = new Set<string>(),
    takenOut = new Set<string>()
  const old = descriptionOf(was)
  const inputFor = (name: string): string | undefined => {
    const port = old?.inputs.find((one) => one.name === name)
    if (port) return portLike(description.inputs, name, port.kind, takenIn)
    const param = params.get(name)
    return param && isSignalParam(param) ? name : undefined
  }
  const once = (known: Map<string, string | undefined>, name: string, find: () => string | undefined) => {
    if (!known.has(name)) known.set(name, find())
    return known.get(name)
  }
  for (const cable of cablesAmong(draft)) {
    const { fromModule, fromPort, toModule, toPort } = endsOf({ from: cable.from, to: cable.to })
    const to = toModule === id ? once(inputs, toPort, () => inputFor(toPort)) : toPort
    const from =
      fromModule === id
        ? once(outputs, fromPort, () =>
            portLike(description.outputs, fromPort, outputKind(was, fromPort), takenOut),
          )
        : fromPort
    if (from === undefined || to === undefined) {
      if (cable.id !== undefined) lost.add(cable.id)
      continue
    }
    cable.from = `${fromModule}.${from}`
    cable.to = `${toModule}.${to}`
  }
  return lost
}

/**
 * Makes a module one of another type, in its place, under its id and its own name. Settings, data and cables that the other
 * type has a place for stay; what moved settings that are gone moves them no more.
 *
 * @returns How many cables had to go; undefined where there is no such module or type.
 */
export const replaceModule = (draft: D, id: string, type: string): number | undefined => {
  const module = moduleIn(draft, id),
    entry = CATALOGUE.get(type)
  if (!module || !entry || module.type === type || module.inside) return undefined
  const was = JSON.parse(JSON.stringify(module)) as PatchModule
  const lost = rewire(draft, id, was, type)
  if (lost.size > 0) removeCables(draft, lost)
  const { params: _, data: __, bypass, ...rest } = was
  const next = {
    ...rest,
    type,
    ...fitting(was, type),
    ...(bypass && entry.description.bypass ? { bypass } : {}),
  }
  for (const name of Object.keys(module)) if (!(name in next)) Reflect.deleteProperty(module, name)
  Object.assign(module, next)
  const data = new Set((entry.description.data ?? []).map(({ name }) => name))
  dropTargets(draft, (target) => {
    const [of, name = ''] = splitTarget(target) ?? []
    return of === id && name !== '*' && !entry.params.has(name) && !data.has(name)
  })
  nameAfresh(draft, [id])
  return lost.size
}
