/**
 * A kit's folder: its files, each whole or not there, and beside them, while it is being made, a folder with what is
 * rendered and a journal of what is done.
 */
import {
  closeSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
  writeSync,
  existsSync,
} from 'node:fs'
import { dirname, join } from 'node:path'
import { crc32 } from 'node:zlib'
import { type KitDone, type KitStore, KitStop, type WrittenFile } from '@ypsilon/core/takes/kit/run.ts'
import { Zip, ZipPassThrough } from 'fflate'
import { BadInput } from '../bad-input.ts'
import { reason } from '../files.ts'
import { sizeWords } from '../targets.ts'

const WORK = '.ypsilon-kit'
const JOURNAL = 'journal.jsonl',
  LOCK = 'lock',
  ORIGIN = 'origin'
/** What a ZIP archive without its later extension can tell of. */
const MOST_ZIP = 0xffffffff
const ZIP_ENTRY = 200

export const workFolder = (folder: string): string => join(folder, WORK)
export const soundFile = (name: string): string => `${name}.sound.wav`

/** A file, piece by piece: it is there when all of it is on the disk; `safe`: after a power failure as well. */
export const writeWhole = (
  work: string,
  place: string,
  name: string,
  pieces: Iterable<Uint8Array>,
  safe = true,
): WrittenFile => {
  const part = join(work, `${process.pid}-${crc32(place)}.part`)
  let bytes = 0,
    crc = 0
  try {
    const handle = openSync(part, 'w')
    try {
      for (const piece of pieces) {
        for (let at = 0; at < piece.length;) at += writeSync(handle, piece, at, piece.length - at)
        bytes += piece.length
        crc = crc32(piece, crc)
      }
      if (safe) fsyncSync(handle)
    } finally {
      closeSync(handle)
    }
    mkdirSync(dirname(place), { recursive: true })
    renameSync(part, place)
  } catch (error) {
    rmSync(part, { force: true })
    // Nothing else could be written either.
    throw new KitStop(`${place}: ${reason(error)}`)
  }
  return { name, bytes, crc }
}

interface Line {
  readonly name: string
  readonly done: KitDone
}

/** Lines of a journal; one that was not finished ends it. */
const linesOf = (file: string): Line[] => {
  if (!existsSync(file)) return []
  const lines: Line[] = []
  for (const text of readFileSync(file, 'utf8').split('\n')) {
    if (text === '') continue
    try {
      lines.push(JSON.parse(text) as Line)
    } catch {
      break
    }
  }
  return lines
}

const isWhole = (place: string, { bytes, crc }: WrittenFile): boolean => {
  if (!existsSync(place)) return false
  const found = readFileSync(place)
  return found.length === bytes && crc32(found) === crc
}

const isAlive = (pid: number): boolean => {
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
}

export class KitFolder implements KitStore {
  readonly done = new Map<string, KitDone>()
  private readonly work: string
  private journal: number | undefined

  private constructor(private readonly folder: string) {
    this.work = workFolder(folder)
  }

  /**
   * Opens a folder to make a kit in it, as the only one. With `resume` what is there of the same kit is gone on with;
   * without, it is begun anew.
   */
  static open(folder: string, origin: string, resume: boolean): KitFolder {
    const opened = new KitFolder(folder)
    try {
      mkdirSync(opened.work, { recursive: true })
      opened.lock()
      opened.begin(origin, resume)
      return opened
    } catch (error) {
      throw error instanceof BadInput ? error : new BadInput([`${folder}: ${reason(error)}`])
    }
  }

  private lock(): void {
    const file = join(this.work, LOCK)
    if (existsSync(file)) {
      const pid = Number(readFileSync(file, 'utf8'))
      if (pid !== process.pid && isAlive(pid))
        throw new BadInput([`${this.folder}: another kit is being made in this folder (process ${pid})`])
    }
    writeFileSync(file, String(process.pid))
  }

  private begin(origin: string, resume: boolean): void {
    const file = join(this.work, ORIGIN),
      journal = join(this.work, JOURNAL)
    const before = existsSync(file) ? readFileSync(file, 'utf8') : undefined
    if (resume && before !== undefined && before !== origin) {
      rmSync(join(this.work, LOCK), { force: true })
      throw new BadInput([
        `${this.folder}: what was begun here is another kit, or its patch was changed; leave --resume out to begin anew`,
      ])
    }
    if (resume && before !== undefined) this.recall(linesOf(journal))
    else rmSync(journal, { force: true })
    writeFileSync(file, origin)
    // What was not whole is not told again.
    this.journal = openSync(journal, 'w')
    for (const [name, done] of this.done) this.note({ name, done })
  }

  /** What a journal tells and is still as it was; of one name the last. */
  private recall(lines: readonly Line[]): void {
    for (const { name, done } of lines) {
      const { facts, kept, files } = done
      if (files.length > 0 && files.every((file) => isWhole(join(this.folder, file.name), file)))
        this.done.set(name, done)
      else if (kept.length > 0 && kept.every((file) => isWhole(join(this.work, file.name), file)))
        this.done.set(name, { facts, kept, files: [] })
    }
  }

  private note(line: Line): void {
    try {
      writeSync(this.journal!, `${JSON.stringify(line)}\n`)
    } catch (error) {
      throw new KitStop(`${this.folder}: ${reason(error)}`)
    }
  }

  keep(name: string, done: KitDone): Promise<void> {
    this.note({ name, done })
    return Promise.resolve()
  }

  private write(name: string, pieces: Iterable<Uint8Array>): Promise<WrittenFile> {
    return Promise.resolve(writeWhole(this.work, join(this.folder, name), name, pieces))
  }

  writeText(name: string, text: string): Promise<WrittenFile> {
    return this.write(name, [new TextEncoder().encode(text)])
  }

  writeZip(name: string, files: readonly WrittenFile[]): Promise<WrittenFile> {
    const size = files.reduce((sum, { bytes }) => sum + bytes + ZIP_ENTRY, 0)
    if (size > MOST_ZIP)
      throw new KitStop(
        `${name}: ${sizeWords(size)} are more than a ZIP archive holds (${sizeWords(MOST_ZIP)}); ask for this kit without it, with --resume`,
      )
    return this.write(name, zipPieces(this.folder, files))
  }

  /** The kit is whole: what was beside it goes. */
  finish(): void {
    this.close()
    rmSync(this.work, { recursive: true, force: true })
  }

  /** It goes on another time. */
  close(): void {
    if (this.journal !== undefined) closeSync(this.journal)
    this.journal = undefined
    rmSync(join(this.work, LOCK), { force: true })
  }
}

/** An archive of files as they are, all of one time. */
function* zipPieces(folder: string, files: readonly WrittenFile[]): Generator<Uint8Array> {
  let pieces: Uint8Array[] = []
  const zip = new Zip((error, piece) => {
    if (error) throw error
    pieces.push(piece)
  })
  for (const { name } of files) {
    const entry = new ZipPassThrough(name)
    // By the clock of the place, which is what the format tells: the same everywhere.
    entry.mtime = new Date(1980, 0, 1)
    zip.add(entry)
    entry.push(readFileSync(join(folder, name)), true)
    yield* pieces
    pieces = []
  }
  zip.end()
  yield* pieces
}
