/** Names a formula may use, by what the patch connects to them, and what they hold now. */
import {
  descriptionOf,
  endWords,
  labelOf,
  own,
  type Patch,
  patchIndex,
  type PatchModule,
} from '@ypsilon/core'
import { MODULE_INPUTS, OUTPUTS } from '@ypsilon/core/formula/language.ts'
import type { Ink } from '../../frames.ts'
import { cablesTo } from '../../cable-index.ts'
import type { FormulaName } from './formula-language.ts'

/** Of a formula module: its inputs and fields, with what comes to them. */
export const namesOfModule = (patch: Patch, { id }: PatchModule): readonly FormulaName[] =>
  [...MODULE_INPUTS, ...OUTPUTS].map((name) => {
    const from = cablesTo(patch, `${id}.${name}`).map((cable) => endWords(patch, cable.from))
    if (from.length > 0) return { name, does: from.join(' + ') }
    if (OUTPUTS.includes(name)) return { name, does: 'what comes out' }
    return { name, does: name.startsWith('p') ? 'a field of its own' : 'nothing connected: 0' }
  })

/** Of a field: every output, parameter and macro of the patch. */
export const namesOfPatch = (patch: Patch): readonly FormulaName[] => [
  ...patchIndex(patch).modules.flatMap(({ module }) => {
    const description = descriptionOf(module),
      label = labelOf(patch, module.id)
    return [
      ...(description?.outputs ?? []).map((port) => ({
        name: `${module.id}.${port.name}`,
        does: `${label} ${port.label ?? port.name}`,
      })),
      ...(description?.params ?? [])
        .filter(({ kind }) => kind === 'number')
        .map((param) => ({
          name: `${module.id}.${param.name}`,
          does: `${label}, ${param.label.toLowerCase()}`,
        })),
    ]
  }),
  ...(patch.macros ?? []).map(({ id, name }) => ({ name: `macro:${id}`, does: name })),
]

/** Signals that tell what the names of a formula module hold. */
export const signalsOfModule = (patch: Patch, { id }: PatchModule): readonly string[] => [
  ...MODULE_INPUTS.flatMap((name) =>
    name.startsWith('p') ? [`>${id}.${name}`] : cablesTo(patch, `${id}.${name}`).map(({ from }) => from),
  ),
  ...OUTPUTS.map((name) => `${id}.${name}`),
]

/** What a name of a formula module holds now, from outside of its text; undefined where that is not known. */
export const givenNow = (
  ink: Ink,
  patch: Patch,
  { id, params }: PatchModule,
  name: string,
): number | undefined => {
  if (!MODULE_INPUTS.includes(name)) return undefined
  if (name.startsWith('p')) {
    const moved = ink.picture(`>${id}.${name}`)?.last,
      set = own(params, name)
    return moved ?? (typeof set === 'number' ? set : 0)
  }
  return cablesTo(patch, `${id}.${name}`).reduce(
    (sum, { from, amount = 1, muted }) =>
      sum + (muted === true ? 0 : amount * (ink.picture(from)?.last ?? 0)),
    0,
  )
}
