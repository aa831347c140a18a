/**
 * Files a command writes: whole or not at all. Each is written beside its place and renamed after all are complete; what
 * is no plain file (a device, a pipe) is written to when all is done. Nothing that was read is ever written over.
 */
import {
  chmodSync,
  closeSync,
  copyFileSync,
  existsSync,
  fsyncSync,
  linkSync,
  lstatSync,
  openSync,
  readlinkSync,
  readSync,
  realpathSync,
  renameSync,
  rmSync,
  statfsSync,
  statSync,
  writeSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, dirname, join, resolve } from 'node:path'
import { BadInput } from './bad-input.ts'
import { reason } from './files.ts'

/** Of a name: what is left of 255 bytes for what is put before and behind it. */
const LONGEST_NAME = 64
/** Links that are followed before they are taken for a circle. */
const MOST_LINKS = 40

/** Where a path really leads, links followed, though nothing may be there yet. */
const realPlace = (file: string): string => {
  let place = resolve(file)
  for (let n = 0; n < MOST_LINKS; n += 1) {
    const link = lstatSync(place, { throwIfNoEntry: false })
    if (!link?.isSymbolicLink()) return join(realpathSync(dirname(place)), basename(place))
    place = resolve(dirname(place), readlinkSync(place))
  }
  throw new BadInput([`${file}: the links go round in a circle`])
}

/** Two paths of one file: the same place, or names of the same thing on a disk. */
const sameFile = (a: string, b: string): boolean => {
  if (a === b) return true
  const [one, other] = [a, b].map((file) => statSync(file, { throwIfNoEntry: false }))
  return one !== undefined && other !== undefined && one.dev === other.dev && one.ino === other.ino
}

/** One file to be written. */
export class Target {
  /** What was given, for faults. */
  readonly name: string
  readonly place: string
  /** Devices and pipes cannot be renamed over. */
  readonly isPlain: boolean
  private readonly mode: number | undefined
  /** Where the bytes go first, and the folder of that. */
  private readonly part: string
  readonly folder: string
  private handle: number | undefined
  private opened = false
  private position = 0

  constructor(file: string) {
    this.name = file
    try {
      const stats = statSync(file, { throwIfNoEntry: false })
      if (stats?.isDirectory()) throw new BadInput([`${file}: this is a folder`])
      this.isPlain = stats === undefined || stats.isFile()
      // What stands behind a device's name may be no path at all.
      this.place = this.isPlain ? realPlace(file) : resolve(file)
      this.mode = stats?.isFile() ? stats.mode & 0o7777 : undefined
      this.folder = this.isPlain ? dirname(this.place) : realpathSync(tmpdir())
      this.part = join(this.folder, `.${basename(this.place).slice(0, LONGEST_NAME)}.part-${process.pid}`)
    } catch (error) {
      throw wrapped(file, error)
    }
  }

  open(): void {
    this.guarded(() => {
      // A program of the same number may have died here.
      rmSync(this.part, { force: true })
      this.opened = true
      this.handle = openSync(this.part, 'wx', this.mode ?? 0o666)
    })
  }

  write(bytes: Uint8Array): void {
    this.position = this.writeAt(bytes, this.position)
  }

  /** Writes over what stands at the beginning. */
  patch(bytes: Uint8Array): void {
    this.writeAt(bytes, 0)
  }

  private writeAt(bytes: Uint8Array, from: number): number {
    let at = 0
    this.guarded(() => {
      while (at < bytes.length) at += writeSync(this.handle!, bytes, at, bytes.length - at, from + at)
    })
    return from + at
  }

  /** Everything is on the disk. */
  finish(): void {
    this.guarded(() => {
      if (this.handle === undefined) return
      fsyncSync(this.handle)
      closeSync(this.handle)
      this.handle = undefined
      if (this.mode !== undefined) chmodSync(this.part, this.mode)
    })
  }

  /** Puts the finished file in its place; what undoes that. */
  take(): () => void {
    return this.guarded(() => {
      if (!this.isPlain) {
        pour(this.part, this.place)
        return () => undefined
      }
      const before = existsSync(this.place) ? `${this.part}-before` : undefined
      if (before) keepAs(this.place, before)
      renameSync(this.part, this.place)
      return (back = true) => {
        if (before && back) renameSync(before, this.place)
        else if (before) rmSync(before, { force: true })
        else if (back) rmSync(this.place, { force: true })
      }
    })
  }

  /** Removes what is unfinished. */
  drop(): void {
    if (this.handle !== undefined) closeSync(this.handle)
    if (this.opened) {
      rmSync(this.part, { force: true })
      rmSync(`${this.part}-before`, { force: true })
    }
    this.handle = undefined
    this.opened = false
  }

  private guarded<T>(act: () => T): T {
    try {
      return act()
    } catch (error) {
      throw wrapped(this.name, error)
    }
  }
}

const wrapped = (file: string, error: unknown): BadInput =>
  error instanceof BadInput ? error : new BadInput([`${file}: ${reason(error)}`])

/** A second name for a file, or a copy where names cannot be shared. */
const keepAs = (file: string, name: string): void => {
  try {
    linkSync(file, name)
  } catch {
    copyFileSync(file, name)
  }
}

const PIECE = 2 ** 20
const pour = (from: string, to: string): void => {
  const source = openSync(from, 'r')
  try {
    const goal = openSync(to, 'w')
    try {
      const piece = new Uint8Array(PIECE)
      for (let count = readSync(source, piece); count > 0; count = readSync(source, piece))
        for (let at = 0; at < count;) at += writeSync(goal, piece, at, count - at)
    } finally {
      closeSync(goal)
    }
  } finally {
    closeSync(source)
  }
}

/** Targets of one command: none of them is an input, no two of them are one. */
export const targetsFor = (files: readonly string[], inputs: readonly string[]): Target[] => {
  const targets: Target[] = []
  for (const file of files) {
    const target = new Target(file)
    for (const other of targets)
      // Several may go into one device.
      if (target.isPlain && sameFile(other.place, target.place))
        throw new BadInput([`${file}: ${other.name} is the same file`])
    for (const input of inputs)
      if (existsSync(input) && sameFile(realpathSync(input), target.place))
        throw new BadInput([`${file}: this is ${input}, which is read; write to another file`])
    targets.push(target)
  }
  return targets
}

/** Refuses to write files of a folder over what is read. */
export const refuseInputs = (folder: string, names: readonly string[], inputs: readonly string[]): void => {
  const read = inputs.filter((file) => existsSync(file)).map((file) => realpathSync(file))
  for (const name of names) {
    const place = join(folder, name)
    if (existsSync(place) && read.some((file) => sameFile(file, realpathSync(place))))
      throw new BadInput([`${place}: this is read; write to another folder`])
  }
}

/** Refuses what does not fit onto its disk, before anything is written. */
export const checkSpace = (needs: readonly { readonly target: Target; readonly bytes: number }[]): void => {
  const disks = new Map<number, { bytes: number; readonly target: Target }>()
  for (const { target, bytes } of needs) {
    const { dev } = statSync(target.folder)
    const disk = disks.get(dev)
    if (disk) disk.bytes += bytes
    else disks.set(dev, { bytes, target })
  }
  for (const { bytes, target } of disks.values()) {
    const { bavail, bsize } = statfsSync(target.folder)
    if (bytes > bavail * bsize)
      throw new BadInput([
        `${target.name}: ${sizeWords(bytes)} are needed, ${sizeWords(bavail * bsize)} are free on its disk`,
      ])
  }
}

export const sizeWords = (bytes: number): string =>
  bytes < 1e9 ? `${Math.ceil(bytes / 1e6)} MB` : `${(bytes / 1e9).toFixed(1)} GB`

/** Puts all finished files in their places, or none: what was there before comes back when one cannot be. */
export const takeAll = (targets: readonly Target[]): void => {
  const undo: ((back?: boolean) => void)[] = []
  try {
    for (const target of targets) target.finish()
    for (const target of targets) undo.push(target.take())
  } catch (error) {
    for (const back of undo.reverse()) back()
    throw error
  }
  for (const done of undo) done(false)
}
