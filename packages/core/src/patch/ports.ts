/** Ports of groups: modules inside that stand for an input or an output of the whole. */
import type { Draft } from 'immer'
import type { SignalKind } from '../describe/types.ts'
import { freshId } from './document.ts'
import { levelsOf, levelWith, moduleIn } from './levels.ts'
import type { Cable, Patch, PatchModule } from './types.ts'
import { everyModule, portName, splitTarget } from './walk.ts'

type D = Draft<Patch>

/** How far ports stand beside what they lead to, and below one another. */
export const BESIDE = 264,
  BELOW = 120

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

/** Puts a new port beside those of its side, or beside what it is connected to. */
const newPort = (
  draft: D,
  group: Draft<PatchModule>,
  type: 'portin' | 'portout',
  near: string,
  wanted: string,
  kind: SignalKind,
): string => {
  const inside = group.inside!,
    { x = 0, y = 0 } = inside.modules.find(({ id }) => id === near) ?? {},
    others = inside.modules.filter((module) => module.type === type)
  const name = freePortName(portNames(inside.modules as PatchModule[], type), wanted)
  const id = freshId(new Set(everyModule(draft as Patch).map(({ module }) => module.id)), type)
  const side = type === 'portin' ? -BESIDE : BESIDE
  inside.modules.push({
    id,
    type,
    params: { name, kind },
    x: others[0]?.x ?? x + side,
    y: others.length > 0 ? Math.max(...others.map((other) => other.y ?? 0)) + BELOW : y,
  } as Draft<PatchModule>)
  return id
}

const isPlain = ({ amount = 1, muted }: Pick<Cable, 'amount' | 'muted'>): boolean =>
  amount === 1 && muted !== true

/**
 * The port of a group that leads to something in it, or away from it: one that does so alone, or a new one.
 *
 * @returns The port as cables outside name it.
 */
export const portFor = (
  draft: D,
  groupId: string,
  inner: string,
  side: 'in' | 'out',
  kind: SignalKind,
  freshCable: () => string,
): string => {
  const group = moduleIn(draft, groupId)!,
    { modules, cables } = group.inside!
  const type = side === 'in' ? 'portin' : 'portout'
  const known = modules.find((module) => {
    if (module.type !== type) return false
    const own = cables.filter((cable) =>
      side === 'in' ? cable.from === `${module.id}.out` : cable.to === `${module.id}.in`,
    )
    return own.length === 1 && isPlain(own[0]!) && (side === 'in' ? own[0]!.to : own[0]!.from) === inner
  })
  const [near = '', wanted = ''] = splitTarget(inner) ?? []
  const id = known?.id ?? newPort(draft, group, type, near, wanted, kind)
  if (!known)
    cables.push(
      side === 'in'
        ? { id: freshCable(), from: `${id}.out`, to: inner }
        : { id: freshCable(), from: inner, to: `${id}.in` },
    )
  return `${groupId}.${portName(moduleIn(draft, id) as PatchModule)}`
}
