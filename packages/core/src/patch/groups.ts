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
    const ports = (type: string): string[] => (module.inside?.modules ?? []).filter((inner) => inner.type === type).map(portName)
    description = {
      type: 'group', family: 'routing', label: 'Group', words: [], params: [], bound: 0, flattened: true,
      help: help('A module of your own', `Holds ${module.inside?.modules.length ?? 0} modules. It costs nothing by itself: what is inside runs as if it stood outside.`, '', ''),
      inputs: ports('portin').map((name) => ({ name, kind: 'audio' })), outputs: ports('portout').map((name) => ({ name, kind: 'audio' })),
    }
    known.set(module, description)
  }
  return description
}
