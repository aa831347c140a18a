/** Parts that are kept to be put into patches again: sections, modules of one's own, settings of a module. */
import { type Clip, clipText, type ParamValue, PATCH_VERSION, readClip } from '@ypsilon/core'
import type { Box } from './database.ts'
import { bodyKey, freshHead, type Head, headKey, writeBody } from './records.ts'

/** Settings of a module of some type. */
export interface Settings {
  readonly type: string
  readonly params: Readonly<Record<string, ParamValue>>
  readonly data: Readonly<Record<string, unknown>>
}

/** Modules as they are put in, or settings for one. */
export type PartContent = { readonly clip: Clip } | { readonly settings: Settings }

interface PartBody {
  readonly head: Head
  /** Version of the patch format it was written in. */
  readonly format: number
  readonly content: PartContent
}

export type PartKind = 'section' | 'module' | 'preset'

/** Kinds of documents that are parts. */
export const isPart = ({ kind, putAside }: Head): boolean =>
  putAside === undefined && (kind === 'section' || kind === 'module' || kind === 'preset')

/** Keeps a new part; its id. `of`: the type of module that settings are for. */
export const keepPart = async (
  box: Box,
  kind: PartKind,
  name: string,
  now: number,
  contentOf: (id: string) => PartContent,
  of?: string,
): Promise<string> => {
  const head = { ...freshHead(kind, name, now), ...(of === undefined ? {} : { of }) }
  await writeBody<PartBody>(box, { head, format: PATCH_VERSION, content: contentOf(head.id) })
  return head.id
}

/** Puts something else in the place of what is kept of a part, under the name it is given now. False where it is not kept any more. */
export const rewritePart = async (
  box: Box,
  id: string,
  name: string,
  now: number,
  content: PartContent,
): Promise<boolean> => {
  const head = await box.get<Head>(headKey(id))
  if (!head || head.putAside !== undefined) return false
  const changed = { ...head, name, changed: now, used: now, revision: head.revision + 1 }
  await writeBody<PartBody>(box, { head: changed, format: PATCH_VERSION, content })
  return true
}

/** What is kept of a part; a sentence where it cannot be read. */
export const readPart = async (box: Box, id: string): Promise<PartContent | string> => {
  const body = await box.get<Partial<PartBody>>(bodyKey(id))
  const { content, format = 0 } = body ?? {}
  if (format > PATCH_VERSION) return 'it was kept by a newer version of this page'
  if (!content) return 'what was kept of it is not there'
  if ('settings' in content) return content
  // Read as a file is: the store may have been written by anything.
  const read = readClip(clipText(content.clip))
  return read.ok ? { clip: read.clip } : (read.faults[0]?.message ?? 'what was kept of it is damaged')
}
