import {
  closeSync,
  existsSync,
  fstatSync,
  openSync,
  readFileSync,
  readSync,
  realpathSync,
  type Stats,
  statSync,
} from 'node:fs'
import { dirname, join, sep } from 'node:path'
import {
  Archive,
  faultText,
  isArchive,
  mib,
  parsePatch,
  type Patch,
  pathFault,
  readWav,
  type Sound,
} from '@ypsilon/core'
import { BadInput } from './bad-input.ts'

const REASONS = new Map([
  ['ENOENT', 'there is no such file or folder'],
  ['EACCES', 'permission is missing'],
  ['EPERM', 'permission is missing'],
  ['EISDIR', 'this is a folder'],
  ['ENOSPC', 'the disk is full'],
  ['ENOTDIR', 'a part of the path is not a folder'],
  ['EROFS', 'the file system is read-only'],
  ['ELOOP', 'the links go round in a circle'],
  ['ENAMETOOLONG', 'the name is too long'],
  ['EFBIG', 'the file is too large'],
])

export const reason = (error: unknown): string =>
  REASONS.get((error as NodeJS.ErrnoException).code ?? '') ?? (error as Error).message

/** Largest files that are read, in bytes. */
const MOST_PATCH = 16 * 2 ** 20
const MOST_ARCHIVE = 2 ** 30
/** Of all recordings of a patch, decoded: the patch's own limit. */
const MOST_AUDIO = 2 ** 30
const MOST_FILE = 2 ** 30

/** What a path leads to, when it is no plain file. */
const kindOf = (stats: Stats): string =>
  stats.isDirectory() ? 'this is a folder' : 'this is a device or a pipe, not a file'

/** Reads a plain file of at most `most` bytes; devices and pipes are refused, as they may never end. */
export const readBytes = (file: string, most = MOST_FILE): Uint8Array => {
  let handle: number | undefined
  try {
    const stats = statSync(file)
    if (!stats.isFile()) throw new BadInput([`${file}: ${kindOf(stats)}`])
    handle = openSync(file, 'r')
    const { size } = fstatSync(handle)
    if (size > most) throw new BadInput([`${file}: it has ${mib(size)}, more than ${mib(most)}`])
    const bytes = new Uint8Array(size)
    let length = 0
    while (length < size) {
      const count = readSync(handle, bytes, length, size - length, null)
      if (count === 0) break
      length += count
    }
    return bytes.subarray(0, length)
  } catch (error) {
    if (error instanceof BadInput) throw error
    throw new BadInput([`${file}: ${reason(error)}`])
  } finally {
    if (handle !== undefined) closeSync(handle)
  }
}

interface AssetEntry {
  readonly kind?: unknown
  readonly file?: unknown
  readonly keysFile?: unknown
  readonly scale?: unknown
  readonly root?: unknown
}
export interface LoadedPatch {
  readonly patch: Patch
  readonly warnings: string[]
  readonly assets: ReadonlyMap<string, Sound>
  /** Everything that was read: none of it may be written over. */
  readonly files: readonly string[]
  /** Files it brings along, by the names it has for them: those that are there. */
  readonly brings: () => readonly (readonly [name: string, bytes: Uint8Array])[]
}

/** What a patch's files are read from: its folder or its archive. Missing ones are no fault of the patch. */
interface Store {
  has(name: string): boolean
  read(name: string, most: number): Uint8Array
}

/** Files beside a patch. Links may lead anywhere, so real paths are compared. */
const folderStore = (file: string): Store => {
  const folder = realpathSync(dirname(file))
  const placeOf = (name: string): string | undefined => {
    try {
      const place = realpathSync(join(folder, name))
      if (!place.startsWith(folder.endsWith(sep) ? folder : folder + sep))
        throw new BadInput([`${file}: "${name}" lies outside the patch's folder`])
      return place
    } catch (error) {
      if (error instanceof BadInput) throw error
      return undefined
    }
  }
  return {
    has: (name) => placeOf(name) !== undefined,
    read: (name, most) => readBytes(placeOf(name)!, most),
  }
}

const archiveStore = (file: string, archive: Archive): Store => ({
  has: (name) => archive.has(name),
  read: (name, most) => {
    const result = archive.read(name, most)
    if (!result.ok) throw new BadInput([`${file}: ${faultText(result.fault)}`])
    return result.bytes
  },
})

/** Reads what an asset names, or notes that it is missing. */
class Assets {
  readonly warnings: string[] = []
  constructor(
    private readonly file: string,
    private readonly store: Store,
  ) {}

  read(id: string, name: string, most: number): Uint8Array | undefined {
    const wrong = pathFault(name)
    if (wrong) throw new BadInput([`${this.file}: assets.${id}: ${wrong}`])
    if (this.store.has(name)) return this.store.read(name, most)
    this.warnings.push(`assets.${id}: there is no ${name}; what needs it is silent`)
    return undefined
  }
}

const entriesOf = (assets: unknown): [string, AssetEntry][] =>
  typeof assets === 'object' && assets !== null && !Array.isArray(assets)
    ? Object.entries(assets as Record<string, AssetEntry | null>).flatMap(([id, asset]) =>
        typeof asset === 'object' && asset !== null ? [[id, asset]] : [],
      )
    : []

/** Texts of tunings that stand in files of their own are put into the patch before it is checked. */
const withTunings = (text: string, assets: Assets): string => {
  let value: { assets?: unknown }
  try {
    value = JSON.parse(text) as typeof value
  } catch {
    return text
  }
  const entries = entriesOf(value?.assets).filter(
    ([, asset]) => asset.kind === 'tuning' && typeof asset.file === 'string' && asset.scale === undefined,
  )
  if (entries.length === 0) return text
  const decode = (id: string, name: unknown): string | undefined => {
    const bytes = typeof name === 'string' ? assets.read(id, name, MOST_PATCH) : undefined
    return bytes && new TextDecoder().decode(bytes)
  }
  const filled = new Map(Object.entries(value.assets as object))
  for (const [id, asset] of entries) {
    const scale = decode(id, asset.file),
      keys = decode(id, asset.keysFile)
    filled.set(id, {
      ...asset,
      ...(scale === undefined ? {} : { scale }),
      ...(keys === undefined ? {} : { keys }),
    })
  }
  return JSON.stringify({ ...value, assets: Object.fromEntries(filled) })
}

/** Recordings a patch names. */
const soundsOf = (patch: Patch, assets: Assets): Map<string, Sound> => {
  const sounds = new Map<string, Sound>()
  let decoded = 0
  for (const [id, asset] of entriesOf(patch['assets'])) {
    if ((asset.kind !== 'audio' && asset.kind !== 'table') || typeof asset.file !== 'string') continue
    const bytes = assets.read(id, asset.file, MOST_AUDIO)
    if (!bytes) continue
    const result = readWav(bytes, MOST_AUDIO - decoded)
    if (!result.ok) {
      assets.warnings.push(
        `assets.${id} (${asset.file}): ${faultText(result.fault)}; what needs it is silent`,
      )
      continue
    }
    if (!result.sound.channels[0]?.length)
      assets.warnings.push(`assets.${id} (${asset.file}): it holds no samples; what needs it is silent`)
    for (const channel of result.sound.channels) decoded += channel.byteLength
    sounds.set(id, typeof asset.root === 'number' ? { ...result.sound, root: asset.root } : result.sound)
  }
  return sounds
}

/** Reads and checks a patch file or a patch archive with its recordings; every fault on a line of its own. */
export const loadPatch = (file: string): LoadedPatch => {
  const bytes = readBytes(file, MOST_ARCHIVE)
  let store: Store, text: Uint8Array
  if (isArchive(bytes)) {
    const opened = Archive.open(bytes)
    if (!opened.ok) throw new BadInput([`${file}: ${faultText(opened.fault)}`])
    store = archiveStore(file, opened.archive)
    text = store.read('patch.json', MOST_PATCH)
  } else {
    if (bytes.length > MOST_PATCH)
      throw new BadInput([`${file}: a patch of ${mib(bytes.length)} is larger than ${mib(MOST_PATCH)}`])
    store = folderStore(file)
    text = bytes
  }
  const assets = new Assets(file, store)
  const result = parsePatch(withTunings(new TextDecoder().decode(text), assets))
  if (!result.ok) throw new BadInput(result.faults.map((fault) => `${file}: ${faultText(fault)}`))
  const sounds = soundsOf(result.value, assets)
  return {
    patch: result.value,
    warnings: [...result.warnings.map(faultText), ...assets.warnings],
    assets: sounds,
    files: [file, ...namedIn(result.value).map((name) => join(dirname(file), name))],
    brings: () =>
      namedIn(result.value).flatMap((name) =>
        store.has(name) ? [[name, store.read(name, MOST_AUDIO)] as const] : [],
      ),
  }
}

/** Files that a patch's assets name. */
const namedIn = (patch: Patch): string[] => [
  ...new Set(
    entriesOf(patch['assets']).flatMap(([, { file, keysFile }]) =>
      [file, keysFile].filter((name) => typeof name === 'string'),
    ),
  ),
]

let compiled: WebAssembly.Module | undefined
/** Beside the built program, and where the sources have them. */
const KERNELS = ['./kernels.wasm', '../../core/src/generated/kernels.wasm']
export const kernelsFile = (): URL =>
  KERNELS.map((name) => new URL(name, import.meta.url)).find((url) => existsSync(url))!
/** The kernels. */
export const kernels = (): WebAssembly.Module =>
  (compiled ??= new WebAssembly.Module(readFileSync(kernelsFile()) as unknown as BufferSource))
