/** What is valid in a patch and yet probably not meant. */
import { CATALOGUE } from '../catalogue.ts'
import { contextOf } from '../compile/shapes.ts'
import type { FlatPatch } from '../compile/flatten.ts'
import { readersOf } from '../compile/readers.ts'
import { lonelyGuests } from '../compile/keepers.ts'
import { dataKindOf } from '../describe/kinds/index.ts'
import type { Part } from '../describe/types.ts'
import { needsOf } from '../describe/needs.ts'
import type { Patch, PatchModule } from '../patch/types.ts'
import { patchIndex } from '../patch/index.ts'
import { moduleIn } from '../patch/levels.ts'
import { sharedName } from '../patch/shared.ts'
import { own } from '../units/own.ts'
import { playingFindings } from './playing.ts'
import {
  adding,
  asking,
  feeding,
  finding,
  type Finding,
  type Remedy,
  resetting,
  sourcesFor,
} from './remedy.ts'

/** Inputs that matter and have no cable. */
export const missingNeeds = (patch: Patch, { modules, feeds }: FlatPatch): Finding[] =>
  modules.flatMap((module) =>
    module.id.startsWith('~')
      ? []
      : needsOf(CATALOGUE.get(module.type)!.description)
          .filter((need) => !need.any.some((input) => feeds.has(`${module.id}.${input}`)))
          .map((need) => {
            const place = `${module.id}.${need.any[0]!}`
            return finding(place, need.message, () => feeding(patch, place))
          }),
  )

const bypassOf = (module: PatchModule): boolean => module.bypass === true

/** Is a module opened and closed by something: a gate, or what its description says closes it? */
const isGated = (flat: FlatPatch, module: PatchModule): boolean => {
  const { description } = CATALOGUE.get(module.type)!
  return description.inputs.some(
    (input) =>
      (input.kind === 'gate' && input.name !== 'sync' && input.name !== 'reset') ||
      (input.name === description.closedBy && flat.feeds.has(`${module.id}.${input.name}`)),
  )
}

/** For every module that a sound reaches which nothing opens and closes: one source of such a sound. */
const dronesInto = (flat: FlatPatch): Map<string, string> => {
  const into = new Map<string, string>(),
    sounds = new Map<string, string>()
  for (const module of flat.modules) {
    const { description } = CATALOGUE.get(module.type)!
    const isSource = description.family === 'sources' && description.sounds && description.role !== 'input'
    if (isSource && !isGated(flat, module)) sounds.set(module.id, module.id)
  }
  // A map takes in what is added while it is walked.
  for (const [id, source] of sounds)
    for (const { module, input } of readersOf(flat, id)) {
      const reader = flat.byId.get(module)!
      if (CATALOGUE.get(reader.type)!.inputs.get(input)?.kind !== 'audio') continue
      if (!into.has(module)) into.set(module, source)
      if (!sounds.has(module) && !isGated(flat, reader)) sounds.set(module, source)
    }
  return into
}

/** Amplifiers that never close although somebody plays notes. */
const drones = (patch: Patch, flat: FlatPatch): Finding[] => {
  if (!flat.modules.some((module) => CATALOGUE.get(module.type)!.description.role === 'notes')) return []
  const droning = dronesInto(flat)
  return flat.modules.flatMap((module) => {
    const { closedBy } = CATALOGUE.get(module.type)!.description
    if (closedBy === undefined || flat.feeds.has(`${module.id}.${closedBy}`)) return []
    const source = droning.get(module.id)
    return source === undefined
      ? []
      : [
          finding(
            `${module.id}.${closedBy}`,
            `nothing closes it: ${source} sounds all the time, keys or not. Connect an envelope`,
            () => closing(patch, `${module.id}.${closedBy}`),
          ),
        ]
  })
}

/** An envelope that the notes open, for what nothing closes. */
const closing = (patch: Patch, to: string): Remedy[] => {
  const [gate] = sourcesFor(patch, to, 'gate'),
    id = to.slice(0, to.indexOf('.'))
  const ends: [string, string][] = [
    ...(gate === undefined ? [] : [[gate, '*.gate'] as [string, string]]),
    ['*.env', to],
  ]
  return [adding(patch, 'envelope', { id, side: -1 }, ends), asking({ to })]
}

/** What names recordings that are not there names them no more: of a list the entries go, a single name goes back to the default. */
const takingOff = (id: string, name: string, assets: ReadonlySet<string>): Remedy => ({
  label: 'Take off what is not there',
  apply: (draft) => {
    const module = moduleIn(draft, id)
    if (!module?.data) return
    const value = own(module.data, name)
    const isThere = (entry: unknown): boolean =>
      assets.has(String((entry as { asset?: unknown } | null)?.asset ?? ''))
    module.data = Array.isArray(value)
      ? { ...module.data, [name]: (value as unknown[]).filter(isThere) }
      : Object.fromEntries(Object.entries(module.data).filter(([other]) => other !== name))
  },
})

/** Something that keeps memory under a name that is looked for. */
const keeping = (patch: Patch, id: string): Remedy[] => {
  const module = patchIndex(patch).module.get(id),
    name = module && sharedName(module, 'guest')
  if (name === undefined) return []
  return [...CATALOGUE.values()].flatMap(({ description }) =>
    description.shares?.as === 'keeper'
      ? [adding(patch, description.type, { id, side: -1 }, [], { [description.shares.name]: name })]
      : [],
  )
}

const moduleFindings = (module: PatchModule, patch: Patch): Finding[] => {
  const entry = CATALOGUE.get(module.type)
  if (!entry || bypassOf(module)) return []
  const faults = (
    entry.description.remarks?.({
      ...contextOf(module, CATALOGUE, 48000),
      isSet: (name) => own(module.params, name) !== undefined,
    }) ?? []
  ).map(([param, message]): Finding => {
    const known = entry.params.get(param),
      isSet = own(module.params, param) !== undefined
    const remedies = known && isSet ? [resetting(module.id, param, known.label)] : []
    return { place: `${module.id}.${param}`, message, remedies }
  })
  const assets = new Set(Object.keys((patch['assets'] ?? {}) as object))
  for (const data of entry.description.data ?? []) {
    const value = own(module.data, data.name)
    const remark = dataKindOf(data).remark?.(data, value, assets)
    if (remark !== undefined)
      faults.push({
        place: `${module.id}.data.${data.name}`,
        message: remark,
        remedies: [takingOff(module.id, data.name, assets)],
      })
  }
  return faults
}

const isPart =
  (part: Part) =>
  ({ type }: PatchModule): boolean =>
    CATALOGUE.get(type)?.description.part === part

const busesWithoutEnd = (patch: Patch): Finding[] => {
  const all = patchIndex(patch).modules.map(({ module }) => module)
  const nameOf = (module: PatchModule): string => String(module.params?.['bus'] ?? 'bus')
  const written = new Set(all.filter(isPart('send')).map(nameOf))
  return all
    .filter((module) => isPart('receive')(module) && !written.has(nameOf(module)))
    .map((module) => ({
      place: module.id,
      message: `reads the bus "${nameOf(module)}", which nothing writes. Add a bus input of that name`,
      remedies: [...CATALOGUE.values()]
        .filter(({ description }) => description.part === 'send')
        .map(({ description }) =>
          adding(patch, description.type, { id: module.id, side: -1 }, [], { bus: nameOf(module) }),
        ),
    }))
}

/** Everything found, sound first. */
export const findings = (patch: Patch, flat: FlatPatch): Finding[] => [
  ...patchIndex(patch).modules.flatMap(({ module }) => moduleFindings(module, patch)),
  ...drones(patch, flat),
  ...busesWithoutEnd(patch),
  ...lonelyGuests(flat.modules, CATALOGUE).map((fault) => ({
    ...fault,
    remedies: keeping(patch, fault.place),
  })),
  ...playingFindings(patch),
]
