/** One render of a kit: played, trimmed, through its chain, brought to its pitch, measured, with its loop. */
import { LoudnessMeter } from '../../analysis/loudness.ts'
import { loudestChannel } from '../../analysis/channels.ts'
import { peakOf } from '../../analysis/truepeak.ts'
import type { Sound } from '../../formats/wav.ts'
import { faultText } from '../../patch/types.ts'
import { frameAfter, planChain, runChain } from '../chain.ts'
import { type Loop, crossfaded, loopOf } from '../crossfade.ts'
import { gainOfDb } from '../levels.ts'
import { notePlayed } from '../note.ts'
import type { ChainStep, StepPatch, Tools } from '../step.ts'
import { soundOf, tapeOf } from '../tape.ts'
import type { KitDescription } from './description.ts'
import { centsFrom } from './pitch.ts'
import { type KitJob, mostFrames } from './plan.ts'

/** What a render is known by besides its samples: plain data. */
export interface PartFacts {
  readonly name: string
  readonly frames: number
  readonly channels: number
  /** Highest sample. */
  readonly peak: number
  /** Integrated loudness, LUFS; of what is shorter than 0.4 s the loudest stretch of that length; null for silence, and where
   * nothing is asked of it. */
  readonly lufs: number | null
  /** Frame at which its note ends; null where that is cut off. */
  readonly noteEnd: number | null
  readonly loop: Loop | null
}

export interface JobFacts {
  readonly note: PartFacts
  readonly release: PartFacts | null
  /** Of its samples as they were played, where there are several takes: another one for what sounds otherwise. */
  readonly print: number
  /** Seconds it goes on after its note. */
  readonly tailSeconds: number
  /** Seconds in which the ear guard worked. */
  readonly limitedSeconds: number
  /** Cents by which it was brought to its key; null where it has no clear pitch, or none was asked for. */
  readonly corrected: number | null
}

export interface KitPart {
  readonly facts: PartFacts
  readonly sound: Sound
}

export interface JobResult {
  readonly facts: JobFacts
  readonly parts: readonly KitPart[]
}

/** Ends that are cut in the middle of a sound are faded. */
const FADE_SECONDS = 0.005
const SHORTEST_SECONDS = 0.01
const MEASURED_SECONDS = 0.4
const SIDES = 2

const lufsOf = ({ rate, channels }: Sound): number | null => {
  const frames = channels[0]?.length ?? 0,
    meter = new LoudnessMeter(rate, channels.length)
  meter.add(channels)
  const isShort = frames < MEASURED_SECONDS * rate
  if (isShort) meter.add(channels.map(() => new Float32Array(Math.ceil(MEASURED_SECONDS * rate))))
  const lufs = isShort ? meter.loudness.momentary : meter.integrated
  return Number.isFinite(lufs) ? lufs : null
}

/** Frames up to where a sound stays below its tail's level. */
const trimmedFrames = (channels: readonly Float32Array[], db: number, least: number): number => {
  const level = peakOf(channels) * gainOfDb(db)
  let last = 0
  for (const channel of channels)
    for (let n = channel.length - 1; n >= last; n -= 1)
      if (Math.abs(channel[n]!) > level) {
        last = n + 1
        break
      }
  return Math.max(last, Math.min(least, channels[0]?.length ?? 0))
}

/** FNV-1a over all samples. */
const printOf = ({ channels }: Sound): number => {
  let hash = 2166136261
  for (const channel of channels) {
    const words = new Int32Array(channel.buffer, channel.byteOffset, channel.length)
    for (let n = 0; n < words.length; n += 1) hash = Math.imul(hash ^ words[n]!, 16777619)
  }
  return hash >>> 0
}

/** The note as it is played, and what the ear guard did. */
const played = (
  kit: KitDescription,
  job: Pick<KitJob, 'note' | 'velocity' | 'seed' | 'values'>,
  { patch, assets }: StepPatch,
  kernels: WebAssembly.Module,
): { readonly sound: Sound; readonly limitedSeconds: number } => {
  const { rate, hold, tail } = kit
  const result = notePlayed(kernels, { patch: { ...patch, seed: job.seed }, assets }, job.values, {
    note: job.note,
    velocity: job.velocity,
    hold,
    rate,
    ...(kit.trim ? { tail } : { seconds: mostFrames(kit) / rate }),
  })
  if (!result.ok) throw new Error(result.faults.map(faultText).join('; '))
  const { sound, limited } = result.value
  return { sound: { rate, channels: sound.channels.slice(0, SIDES) }, limitedSeconds: limited / rate }
}

interface Processed {
  readonly sound: Sound
  readonly noteEnd: number | undefined
}

/** A sound through a chain, and where its note ends then. */
const through = async (
  chain: readonly ChainStep[],
  sound: Sound,
  noteEnd: number | undefined,
  tools: Tools,
): Promise<Processed> => {
  if (chain.length === 0) return { sound, noteEnd }
  const plan = planChain(
    chain,
    { rate: sound.rate, channels: sound.channels.length, frames: sound.channels[0]!.length },
    tools,
  )
  if (!plan.ok) throw new Error(plan.faults.map(faultText).join('; '))
  const running = runChain(plan.value, tapeOf(sound), tools)
  let step = await running.next()
  while (!step.done) step = await running.next()
  return {
    sound: await soundOf(step.value),
    noteEnd: noteEnd === undefined ? undefined : frameAfter(plan.value, noteEnd),
  }
}

const partOf = (
  name: string,
  sound: Sound,
  isMeasured: boolean,
  noteEnd: number | undefined,
  loop: Loop | undefined,
): KitPart => ({
  sound,
  facts: {
    name,
    frames: sound.channels[0]!.length,
    channels: sound.channels.length,
    peak: peakOf(sound.channels),
    lufs: isMeasured ? lufsOf(sound) : null,
    noteEnd: noteEnd === undefined || noteEnd >= sound.channels[0]!.length ? null : noteEnd,
    loop: loop ? { start: loop.start, end: loop.end, crossfade: loop.crossfade } : null,
  },
})

/** Frames of a sound, faded where they are cut off in the middle of it. */
const stretch = async (
  sound: Sound,
  from: number,
  to: number,
  cutAt: 'in' | 'out',
  tools: Tools,
): Promise<Sound> => {
  const fade = Math.min(to - from, Math.round(FADE_SECONDS * sound.rate))
  const steps = [
    { id: 'cut', kind: 'cut', from, to },
    { id: 'fade', kind: 'fade', [cutAt]: fade },
  ]
  return (await through(steps, sound, undefined, tools)).sound
}

/** Up to where nothing is heard any more. */
const trimmed = async (kit: KitDescription, sound: Sound, tools: Tools): Promise<Sound> => {
  const { rate, channels } = sound
  const frames = kit.trim
    ? trimmedFrames(channels, kit.tail.db, Math.round(SHORTEST_SECONDS * rate))
    : channels[0]!.length
  return stretch(sound, 0, frames, 'out', tools)
}

/** A sound at the pitch of its key, and by how many cents it was moved. */
const corrected = async (
  kit: KitDescription,
  note: number,
  { sound, noteEnd }: Processed,
  tools: Tools,
): Promise<Processed & { readonly cents: number | null }> => {
  const cents = kit.correct ? centsFrom(loudestChannel(sound.channels), sound.rate, note) : undefined
  if (cents === undefined) return { sound, noteEnd, cents: null }
  const step = { id: 'correct', kind: 'speed', semitones: -cents / 100 }
  return { ...(await through([step], sound, noteEnd, tools)), cents }
}

/** Renders one job from a fresh engine. Throws what makes it impossible. */
export const renderJob = async (
  kit: KitDescription,
  job: KitJob,
  source: StepPatch,
  tools: Tools,
): Promise<JobResult> => {
  const { sound: raw, limitedSeconds } = played(kit, job, source, tools.kernels)
  const chained = await through(
    kit.chain,
    await trimmed(kit, raw, tools),
    Math.round(kit.hold * kit.rate),
    tools,
  )
  const { sound, noteEnd, cents } = await corrected(kit, job.note, chained, tools)
  const frames = sound.channels[0]!.length,
    end = Math.min(noteEnd ?? frames, frames)
  const loop = kit.loop === 'auto' ? loopOf(sound.channels, sound.rate, end) : undefined
  const whole = loop ? { ...sound, channels: crossfaded(sound.channels, loop) } : sound
  const isSplit = job.releaseName !== undefined && end > 0 && end < frames
  const held = isSplit ? await stretch(whole, 0, end, 'out', tools) : whole,
    left = isSplit ? await stretch(whole, end, frames, 'in', tools) : undefined
  const note = partOf(job.name, held, kit.align !== undefined, noteEnd, loop),
    release = left && partOf(job.releaseName!, left, false, undefined, undefined)
  return {
    parts: release ? [note, release] : [note],
    facts: {
      note: note.facts,
      release: release?.facts ?? null,
      print: kit.takes > 1 ? printOf(raw) : 0,
      tailSeconds: (frames - end) / kit.rate,
      limitedSeconds,
      corrected: cents,
    },
  }
}
