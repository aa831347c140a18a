import type { Patch } from '@ypsilon/core'
import { audioAssets, type AudioStore } from '../kept/audio-store.ts'
import type { Notifier } from '../services/notifier.ts'
import { download } from './download.ts'

export const fileName = (name: string): string =>
  name
    .trim()
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '-')
    .replace(/^-|-$/g, '') || 'patch'

const textOf = (patch: unknown): string => `${JSON.stringify(patch, null, 2)}\n`

/** Anything that was once a patch as a file, whatever state it is in. */
export const exportText = (name: string, value: unknown): void => {
  download(`${fileName(name)}.ypatch.json`, new Blob([textOf(value)], { type: 'application/json' }))
}

export interface ExportParts {
  readonly audio: AudioStore
  readonly notifier: Notifier
}

/** A patch as a file: an archive with its audio where it has any. */
export const exportPatch = async ({ audio, notifier }: ExportParts, patch: Patch): Promise<void> => {
  const assets = audioAssets(patch)
  if (assets.length === 0) {
    exportText(patch.name, patch)
    return
  }
  const { strToU8, zipSync } = await import('fflate')
  const files: Record<string, Uint8Array> = { 'patch.json': strToU8(textOf(patch)) },
    missing: string[] = []
  for (const { id, hash, file } of assets) {
    const bytes = await audio.bytes(hash).catch(() => null)
    if (bytes) Object.assign(files, { [file]: bytes })
    else missing.push(id)
  }
  if (missing.length > 0)
    notifier.warning(`The file lacks the audio of ${missing.join(', ')}: it is not kept in this browser.`)
  download(
    `${fileName(patch.name)}.ypatch.zip`,
    new Blob([zipSync(files, { level: 0 }) as BlobPart], { type: 'application/zip' }),
  )
}
