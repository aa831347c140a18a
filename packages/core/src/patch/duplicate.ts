/** Copies of modules beside them. */
import type { Draft } from 'immer'
import { clipOf, pasteClip } from './clip.ts'
import { freshCableId } from './edits.ts'
import { levelIn } from './levels.ts'
import type { Patch } from './types.ts'
import { endsOf } from './walk.ts'

/**
 * Copies modules of one level with the wiring between them (and, if wished, the wiring into them).
 *
 * @returns The new ids, in the order of the old ones.
 */
export const duplicate = (
  draft: Draft<Patch>,
  ids: readonly string[],
  offset: number,
  withIncoming = false,
  group?: string,
): string[] => {
  const level = levelIn(draft, group),
    before = [...level.cables]
  const clip = clipOf({ ...(draft as Patch), ...(level as unknown as Patch) }, new Set(ids))
  const pasted = pasteClip(draft, clip, offset, offset, group),
    names = new Map(clip.modules.map(({ id }, n) => [id, pasted[n]!]))
  if (withIncoming)
    for (const cable of before) {
      const { fromModule, toModule, toPort } = endsOf(cable)
      const target = names.get(toModule)
      if (target === undefined || names.has(fromModule)) continue
      level.cables.push({
        ...cable,
        id: freshCableId(draft as Patch),
        from: cable.from,
        to: `${target}.${toPort}`,
      })
    }
  return ids.flatMap((id) => names.get(id) ?? [])
}
