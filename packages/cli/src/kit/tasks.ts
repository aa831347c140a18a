/** One task of a kit, done in a folder: in whatever process or thread it is. */
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { faultText, readWav, type Sound, WavEncoder, wavHeader } from '@ypsilon/core'
import { type Reach, wavPieces } from '@ypsilon/core/takes/kit/file.ts'
import { type KitPart, type PartFacts, renderJob } from '@ypsilon/core/takes/kit/job.ts'
import { wavName } from '@ypsilon/core/takes/kit/plan.ts'
import { type KitDone, KitStop, type KitTask, type WrittenFile } from '@ypsilon/core/takes/kit/run.ts'
import { MemorySpool } from '@ypsilon/core/takes/tape.ts'
import { readBytes } from '../files.ts'
import { soundFile, workFolder, writeWhole } from './folder.ts'
import type { KitMaterial } from './source.ts'

/** What every worker is given when it starts. */
export interface KitWork extends KitMaterial {
  readonly folder: string
  readonly kernels: WebAssembly.Module
}

/** As it is, without dither. */
function* exactPieces({ rate, channels }: Sound): Generator<Uint8Array> {
  const frames = channels[0]!.length
  yield wavHeader({ rate, channels: channels.length, frames, bits: '32f' })
  yield new WavEncoder('32f').encode(channels, 0, frames)
}

const keptIn = (work: string, { facts: { name }, sound }: KitPart): WrittenFile => {
  const file = soundFile(name)
  return writeWhole(work, join(work, file), file, exactPieces(sound), false)
}

const writtenTo = (
  { kit, folder }: KitWork,
  { facts, sound }: KitPart,
  reach: Reach,
  gain: number,
): WrittenFile => {
  const name = wavName(facts.name)
  return writeWhole(
    workFolder(folder),
    join(folder, name),
    name,
    wavPieces(sound, facts, { kit }, reach, gain),
  )
}

const make = async (
  work: KitWork,
  { job, reach, gain }: Extract<KitTask, { kind: 'make' }>,
): Promise<KitDone> => {
  const { kit, source, others, folder, kernels } = work
  const { facts, parts } = await renderJob(kit, job, source, {
    kernels,
    patch: (name) => others.get(name),
    spool: (rate, channels) => new MemorySpool(rate, channels),
  })
  return {
    facts,
    kept: gain === null ? parts.map((part) => keptIn(workFolder(folder), part)) : [],
    files: gain === null ? [] : parts.map((part) => writtenTo(work, part, reach, gain)),
  }
}

const soundIn = (file: string): Sound => {
  const read = readWav(readBytes(file))
  if (!read.ok) throw new Error(`${file}: ${faultText(read.fault)}`)
  return read.sound
}

const write = (work: KitWork, { facts, reach, gain }: Extract<KitTask, { kind: 'write' }>): KitDone => {
  const parts = facts.release ? [facts.note, facts.release] : [facts.note]
  const place = (part: PartFacts): string => join(workFolder(work.folder), soundFile(part.name))
  const files = parts.map((part) =>
    writtenTo(work, { facts: part, sound: soundIn(place(part)) }, reach, gain),
  )
  // What was kept is in its file now.
  for (const part of parts) rmSync(place(part), { force: true })
  return { facts, kept: [], files }
}

/** What a task comes back with, or why it does not. */
export type TaskResult =
  | { readonly ok: true; readonly done: KitDone }
  | { readonly ok: false; readonly message: string; readonly stops: boolean }

export const doTask = async (work: KitWork, task: KitTask): Promise<TaskResult> => {
  try {
    return { ok: true, done: task.kind === 'make' ? await make(work, task) : write(work, task) }
  } catch (error) {
    return { ok: false, message: (error as Error).message, stops: error instanceof KitStop }
  }
}
