/** Groups and their ports as modules: how they look from outside. They are dissolved when a patch is compiled. */
import { CATALOGUE, type CatalogueEntry, makeCatalogue } from '../catalogue.ts'
import { choice, help } from '../describe/helpers.ts'
import type {
  InputDescription,
  ModuleDescription,
  OutputDescription,
  ParamDescription,
  SignalKind,
} from '../describe/types.ts'
import { own } from '../units/own.ts'
import type { PatchModule } from './types.ts'
import { endsOf, everyModule, portName, splitTarget } from './walk.ts'

const name = { kind: 'text', name: 'name', label: 'Name', default: '', setOnly: true } as const

/** How a group runs: as its modules say; each voice on its own; once for all voices. */
const per = choice('per', ['own', 'voice', 'sum'], 'own', {
  label: 'Voices',
  setOnly: true,
  help: 'Own: as the modules inside say. Voice: whatever inside could be shared by all voices is there once for each. Sum: voices of sound and control are added where they come in, and all inside is there once.',
})

const kind = choice('kind', ['audio', 'control', 'pitch', 'gate'], 'audio', {
  label: 'Carries',
  setOnly: true,
})

const GROUP: ModuleDescription = {
  type: 'group',
  family: 'routing',
  label: 'Group',
  mark: 'M2 3h12v10H2zM8 6v4M6 8h4',
  words: [],
  headline: [],
  picture: 'signal',
  params: [name, per],
  inputs: [],
  outputs: [],
  bound: 0,
  flattened: true,
  help: help(
    'A module of your own',
    'Holds modules and cables; its ports are the portin and portout modules inside.',
    '',
    '',
  ),
}

/** What a patch may hold besides the modules of the catalogue. */
export const STRUCTURE: readonly ModuleDescription[] = [
  GROUP,
  {
    ...GROUP,
    type: 'portin',
    label: 'Port in',
    mark: 'M2 2v12M5 8h9M11 5l3 3-3 3',
    front: ['name', 'out'],
    params: [name, kind],
    outputs: [{ name: 'out', kind: 'audio' }],
    help: help(
      'An input of the group it stands in',
      'What comes to the group under its name goes on here.',
      '',
      '',
    ),
  },
  {
    ...GROUP,
    type: 'portout',
    label: 'Port out',
    mark: 'M14 2v12M2 8h9M8 5l3 3-3 3',
    front: ['in', 'name'],
    params: [name, kind],
    inputs: [{ name: 'in', kind: 'audio' }],
    help: help(
      'An output of the group it stands in',
      'What comes in here leaves the group under its name.',
      '',
      '',
    ),
  },
]

const ENTRIES = makeCatalogue(STRUCTURE)

/** What is known of groups and their ports as types. */
export const structureEntry = (type: string): CatalogueEntry | undefined => ENTRIES.get(type)

/** A parameter of a module inside that a group shows on its own card. */
export interface FaceRow {
  /** `osc.fine` */
  readonly param: string
  readonly label?: string
  readonly x?: number
  readonly y?: number
}

/** What a group shows outside, from top to bottom; what is no such thing is left out. */
export const faceOf = (module: PatchModule): readonly FaceRow[] => {
  const face = module['face']
  if (!Array.isArray(face)) return []
  const rows = (face as unknown[]).filter(
    (row): row is FaceRow =>
      typeof row === 'object' && row !== null && typeof (row as { param?: unknown }).param === 'string',
  )
  const at = ({ x, y }: FaceRow): [number, number] => [
    typeof y === 'number' ? y : 0,
    typeof x === 'number' ? x : 0,
  ]
  return [...rows].sort((a, b) => at(a)[0] - at(b)[0] || at(a)[1] - at(b)[1])
}

const insideOf = (group: PatchModule): ReadonlyMap<string, PatchModule> =>
  new Map(everyModule({ modules: group.inside?.modules ?? [] }).map(({ module }) => [module.id, module]))

/** Parameters a group shows, named by their full targets. */
const faceParams = (group: PatchModule): ParamDescription[] => {
  const rows = faceOf(group)
  if (rows.length === 0) return []
  const inside = insideOf(group)
  return rows.flatMap(({ param: target, label }) => {
    const [id = '', of = ''] = splitTarget(target) ?? []
    const param = CATALOGUE.get(inside.get(id)?.type ?? '')?.params.get(of)
    return param ? [{ ...param, name: target, label: label || param.label }] : []
  })
}

const KINDS: readonly string[] = kind.choices
const saidKind = (port: PatchModule): SignalKind | undefined => {
  const said = own(port.params, 'kind')
  return KINDS.includes(String(said)) ? (said as SignalKind) : undefined
}

/** Kind of the port of a module that a group's port is connected to; parameters take control. */
const kindAt = (module: PatchModule | undefined, portType: string, end: string): SignalKind => {
  const description = CATALOGUE.get(module?.type ?? '')?.description
  if (!description) return 'audio'
  const ports: readonly (InputDescription | OutputDescription)[] =
    portType === 'portin' ? description.inputs : description.outputs
  return ports.find((found) => found.name === end)?.kind ?? 'control'
}

/** What a port carries: as it says, or as what is connected to it inside. */
const portKind = (port: PatchModule, group: PatchModule): SignalKind => {
  const said = saidKind(port)
  if (said) return said
  const modules = group.inside?.modules ?? []
  for (const cable of group.inside?.cables ?? []) {
    const { fromModule, fromPort, toModule, toPort } = endsOf(cable)
    const [mine, other, end] =
      port.type === 'portin' ? [fromModule, toModule, toPort] : [toModule, fromModule, fromPort]
    if (mine === port.id)
      return kindAt(
        modules.find(({ id }) => id === other),
        port.type,
        end,
      )
  }
  return 'audio'
}

const groupDescription = (group: PatchModule): ModuleDescription => {
  const modules = group.inside?.modules ?? []
  const ports = (type: string): { name: string; kind: SignalKind }[] => {
    const found = new Map<string, SignalKind>()
    for (const inner of modules)
      if (inner.type === type && !found.has(portName(inner)))
        found.set(portName(inner), portKind(inner, group))
    return [...found].map(([port, carried]) => ({ name: port, kind: carried }))
  }
  const inputs = ports('portin'),
    outputs = ports('portout'),
    face = faceParams(group)
  const [from, to] = [inputs, outputs].map((list) => list.find((port) => port.kind === 'audio')?.name)
  return {
    ...GROUP,
    panel: 'group',
    params: [per, ...face],
    inputs,
    outputs,
    front: [...inputs, ...face, ...outputs].map((row) => row.name),
    headline: face
      .filter((param) => param.kind === 'number')
      .slice(0, 2)
      .map((param) => param.name),
    ...(from !== undefined && to !== undefined ? { bypass: { from, to } } : {}),
    help: help(
      'A module of your own',
      `Holds ${group.inside?.modules.length ?? 0} modules. It costs nothing by itself: what is inside runs as if it stood outside. A double-click or Ctrl+↓ opens it.`,
      '',
      '',
    ),
  }
}

const known = new WeakMap<PatchModule, ModuleDescription>()

/** How a module looks from outside: its type's description, or a group's own ports. Undefined for unknown types. */
export const descriptionOf = (module: PatchModule): ModuleDescription | undefined => {
  const entry = structureEntry(module.type)
  if (!entry) return CATALOGUE.get(module.type)?.description
  let description = known.get(module)
  if (!description) {
    if (module.type === 'group') description = groupDescription(module)
    else {
      const carried = saidKind(module) ?? 'audio'
      const { inputs, outputs } = entry.description
      description = {
        ...entry.description,
        inputs: inputs.map((port) => ({ ...port, kind: carried })),
        outputs: outputs.map((port) => ({ ...port, kind: carried })),
      }
    }
    known.set(module, description)
  }
  return description
}

/** Does a port of a group add up the voices that come in? */
export const addsVoices = (port: PatchModule, group: PatchModule | undefined): boolean =>
  port.type === 'portin' &&
  group?.params?.['per'] === 'sum' &&
  ['audio', 'control'].includes(
    descriptionOf(group)?.inputs.find(({ name }) => name === portName(port))?.kind ?? 'audio',
  )
