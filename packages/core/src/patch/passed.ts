/** What is heard at ports of groups: they are dissolved when a patch is compiled, and the one source behind them stands for them. */
import { patchIndex } from './index.ts'
import type { Patch } from './types.ts'
import { endsOf, portName, splitTarget } from './walk.ts'

/** No group is nested deeper than a file may be. */
const MOST_STEPS = 64

/** The end of cables that a port of a group hands on; undefined for ports that are no such thing. */
const handedOn = (patch: Patch, port: string): string | undefined => {
  const [id = '', name = ''] = splitTarget(port) ?? []
  const { module: modules, parent } = patchIndex(patch)
  const module = modules.get(id)
  if (module?.type === 'portin') {
    const group = parent.get(id)
    return group && `${group.id}.${portName(module)}`
  }
  if (module?.type !== 'group') return undefined
  const inner = module.inside?.modules.find((one) => one.type === 'portout' && portName(one) === name)
  return inner && `${inner.id}.in`
}

/**
 * The output whose signal is exactly what comes out of a port of a group; the port itself where it is no such port, or where
 * what comes out is a sum or is made louder on the way.
 */
export const sourceBehind = (patch: Patch, port: string): string => {
  let found = port
  for (let step = 0; step < MOST_STEPS; step += 1) {
    const end = handedOn(patch, found)
    if (end === undefined) return found
    const into = patchIndex(patch).cables.filter(({ cable }) => cable.to === end && cable.muted !== true)
    const [only] = into
    if (!only || into.length > 1 || (only.cable.amount ?? 1) !== 1) return port
    const { fromModule, fromPort } = endsOf(only.cable)
    found = `${fromModule}.${fromPort}`
  }
  return port
}
