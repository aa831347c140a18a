/**
 * ZIP archives, read without trust (PKWARE APPNOTE 6.3.10): nothing is unpacked but what is asked for by name, never more
 * than is stated and allowed, and its checksum must agree. Stored and deflated entries; no ZIP64, no encryption.
 */
import { Inflate } from 'fflate'
import type { Fault } from '../patch/types.ts'
import { mib } from '../units/bytes.ts'

const END = 0x06054b50,
  ENTRY = 0x02014b50,
  LOCAL = 0x04034b50
const END_BYTES = 22,
  ENTRY_BYTES = 46,
  LOCAL_BYTES = 30
const LONGEST_COMMENT = 65535
const MOST_ENTRIES = 10_000
/** Packed bytes that are unpacked in one go: a bomb is noticed after so many at the latest. */
const PIECE = 16384

interface Entry {
  readonly name: string
  readonly method: number
  readonly encrypted: boolean
  readonly crc: number
  readonly packed: number
  readonly size: number
  readonly offset: number
}

export type BytesResult =
  { readonly ok: true; readonly bytes: Uint8Array } | { readonly ok: false; readonly fault: Fault }

const refuse = (message: string, place = ''): { readonly ok: false; readonly fault: Fault } => ({
  ok: false,
  fault: { place, message },
})

const CRC_TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n
  for (let k = 0; k < 8; k += 1) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1
  return c >>> 0
})

/** CRC-32 of ISO 3309, as ZIP uses it. */
export const crc32 = (bytes: Uint8Array): number => {
  let c = 0xffffffff
  for (const byte of bytes) c = (c >>> 8) ^ CRC_TABLE[(c ^ byte) & 255]!
  return (c ^ 0xffffffff) >>> 0
}

/** Why a name may not stand in an archive or as an asset's file; undefined when it may. */
export const pathFault = (name: string): string | undefined => {
  if (name === '') return 'has no name'
  if (/[\u0000-\u001f\\]/.test(name)) return 'has a name with control characters or backslashes'
  if (/^(\/|[a-zA-Z]:)/.test(name) || name.split('/').includes('..'))
    return `"${name}" lies outside the patch's folder or archive`
  return undefined
}

/** Does a file begin as an archive does? */
export const isArchive = (bytes: Uint8Array): boolean =>
  bytes[0] === 0x50 && bytes[1] === 0x4b && (bytes[2] === 3 || bytes[2] === 5)

export class Archive {
  private constructor(
    private readonly bytes: Uint8Array,
    private readonly entries: ReadonlyMap<string, Entry>,
  ) {}

  /** Reads the directory alone. */
  static open(
    bytes: Uint8Array,
  ): { readonly ok: true; readonly archive: Archive } | { readonly ok: false; readonly fault: Fault } {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    const end = endOf(view)
    if (end === undefined) return refuse('the archive has no directory: it is cut off or no ZIP file')
    const count = view.getUint16(end + 10, true)
    let at = view.getUint32(end + 16, true)
    if (count === 0xffff || at === 0xffffffff) return refuse('the archive is too large (ZIP64)')
    if (count > MOST_ENTRIES) return refuse(`the archive holds ${count} files, more than ${MOST_ENTRIES}`)
    const entries = new Map<string, Entry>()
    for (let n = 0; n < count; n += 1) {
      if (at + ENTRY_BYTES > end || view.getUint32(at, true) !== ENTRY)
        return refuse('the directory of the archive is damaged', `byte ${at}`)
      const entry = entryAt(view, bytes, at)
      const wrong = pathFault(entry.name)
      if (wrong) return refuse(`an entry ${wrong}`, `byte ${at}`)
      if (entries.has(entry.name)) return refuse(`"${entry.name}" stands twice in the archive`)
      entries.set(entry.name, entry)
      at +=
        ENTRY_BYTES +
        view.getUint16(at + 28, true) +
        view.getUint16(at + 30, true) +
        view.getUint16(at + 32, true)
    }
    return { ok: true, archive: new Archive(bytes, entries) }
  }

  has(name: string): boolean {
    return this.entries.has(name)
  }

  /** One file, unpacked and checked; a fault when it would be larger than `most` bytes. */
  read(name: string, most: number): BytesResult {
    const entry = this.entries.get(name)
    if (!entry) return refuse(`there is no ${name} in the archive`)
    const large = (size: number): string => `takes ${mib(size)} unpacked, more than ${mib(most)}`
    if (entry.encrypted) return refuse('is encrypted', name)
    if (entry.size > most || entry.packed > most + most / 8 + 1024)
      return refuse(large(Math.max(entry.size, entry.packed)), name)
    const view = new DataView(this.bytes.buffer, this.bytes.byteOffset, this.bytes.byteLength)
    const { offset } = entry
    if (offset + LOCAL_BYTES > this.bytes.length || view.getUint32(offset, true) !== LOCAL)
      return refuse('its place in the archive is damaged', name)
    const start = offset + LOCAL_BYTES + view.getUint16(offset + 26, true) + view.getUint16(offset + 28, true)
    if (start + entry.packed > this.bytes.length) return refuse('is cut off', name)
    const packed = this.bytes.subarray(start, start + entry.packed)
    const unpacked =
      entry.method === 0 ? packed : entry.method === 8 ? inflated(packed, entry.size) : undefined
    if (!unpacked) return refuse(`is packed in a way that cannot be read (${entry.method})`, name)
    if (typeof unpacked === 'string') return refuse(unpacked, name)
    if (unpacked.length !== entry.size) return refuse('is not as long as the archive says', name)
    if (crc32(unpacked) !== entry.crc) return refuse('is damaged: its checksum does not agree', name)
    return { ok: true, bytes: unpacked }
  }
}

const endOf = (view: DataView): number | undefined => {
  const first = Math.max(0, view.byteLength - END_BYTES - LONGEST_COMMENT)
  for (let at = view.byteLength - END_BYTES; at >= first; at -= 1)
    if (view.getUint32(at, true) === END) return at
  return undefined
}

const entryAt = (view: DataView, bytes: Uint8Array, at: number): Entry => ({
  encrypted: (view.getUint16(at + 8, true) & 1) === 1,
  method: view.getUint16(at + 10, true),
  crc: view.getUint32(at + 16, true),
  packed: view.getUint32(at + 20, true),
  size: view.getUint32(at + 24, true),
  offset: view.getUint32(at + 42, true),
  name: new TextDecoder().decode(
    bytes.subarray(at + ENTRY_BYTES, at + ENTRY_BYTES + view.getUint16(at + 28, true)),
  ),
})

/** Unpacks no more than `size` bytes; words where that is not what comes out. */
const inflated = (packed: Uint8Array, size: number): Uint8Array | string => {
  const out = new Uint8Array(size)
  let length = 0,
    tooLong = false
  const inflate = new Inflate((piece) => {
    if (length + piece.length > size) tooLong = true
    else out.set(piece, length)
    length += piece.length
  })
  try {
    for (let at = 0; !tooLong && at < packed.length; at += PIECE)
      inflate.push(packed.subarray(at, at + PIECE), at + PIECE >= packed.length)
  } catch (error) {
    return `is damaged (${(error as Error).message})`
  }
  if (tooLong) return 'is longer than the archive says'
  return length === size ? out : 'is shorter than the archive says'
}
