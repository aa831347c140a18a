import { readFileSync, writeFileSync, renameSync, rmSync } from 'node:fs'
import { strFromU8, unzipSync } from 'fflate'
import { dirname, join, normalize } from 'node:path'
import { faultText, parsePatch, type Patch, readWav, type Sound } from '@ypsilon/core'
import { BadInput } from './bad-input.ts'

const REASONS: Readonly<Record<string, string>> = {
  ENOENT: 'there is no such file or folder',
  EACCES: 'permission is missing',
  EISDIR: 'this is a folder',
  ENOSPC: 'the disk is full',
  ENOTDIR: 'a part of the path is not a folder',
  EROFS: 'the file system is read-only',
}

const reason = (error: unknown): string =>
  REASONS[(error as NodeJS.ErrnoException).code ?? ''] ?? (error as Error).message

export const readBytes = (file: string): Uint8Array => {
  try {
    return readFileSync(file)
  } catch (error) {
    throw new BadInput([`${file}: ${reason(error)}`])
  }
}

/** Writes beside and renames, so that a file is whole or not there. */
export const writeBytes = (file: string, bytes: Uint8Array): void => {
  const beside = `${file}.part-${process.pid}`
  try {
    writeFileSync(beside, bytes)
    renameSync(beside, file)
  } catch (error) {
    rmSync(beside, { force: true })
    throw new BadInput([`${file}: ${reason(error)}`])
  }
}

interface AssetEntry {
  readonly kind?: unknown
  readonly file?: unknown
  readonly keysFile?: unknown
  readonly scale?: unknown
}
export interface LoadedPatch {
  readonly patch: Patch
  readonly warnings: string[]
  readonly assets: ReadonlyMap<string, Sound>
}

/** Texts of tunings that stand in files of their own are put into the patch before it is checked. */
const withTunings = (text: string, bytesOf: (name: string) => Uint8Array): string => {
  let value: { assets?: Record<string, AssetEntry | null> }
  try {
    value = JSON.parse(text) as typeof value
  } catch {
    return text
  }
  const entries = Object.entries(value?.assets ?? {}).filter(
    ([, asset]) => asset?.kind === 'tuning' && typeof asset.file === 'string' && asset.scale === undefined,
  )
  if (entries.length === 0) return text
  const decode = (name: unknown): string => new TextDecoder().decode(bytesOf(String(name)))
  const assets = Object.fromEntries(
    entries.map(([id, asset]) => [
      id,
      {
        ...asset,
        scale: decode(asset!.file),
        ...(typeof asset!.keysFile === 'string' ? { keys: decode(asset!.keysFile) } : {}),
      },
    ]),
  )
  return JSON.stringify({ ...value, assets: { ...value.assets, ...assets } })
}

/** Recordings a patch names, read from beside it or from its archive. */
const soundsOf = (file: string, patch: Patch, bytesOf: (name: string) => Uint8Array): Map<string, Sound> => {
  const sounds = new Map<string, Sound>()
  for (const [id, asset] of Object.entries((patch['assets'] ?? {}) as Record<string, AssetEntry>)) {
    if (asset?.kind !== 'audio' && asset?.kind !== 'table') continue
    if (typeof asset.file !== 'string') throw new BadInput([`${file}: assets.${id}.file: is missing`])
    const result = readWav(bytesOf(asset.file))
    if (!result.ok) throw new BadInput([`${file}: assets.${id} (${asset.file}): ${faultText(result.fault)}`])
    sounds.set(id, result.sound)
  }
  return sounds
}

/** Reads and checks a patch file or a patch archive with its recordings; every fault on a line of its own. */
export const loadPatch = (file: string): LoadedPatch => {
  const bytes = readBytes(file)
  let text: string
  let bytesOf = (name: string): Uint8Array => {
    const inside = normalize(name)
    if (inside.startsWith('..') || inside.startsWith('/'))
      throw new BadInput([`${file}: "${name}" lies outside the patch's folder`])
    return readBytes(join(dirname(file), inside))
  }
  if (bytes[0] === 0x50 && bytes[1] === 0x4b) {
    let entries: Record<string, Uint8Array>
    try {
      entries = unzipSync(bytes)
    } catch (error) {
      throw new BadInput([`${file}: the archive cannot be read (${(error as Error).message})`])
    }
    const entry = entries['patch.json']
    bytesOf = (name) => {
      const found = entries[name]
      if (!found) throw new BadInput([`${file}: there is no ${name} in the archive`])
      return found
    }
    if (!entry) throw new BadInput([`${file}: there is no patch.json in the archive`])
    text = strFromU8(entry)
  } else {
    text = new TextDecoder().decode(bytes)
  }
  const result = parsePatch(withTunings(text, bytesOf))
  if (!result.ok) throw new BadInput(result.faults.map((fault) => `${file}: ${faultText(fault)}`))
  return {
    patch: result.value,
    warnings: result.warnings.map(faultText),
    assets: soundsOf(file, result.value, bytesOf),
  }
}

let compiled: WebAssembly.Module | undefined
/** The kernels, beside this program. */
export const kernels = (): WebAssembly.Module => {
  compiled ??= new WebAssembly.Module(
    readFileSync(new URL('./kernels.wasm', import.meta.url)) as unknown as BufferSource,
  )
  return compiled
}
