import { CATALOGUE } from '../catalogue.ts'
import { help } from '../describe/helpers.ts'
import type { ModuleDescription } from '../describe/types.ts'
import type { PatchModule } from './types.ts'
import { portName } from './walk.ts'

const known = new WeakMap<PatchModule, ModuleDescription>()

/** How a module looks from outside: its type's description, or a group's own ports. Undefined for unknown types. */
export const descriptionOf = (module: PatchModule): ModuleDescription | undefined => {
  if (module.type !== 'group') return CATALOGUE.get(module.type)?.description
  let description = known.get(module)
  if (!description) {
    const ports = (type: string): string[] =>
      (module.inside?.modules ?? []).filter((inner) => inner.type === type).map(portName)
    description = {
      type: 'group',
      family: 'routing',
      label: 'Group',
      mark: 'M2 2h12v12H2zM5 5h6v6H5z',
      words: [],
      headline: [],
      picture: 'signal',
      params: [],
      bound: 0,
      flattened: true,
      help: help(
        'A module of your own',
        `Holds ${module.inside?.modules.length ?? 0} modules. It costs nothing by itself: what is inside runs as if it stood outside.`,
        '',
        '',
      ),
      inputs: ports('portin').map((name) => ({ name, kind: 'audio' })),
      outputs: ports('portout').map((name) => ({ name, kind: 'audio' })),
    }
    known.set(module, description)
  }
  return description
}

const name = { kind: 'text', name: 'name', label: 'Name', default: '', setOnly: true } as const

/** What a patch may hold besides the modules of the catalogue: groups and their ports, dissolved when it is compiled. */
export const STRUCTURE: readonly ModuleDescription[] = [
  {
    type: 'group',
    family: 'routing',
    label: 'Group',
    mark: 'M2 3h12v10H2zM8 6v4M6 8h4',
    words: [],
    headline: [],
    picture: 'signal',
    params: [name],
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
  },
  {
    type: 'portin',
    family: 'routing',
    label: 'Port in',
    mark: 'M2 2v12M5 8h9M11 5l3 3-3 3',
    words: [],
    headline: [],
    picture: 'signal',
    params: [name],
    inputs: [],
    outputs: [{ name: 'out', kind: 'audio' }],
    bound: 0,
    flattened: true,
    help: help(
      'An input of the group it stands in',
      'What comes to the group under its name goes on here.',
      '',
      '',
    ),
  },
  {
    type: 'portout',
    family: 'routing',
    label: 'Port out',
    mark: 'M14 2v12M2 8h9M8 5l3 3-3 3',
    words: [],
    headline: [],
    picture: 'signal',
    params: [name],
    inputs: [{ name: 'in', kind: 'audio' }],
    outputs: [],
    bound: 0,
    flattened: true,
    help: help(
      'An output of the group it stands in',
      'What comes in here leaves the group under its name.',
      '',
      '',
    ),
  },
]
