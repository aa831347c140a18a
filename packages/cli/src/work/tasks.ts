/** One task, done in whatever process or thread it is: its patch is there already. */
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { faultText, readWav, type Sound, WavEncoder, wavHeader, writeWav } from '@ypsilon/core'
import { type Reach, wavPieces } from '@ypsilon/core/takes/kit/file.ts'
import { type KitPart, type PartFacts, renderJob } from '@ypsilon/core/takes/kit/job.ts'
import { type VariationValues, wavName } from '@ypsilon/core/takes/kit/plan.ts'
import { type KitDone, KitStop, type KitTask, type WrittenFile } from '@ypsilon/core/takes/kit/run.ts'
import type { StepPatch } from '@ypsilon/core/takes/step.ts'
import { hear, type HeardVariation, type Phrase, soundOf } from '@ypsilon/core/takes/vary/vary.ts'
import { readBytes } from '../files.ts'
import { FileSpool } from './file-spool.ts'
import { soundFile, workFolder, writeWhole } from '../kit/folder.ts'
import type { KitMaterial } from '../kit/source.ts'

/** What every worker is given when it starts. */
export interface Work {
  readonly kernels: WebAssembly.Module
  readonly source: StepPatch
  /** Where a kit is being made, and what it is. */
  readonly kit?: Omit<KitWork, 'kernels' | 'source'>
}

interface KitWork extends KitMaterial {
  readonly folder: string
  readonly kernels: WebAssembly.Module
}

/** A variation to be heard. */
export interface HearTask {
  readonly kind: 'hear'
  readonly values: VariationValues
  readonly phrase: Phrase
}
/** A variation to be rendered into a file. */
export interface PlayTask {
  readonly kind: 'play'
  readonly values: VariationValues
  readonly phrase: Phrase
  readonly folder: string
  readonly name: string
}
export type Task = KitTask | HearTask | PlayTask
export type Outcome = KitDone | HeardVariation | WrittenFile

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
    spool: (rate, channels) => new FileSpool(rate, channels, workFolder(folder)),
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

const play = (
  kernels: WebAssembly.Module,
  source: StepPatch,
  { values, phrase, folder, name }: PlayTask,
): WrittenFile =>
  writeWhole(folder, join(folder, name), name, [writeWav(soundOf(kernels, source, values, phrase), '24')])

/** What a task comes back with, or why it does not. */
export type TaskResult =
  | { readonly ok: true; readonly value: Outcome }
  | { readonly ok: false; readonly message: string; readonly stops: boolean }

const done = async ({ kernels, source, kit }: Work, task: Task): Promise<Outcome> => {
  if (task.kind === 'hear') return hear(kernels, source, task.values, task.phrase)
  if (task.kind === 'play') return play(kernels, source, task)
  if (!kit) throw new Error('there is no kit here')
  const work = { ...kit, kernels, source }
  return task.kind === 'make' ? await make(work, task) : write(work, task)
}

export const doTask = async (work: Work, task: Task): Promise<TaskResult> => {
  try {
    return { ok: true, value: await done(work, task) }
  } catch (error) {
    return { ok: false, message: (error as Error).message, stops: error instanceof KitStop }
  }
}
