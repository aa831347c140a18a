/** Do events mean something in a patch? Found before anything is played. */
import { CATALOGUE } from '../catalogue.ts'
import type { PlayerEvent } from '../notes/events.ts'
import { patchIndex } from '../patch/index.ts'
import { targetOf, targetValueFault, unmovable } from '../patch/targets.ts'
import type { Fault, Patch } from '../patch/types.ts'
import { dataKindOf } from '../describe/kinds/index.ts'
import { dataFaults } from '../patch/values.ts'
import { splitTarget } from '../patch/walk.ts'
import { blendNamed, snapshotNamed } from './recall.ts'

const valueFaultAt = (patch: Patch, target: string, value: unknown): string | undefined => {
  const found = targetOf(patch, target)
  return unmovable(found, target) ?? (value === undefined ? undefined : targetValueFault(found, value))
}

/** Longest list of a module whose description states none. */
const LONGEST = 4096

const dataFault = (
  patch: Patch,
  target: string,
  index: number | undefined,
  value: unknown,
): Fault | undefined => {
  const [id = '', name = ''] = splitTarget(target) ?? []
  const module = patchIndex(patch).module.get(id)
  if (!module) return { place: target, message: `there is no module "${id}"` }
  const data = CATALOGUE.get(module.type)?.description.data?.find((item) => item.name === name)
  if (!data) return { place: target, message: `${module.type} has no data "${name}"` }
  const { isText } = dataKindOf(data)
  if (isText && index !== undefined) return { place: target, message: 'is a text: it has no entries' }
  if (index !== undefined && index >= (data.length ?? LONGEST))
    return {
      place: target,
      message: `entry ${index} is beyond its ${data.length ?? LONGEST}, counted from 0`,
    }
  return dataFaults(data, index === undefined ? value : [value], target)[0]
}

const bypassFault = (patch: Patch, id: string): string | undefined => {
  const module = patchIndex(patch).module.get(id)
  if (!module) return `there is no module "${id}"`
  const entry = CATALOGUE.get(module.type)
  return entry && !entry.description.bypass
    ? `${module.type} cannot be bypassed: it has no sound in and out`
    : undefined
}

/** What is wrong with an event in a patch; undefined when nothing is. */
export const eventFault = (patch: Patch, event: PlayerEvent): Fault | undefined => {
  const at = (place: string, message: string | undefined): Fault | undefined =>
    message === undefined ? undefined : { place, message }
  switch (event.type) {
    case 'param':
      return at(
        event.target,
        typeof event.value === 'string' && event.value.trimStart().startsWith('=')
          ? 'a formula cannot be set while it plays'
          : valueFaultAt(patch, event.target, event.value),
      )
    case 'macro':
      return at(`macro:${event.target}`, valueFaultAt(patch, `macro:${event.target}`, event.value))
    case 'snapshot':
      return at(
        `snapshot ${event.target}`,
        snapshotNamed(patch, event.target) ? undefined : 'there is no such snapshot',
      )
    case 'blend':
      return at(
        `blend ${event.target}`,
        blendNamed(patch, event.target) ? undefined : 'there is no such blend on the stage',
      )
    case 'data':
      return dataFault(patch, event.target, event.index, event.value)
    case 'bypass':
      return at(event.target, bypassFault(patch, event.target))
    default:
      return undefined
  }
}
