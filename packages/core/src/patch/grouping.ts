/** Groups made of what stands together, and taken apart again. */
import { type Draft, produce } from 'immer'
import { cableIds, dropTargets, moduleIds, outputKind } from './edits.ts'
import { freshId } from './document.ts'
import { addsVoices } from './groups.ts'
import { type Level, levelWith, moduleIn } from './levels.ts'
import { BELOW, BESIDE, freePortName, isPort } from './ports.ts'
import { own } from '../units/own.ts'
import { moduleLabel } from './names.ts'
import type { Cable, Patch, PatchModule } from './types.ts'
import { endsOf, portName, splitTarget } from './walk.ts'

type D = Draft<Patch>
type Part = Draft<PatchModule>
type Line = Draft<Cable>

/** Says no more than that it is a port. */
const isPlain = (port: string): boolean => /^(in|out)\d*$/.test(port)

/** An end of a cable: a module and its port. */
interface End {
  readonly module: PatchModule | undefined
  readonly port: string
}

/**
 * What a port is called at which a group is cut: as the first end whose port says what it is; where none does `in` or `out`
 * if it is the only one of its side, else as the last end's module. Where that is taken already, both.
 */
const cutName = (taken: Set<string>, ends: readonly End[], isOnly: boolean): string => {
  const said = ends.find(({ port }) => !isPlain(port)),
    { module, port } = said ?? ends.at(-1)!
  if (isOnly && !said) return port.replace(/\d+$/, '')
  const label = module ? moduleLabel(module) : ''
  const name = said?.port ?? (port === 'in' || port === 'out' ? label : `${label} ${port}`)
  const free = freePortName(taken, taken.has(name) && said ? `${label} ${port}` : name)
  taken.add(free)
  return free
}

interface Cut {
  readonly group: string
  readonly within: ReadonlyMap<string, PatchModule>
  readonly inside: Level
  readonly freshModule: (short: string) => string
  readonly freshCable: () => string
  readonly draft: D
}

/** Cables from outside: each source comes in at one port, from which the old cables go on as they were. */
const cutIncoming = (cut: Cut, cables: readonly Line[], left: number, top: number): Line[] => {
  const bySource = new Map<string, Line[]>()
  for (const cable of cables) bySource.set(cable.from, [...(bySource.get(cable.from) ?? []), cable])
  const taken = new Set<string>()
  return [...bySource].map(([origin, lines], n) => {
    const [target = '', name = ''] = splitTarget(lines[0]!.to) ?? []
    const [source = '', output = ''] = splitTarget(origin) ?? []
    const from = { module: moduleIn(cut.draft, source) as PatchModule | undefined, port: output },
      to = { module: cut.within.get(target), port: name }
    const isOne = new Set(lines.map((line) => splitTarget(line.to)?.[1])).size === 1
    const port = cutName(taken, isOne ? [to, from] : [from], bySource.size === 1)
    const id = cut.freshModule('portin')
    const carried = outputKind(from.module, output)
    cut.inside.modules.push({
      id,
      type: 'portin',
      params: { name: port, kind: carried },
      x: left - BESIDE,
      y: top + n * BELOW,
    } as Part)
    for (const line of lines) cut.inside.cables.push({ ...line, from: `${id}.out` })
    return { id: cut.freshCable(), from: origin, to: `${cut.group}.${port}` } as Line
  })
}

/** Cables to outside: each source leaves at one port; the old cables go on from there. */
const cutLeaving = (cut: Cut, cables: readonly Line[], right: number, top: number): Line[] => {
  const ports = new Map<string, string>(),
    taken = new Set<string>(),
    isOnly = new Set(cables.map(({ from }) => from)).size === 1
  return cables.map((line) => {
    let port = ports.get(line.from)
    if (port === undefined) {
      const [source = '', output = ''] = splitTarget(line.from) ?? []
      const module = cut.within.get(source)
      port = cutName(taken, [{ module, port: output }], isOnly)
      const id = cut.freshModule('portout')
      cut.inside.modules.push({
        id,
        type: 'portout',
        params: { name: port, kind: outputKind(module, output) },
        x: right + BESIDE,
        y: top + ports.size * BELOW,
      } as Part)
      cut.inside.cables.push({ id: cut.freshCable(), from: line.from, to: `${id}.in` })
      ports.set(line.from, port)
    }
    return { ...line, from: `${cut.group}.${port}` }
  })
}

/**
 * Makes a group of modules that stand on one level, ports of groups left out. What is connected stays so: cables keep their
 * ids and amounts, modules their ids.
 *
 * @returns The group's id; undefined where there is nothing to group.
 */
export const makeGroup = (draft: D, ids: ReadonlySet<string>, label?: string): string | undefined => {
  const first = [...ids][0]
  const level = first === undefined ? undefined : levelWith(draft, first)
  const grouped =
    level?.modules.filter((module) => ids.has(module.id) && !isPort(module as PatchModule)) ?? []
  if (!level || grouped.length === 0) return undefined
  const taken = moduleIds(draft as Patch)
  const freshModule = (short: string): string => {
    const id = freshId(taken, short)
    taken.add(id)
    return id
  }
  const group = freshModule('group'),
    within = new Map(grouped.map((module) => [module.id, module as PatchModule]))
  const isIn = (id: string): boolean => within.has(id)
  const between: Line[] = [],
    incoming: Line[] = [],
    leaving: Line[] = [],
    others: Line[] = []
  for (const cable of level.cables) {
    const { fromModule, toModule } = endsOf(cable as Cable)
    const side = isIn(fromModule) ? (isIn(toModule) ? between : leaving) : isIn(toModule) ? incoming : others
    side.push({ ...cable })
  }
  const left = Math.min(...grouped.map(({ x = 0 }) => x)),
    right = Math.max(...grouped.map(({ x = 0 }) => x)),
    top = Math.min(...grouped.map(({ y = 0 }) => y))
  const inside: Level = { modules: grouped.map((module) => ({ ...module })), cables: between }
  const cut: Cut = { group, within, inside, freshModule, freshCable: cableIds(draft as Patch), draft }
  const outer = [...cutIncoming(cut, incoming, left, top), ...cutLeaving(cut, leaving, right, top)]
  const at = level.modules.indexOf(grouped[0]!)
  const middle = grouped.reduce((sum, { y = 0 }) => sum + y, 0) / grouped.length
  const module = {
    id: group,
    type: 'group',
    ...(label ? { label } : {}),
    x: Math.round((left + right) / 2),
    y: Math.round(middle),
    inside,
  } as Part
  level.modules = [
    ...level.modules.slice(0, at).filter(({ id }) => !isIn(id)),
    module,
    ...level.modules.slice(at).filter(({ id }) => !isIn(id)),
  ]
  level.cables = [...others, ...outer]
  return group
}

/** Is a cable's amount moved by something, or is it muted, or not 1? Then it is the one that has to stay. */
const counts = (draft: D, { id, amount = 1, muted }: Line): boolean =>
  amount !== 1 ||
  muted === true ||
  (id !== undefined &&
    (draft.macros ?? []).some(({ targets }) => targets?.some(({ param }) => param === `cable:${id}`))) ||
  (draft.snapshots ?? []).some(({ params }) => own(params, `cable:${id ?? ''}`) !== undefined)

/**
 * Two cables that follow one another as one: what they multiply by, under the id of the one whose amount counts. Where that
 * is neither it is the second, which is the one that was there before a group was made.
 */
const joined = (draft: D, first: Line, second: Line): Line => {
  const kept = counts(draft, first) && !counts(draft, second) ? first : second
  const amount = (first.amount ?? 1) * (second.amount ?? 1)
  const { amount: _, muted: __, ...rest } = kept
  return {
    ...rest,
    from: first.from,
    to: second.to,
    ...(amount === 1 ? {} : { amount }),
    ...(first.muted || second.muted ? { muted: true } : {}),
  }
}

/** Takes a module that only passes on out of a list of cables. */
const passedThrough = (draft: D, cables: readonly Line[], port: PatchModule): Line[] => {
  const into = cables.filter(({ to }) => to === `${port.id}.in`),
    outOf = cables.filter(({ from }) => from === `${port.id}.out`)
  const made = into.flatMap((first) => outOf.map((second) => joined(draft, first, second)))
  const rest = cables.filter((cable) => !into.includes(cable) && !outOf.includes(cable))
  return [...rest, ...made]
}

/** No id twice: of cables that one has become, the first keeps it. */
const withOwnIds = (cables: readonly Line[], fresh: () => string): Line[] => {
  const seen = new Set<string>()
  return cables.map((cable) => {
    if (cable.id === undefined || !seen.has(cable.id)) {
      if (cable.id !== undefined) seen.add(cable.id)
      return cable
    }
    return { ...cable, id: fresh() }
  })
}

/** A port that adds voices is a module of its own once its group is gone. */
const asModule = (port: PatchModule): Part => {
  const { x, y, id } = port
  return { id, type: 'sum', label: portName(port), x, y } as Part
}

/**
 * Takes a group apart: what was in it stands where the group stood, connected as before.
 *
 * @returns The ids of what was in it, without its ports; undefined where it is no group.
 */
export const dissolveGroup = (draft: D, id: string): string[] | undefined => {
  const level = levelWith(draft, id),
    group = moduleIn(draft, id)
  if (!level || !group?.inside) return undefined
  const fresh = cableIds(draft as Patch)
  const { modules, cables } = group.inside
  const ports = modules.filter((module) => isPort(module as PatchModule)),
    // What a group looks like is kept by the module: a copy, as drafts change.
    whole = JSON.parse(JSON.stringify(group)) as PatchModule,
    adds = (port: Part): boolean => addsVoices(port as PatchModule, whole)
  const endOf = (end: string, type: string, name: string): string => {
    const [module, port] = splitTarget(end) ?? []
    if (module !== id) return end
    const found = ports.find((inner) => inner.type === type && portName(inner as PatchModule) === port)
    return found ? `${found.id}.${name}` : end
  }
  let lines: Line[] = [...level.cables, ...(cables ?? [])].map((cable) => ({
    ...cable,
    from: endOf(cable.from, 'portout', 'out'),
    to: endOf(cable.to, 'portin', 'in'),
  }))
  for (const port of ports) if (!adds(port)) lines = passedThrough(draft, lines, port as PatchModule)
  const kept = modules.filter((module) => !isPort(module as PatchModule)),
    sums = ports.filter(adds).map((port) => asModule(port as PatchModule))
  const left = Math.min(...kept.map(({ x = 0 }) => x)),
    top = Math.min(...kept.map(({ y = 0 }) => y))
  const came = [...kept.map((module) => ({ ...module })), ...sums] as Part[]
  for (const module of came) {
    module.x = (module.x ?? 0) - left + (group.x ?? 0)
    module.y = (module.y ?? 0) - top + (group.y ?? 0)
  }
  const at = level.modules.indexOf(group)
  level.modules = [...level.modules.slice(0, at), ...came, ...level.modules.slice(at + 1)]
  // What led to a port that is connected to nothing inside leads nowhere.
  const there = moduleIds(draft as Patch),
    before = [...level.cables, ...(cables ?? [])].map((cable) => cable.id)
  level.cables = withOwnIds(lines, fresh).filter((cable) => {
    const { fromModule, toModule } = endsOf(cable as Cable)
    return there.has(fromModule) && there.has(toModule)
  })
  const kepts = new Set(level.cables.map((cable) => cable.id)),
    gone = new Set(before.filter((cable) => cable !== undefined && !kepts.has(cable)))
  dropTargets(draft, (target) => target.startsWith('cable:') && gone.has(target.slice(6)))
  return came.map((module) => module.id)
}

/** A patch without groups, all that was in them on the bench itself: the same modules and the same sound. */
export const ungrouped = (patch: Patch): Patch =>
  patch.modules.some(({ inside }) => inside)
    ? produce(patch, (draft) => {
        for (;;) {
          const group = draft.modules.find(({ inside }) => inside)
          if (!group || !dissolveGroup(draft, group.id)) return
        }
      })
    : patch
