/** Kits made in memory: a runner without threads and a store without a disk. */
import { crc32 } from '../formats/archive.ts'
import { readWav, type Sound } from '../formats/wav.ts'
import { faultText, type Patch } from '../patch/types.ts'
import { type KitDescription, parseKit } from '../takes/kit/description.ts'
import { wavPieces } from '../takes/kit/file.ts'
import { type KitPart, renderJob } from '../takes/kit/job.ts'
import { type KitPlan, planKit, type VariationValues, wavName } from '../takes/kit/plan.ts'
import {
  type KitDone,
  type KitProgress,
  type KitReport,
  type KitRunner,
  type KitStore,
  runKit,
  type WrittenFile,
} from '../takes/kit/run.ts'
import type { StepPatch } from '../takes/step.ts'
import { MemorySpool } from '../takes/tape.ts'
import { testKernels } from './kernels.ts'

type Fields = Readonly<Record<string, unknown>>

export const kitOf = (fields: Fields): KitDescription => {
  const parsed = parseKit({ format: 'ypsilon/kit', version: 1, patch: 'it', ...fields })
  if (!parsed.ok) throw new Error(parsed.faults.map(faultText).join('\n'))
  return parsed.value
}

export const planOf = (
  kit: KitDescription,
  patch: Patch,
  others: ReadonlyMap<string, StepPatch> = new Map(),
  variations?: readonly VariationValues[],
): KitPlan => {
  const planned = planKit(kit, {
    patch,
    lookup: { patch: (name) => others.get(name) },
    ...(variations ? { variations } : {}),
  })
  if (!planned.ok) throw new Error(planned.faults.map(faultText).join('\n'))
  return planned.value
}

export class MemoryStore implements KitStore {
  readonly done = new Map<string, KitDone>()
  readonly files = new Map<string, Uint8Array>()
  /** Sounds that wait for their files. */
  readonly kept = new Map<string, KitPart>()

  keep(name: string, done: KitDone): Promise<void> {
    this.done.set(name, done)
    return Promise.resolve()
  }
  write(name: string, bytes: Uint8Array): WrittenFile {
    this.files.set(name, bytes)
    return { name, bytes: bytes.length, crc: crc32(bytes) }
  }
  writeText(name: string, text: string): Promise<WrittenFile> {
    return Promise.resolve(this.write(name, new TextEncoder().encode(text)))
  }
  writeZip(name: string, files: readonly WrittenFile[]): Promise<WrittenFile> {
    return this.writeText(name, files.map((file) => file.name).join('\n'))
  }
  text(name: string): string {
    return new TextDecoder().decode(this.files.get(name))
  }
  sound(name: string): Sound {
    const read = readWav(this.files.get(name)!)
    if (!read.ok) throw new Error(read.fault.message)
    return read.sound
  }
}

const joined = (pieces: Iterable<Uint8Array>): Uint8Array =>
  Uint8Array.from([...pieces].flatMap((piece) => [...piece]))

export interface MemoryKit {
  readonly plan: KitPlan
  readonly source: StepPatch
  readonly others?: ReadonlyMap<string, StepPatch>
  readonly store: MemoryStore
  /** Called before each task with its name; may throw. */
  readonly before?: (name: string) => void
  readonly progress?: (now: KitProgress) => void
}

/** Does tasks as they come, one or two at a time. */
const runnerOf = ({ plan, source, others = new Map(), store, before }: MemoryKit): KitRunner => {
  const { kept } = store
  return {
    width: 1,
    run: async (task) => {
      const { kit } = plan
      before?.(task.kind === 'make' ? task.job.name : task.facts.note.name)
      const write = (part: KitPart, gain: number): WrittenFile =>
        store.write(
          wavName(part.facts.name),
          joined(wavPieces(part.sound, part.facts, { kit }, task.reach, gain)),
        )
      if (task.kind === 'write') {
        const { note, release } = task.facts
        const parts = [note, ...(release ? [release] : [])].map(({ name }) => kept.get(name)!)
        return { facts: task.facts, kept: [], files: parts.map((part) => write(part, task.gain)) }
      }
      const { facts, parts } = await renderJob(kit, task.job, source, {
        kernels: testKernels(),
        patch: (name) => others.get(name),
        spool: (rate, channels) => new MemorySpool(rate, channels),
      })
      for (const part of parts) kept.set(part.facts.name, part)
      const { gain } = task
      return { facts, kept: [], files: gain === null ? [] : parts.map((part) => write(part, gain)) }
    },
  }
}

export const makeKit = (kit: MemoryKit, signal = new AbortController().signal): Promise<KitReport> =>
  runKit({
    plan: kit.plan,
    runner: runnerOf(kit),
    store: kit.store,
    signal,
    clock: () => 0,
    ...(kit.progress ? { progress: kit.progress } : {}),
  })

/** A whole kit of a patch without recordings. */
export const kitMade = async (
  patch: Patch,
  fields: Fields,
  others?: ReadonlyMap<string, StepPatch>,
): Promise<{ readonly store: MemoryStore; readonly report: KitReport; readonly plan: KitPlan }> => {
  const plan = planOf(kitOf(fields), patch, others),
    store = new MemoryStore()
  const report = await makeKit({
    plan,
    source: { patch, assets: new Map() },
    store,
    ...(others ? { others } : {}),
  })
  return { store, report, plan }
}

/** Regions of an SFZ text: strictly one header or one opcode a line, none of them twice in a region. */
export const sfzRegions = (text: string): readonly ReadonlyMap<string, string>[] => {
  let shared = new Map<string, string>(),
    now = shared
  const regions: Map<string, string>[] = []
  for (const line of text.split('\n')) {
    if (line === '' || line.startsWith('//')) continue
    if (line === '<global>') now = shared = new Map()
    else if (line === '<region>') regions.push((now = new Map(shared)))
    else {
      const found = /^([a-z_]+)=(\S.*)$/.exec(line)
      if (!found) throw new Error(`no opcode: ${line}`)
      const [, name, value] = found as unknown as [string, string, string]
      if (now.has(name)) throw new Error(`${name} stands twice`)
      now.set(name, value)
    }
  }
  return regions
}
