/** Ports of groups: modules inside that stand for an input or an output of the whole. */
import type { Draft } from 'immer'
import { levelsOf, levelWith, moduleIn } from './levels.ts'
import type { Patch, PatchModule } from './types.ts'
import { portName } from './walk.ts'

type D = Draft<Patch>

export const isPort = ({ type }: Pick<PatchModule, 'type'>): boolean =>
  type === 'portin' || type === 'portout'

/** The group a module stands in directly. */
export const groupOf = (draft: D, id: string): Draft<PatchModule> | undefined => {
  for (const { modules } of levelsOf(draft)) {
    const found = modules.find(({ inside }) => inside?.modules.some((inner) => inner.id === id))
    if (found) return found
  }
  return undefined
}

/** A name that no other port of the same side has: words without full stops, a number behind it where it is taken. */
export const freePortName = (taken: ReadonlySet<string>, wanted: string): string => {
  const name = wanted.replaceAll('.', ' ').replace(/\s+/g, ' ').trim() || 'port'
  if (!taken.has(name)) return name
  let n = 2
  while (taken.has(`${name} ${n}`)) n += 1
  return `${name} ${n}`
}

/** Names of the ports of one side of a group, without one of them. */
export const portNames = (modules: readonly PatchModule[], type: string, without?: string): Set<string> =>
  new Set(modules.filter((inner) => inner.type === type && inner.id !== without).map(portName))

/** Names a port of a group; what is connected to it stays so. */
export const renamePort = (draft: D, id: string, wanted: string): void => {
  const port = moduleIn(draft, id),
    group = groupOf(draft, id)
  if (!port) return
  const before = portName(port as PatchModule)
  const taken = portNames((group?.inside?.modules ?? []) as PatchModule[], port.type, id)
  const name = freePortName(taken, wanted)
  port.params = { ...port.params, name }
  if (!group || name === before) return
  const end = port.type === 'portin' ? 'to' : 'from'
  for (const { cables } of levelsOf(draft))
    for (const cable of cables) if (cable[end] === `${group.id}.${before}`) cable[end] = `${group.id}.${name}`
}

/** Moves a port up or down among those of its side. */
export const movePort = (draft: D, id: string, by: -1 | 1): void => {
  const level = levelWith(draft, id),
    at = level?.modules.findIndex((module) => module.id === id) ?? -1
  if (!level || at < 0) return
  const { type } = level.modules[at]!
  let other = at + by
  while (level.modules[other] && level.modules[other]!.type !== type) other += by
  if (!level.modules[other]) return
  const modules = [...level.modules]
  ;[modules[at], modules[other]] = [modules[other]!, modules[at]!]
  level.modules = modules
}
