import type { Patch } from '@ypsilon/core'

/** What goes into the output, while nothing is pinned. */
export const outputSource = (patch: Patch): string | undefined => {
  const outputs = new Set(
    patch.modules.filter((module) => module.type === 'output').map((module) => `${module.id}.in`),
  )
  return patch.cables.find((cable) => outputs.has(cable.to))?.from
}
