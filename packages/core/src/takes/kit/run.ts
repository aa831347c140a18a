/**
 * A kit from its plan to its files. What renders and what writes is behind two interfaces: this machine's cores and a
 * folder, or others. Tasks and what comes back are plain data, and every step that is done is told to the store, so that a
 * kit that was stopped goes on where it was.
 */
import { append } from '../../units/append.ts'
import { type Reach, reachOf } from './file.ts'
import type { JobFacts } from './job.ts'
import { kitLevels } from './levels.ts'
import type { KitJob, KitPlan } from './plan.ts'
import { sfzText } from './sfz.ts'

/** What is to be done somewhere. */
export type KitTask =
  /** Render; without a factor the sound is kept until all are known. */
  | { readonly kind: 'make'; readonly job: KitJob; readonly reach: Reach; readonly gain: number | null }
  /** Write what was kept. */
  | { readonly kind: 'write'; readonly facts: JobFacts; readonly reach: Reach; readonly gain: number }

/** A file that is whole and in its place. */
export interface WrittenFile {
  readonly name: string
  readonly bytes: number
  readonly crc: number
}

/** A render that is done: its sound is kept, or its files are in their places. */
export interface KitDone {
  readonly facts: JobFacts
  readonly kept: readonly WrittenFile[]
  readonly files: readonly WrittenFile[]
}

/** Does tasks, in any order. */
export interface KitRunner {
  /** So many at once. */
  readonly width: number
  /** Throws what made it impossible; `KitStop` where nothing else would succeed either. */
  run(task: KitTask, signal: AbortSignal): Promise<KitDone>
}

/** A fault that stops the whole kit: a full disk, a folder that cannot be written. */
export class KitStop extends Error {}

/** What is already there, and what keeps what is new; by the names of the jobs. */
export interface KitStore {
  readonly done: ReadonlyMap<string, KitDone>
  keep(name: string, done: KitDone): Promise<void>
  /** A whole text file in its place. */
  writeText(name: string, text: string): Promise<WrittenFile>
  /** All files in one archive, in the order of their names. */
  writeZip(name: string, files: readonly WrittenFile[]): Promise<WrittenFile>
}

export interface KitProgress {
  /** 0…1 of all work, and seconds it may take from here; undefined while nothing is known. */
  readonly share: number
  readonly secondsLeft: number | undefined
  /** Renders that are done, of all. */
  readonly done: number
  readonly of: number
}

export interface FailedJob {
  readonly index: number
  readonly name: string
  readonly message: string
}

export interface KitReport {
  readonly files: readonly WrittenFile[]
  readonly failed: readonly FailedJob[]
  readonly warnings: readonly string[]
}

export interface KitRun {
  readonly plan: KitPlan
  readonly runner: KitRunner
  readonly store: KitStore
  readonly signal: AbortSignal
  readonly progress?: (now: KitProgress) => void
  /** Seconds from any point on. */
  readonly clock: () => number
}

/** Of a render and its file, the first is most of the work. */
const RENDER_SHARE = 0.95

class Running {
  readonly done: Map<string, KitDone>
  private readonly failed: FailedJob[] = []
  private readonly begun: number
  private readonly before: number
  /** Of the plan's jobs. */
  private rendered = 0
  private written = 0

  constructor(
    private readonly run: KitRun,
    public plan: KitPlan = run.plan,
  ) {
    this.done = new Map(run.store.done)
    this.begun = run.clock()
    this.count()
    this.before = this.share
    this.tell()
  }

  private count(): void {
    const done = this.plan.jobs.flatMap(({ name }) => this.done.get(name) ?? [])
    this.rendered = done.length
    this.written = done.filter(({ files }) => files.length > 0).length
  }

  /** Goes on with the first takes alone. */
  firstTakes(): void {
    this.plan = firstTakes(this.plan)
    this.count()
  }

  private get share(): number {
    return (RENDER_SHARE * this.rendered + (1 - RENDER_SHARE) * this.written) / this.plan.jobs.length
  }

  private tell(): void {
    const { share } = this
    const made = share - this.before
    this.run.progress?.({
      share,
      secondsLeft: made > 0 ? ((this.run.clock() - this.begun) / made) * (1 - share) : undefined,
      done: this.rendered,
      of: this.plan.jobs.length,
    })
  }

  private async one(job: KitJob, task: KitTask): Promise<void> {
    const { runner, store, signal } = this.run
    try {
      const done = await runner.run(task, signal)
      await store.keep(job.name, done)
      if (!this.done.has(job.name)) this.rendered += 1
      if (done.files.length > 0) this.written += 1
      this.done.set(job.name, done)
      this.tell()
    } catch (error) {
      if (error instanceof KitStop || signal.aborted) throw error
      this.failed.push({ index: job.index, name: job.name, message: (error as Error).message })
    }
  }

  /** Does a task for many jobs; one that fails leaves the others alone, one that stops everything is the last. */
  private async each(jobs: readonly KitJob[], taskOf: (job: KitJob) => KitTask): Promise<void> {
    const { runner, signal } = this.run
    let next = 0,
      stop: unknown
    const pull = async (): Promise<void> => {
      while (next < jobs.length && stop === undefined) {
        const job = jobs[next]!
        next += 1
        await this.one(job, taskOf(job)).catch((error: unknown) => {
          stop ??= error
        })
      }
    }
    // As many again wait, so that nobody waits for the next.
    await Promise.all(Array.from({ length: 2 * runner.width }, pull))
    signal.throwIfAborted()
    if (stop !== undefined) throw stop
  }

  /** Renders what is not there; it is written at once where there is a factor. */
  async make(jobs: readonly KitJob[], gain: number | null): Promise<void> {
    const { kit } = this.plan
    await this.each(
      jobs.filter(({ name }) => !this.done.has(name)),
      (job) => ({ kind: 'make', job, reach: reachOf(kit, job), gain }),
    )
  }

  async write(gains: readonly number[]): Promise<void> {
    const { kit, jobs } = this.plan
    await this.each(
      jobs.filter(({ name }) => this.factsOf(name) && this.done.get(name)!.files.length === 0),
      (job) => ({
        kind: 'write',
        facts: this.factsOf(job.name)!,
        reach: reachOf(kit, job),
        gain: gains[job.index]!,
      }),
    )
  }

  factsOf(name: string): JobFacts | undefined {
    return this.done.get(name)?.facts
  }

  /** Do seeds change nothing that is heard, in the lowest and the highest key of the loudest layer? */
  async takesAreEqual(): Promise<boolean> {
    const { kit, jobs } = this.plan
    const ends = [kit.notes[0], kit.notes.at(-1)],
      layer = kit.velocities.length - 1
    const heard = jobs.filter(
      (job) => ends.includes(job.note) && job.layer === layer && job.take < 2 && job.variation === 0,
    )
    // Some of their files may not be wanted.
    await this.make(heard, null)
    return heard.every(
      ({ name, note }) =>
        this.factsOf(name)?.print !== undefined &&
        this.factsOf(name)!.print === this.factsOf(heard.find((job) => job.note === note)!.name)?.print,
    )
  }

  get failures(): readonly FailedJob[] {
    return [...this.failed].sort((a, b) => a.index - b.index)
  }
}

/** The same kit with its first takes alone. */
const firstTakes = (plan: KitPlan): KitPlan => ({
  ...plan,
  kit: { ...plan.kit, takes: 1 },
  jobs: plan.jobs.filter(({ take }) => take === 0).map((job, index) => ({ ...job, index })),
})
const ONE_TAKE = 'takes: nothing in this patch is random, so all would be equal; one is made'

const guardWords = (facts: readonly JobFacts[], plan: KitPlan): string[] => {
  const limited = plan.jobs.filter(({ index }) => facts[index]!.limitedSeconds > 0)
  const first = limited[0]
  return first
    ? [
        `the ear guard limited ${limited.length === 1 ? first.name : `${limited.length} files, the first of them ${first.name}`}; turn the output down to keep the sound as it is`,
      ]
    : []
}

const correctionWords = (facts: readonly JobFacts[], { kit, jobs }: KitPlan): string[] => {
  const without = kit.correct ? jobs.filter(({ index }) => facts[index]!.corrected === null) : []
  const first = without[0]
  return first
    ? [
        `${without.length === 1 ? `${first.name} has` : `${without.length} files, the first of them ${first.name}, have`} no clear pitch near the key; left as played`,
      ]
    : []
}

const loopWords = (facts: readonly JobFacts[], { kit, jobs }: KitPlan): string[] => {
  const without = kit.loop === 'auto' ? jobs.filter(({ index }) => facts[index]!.note.loop === null) : []
  return without.length > 0
    ? [`${without.length} of ${jobs.length} files have no loop: nothing in them matches within −30 dB`]
    : []
}

/**
 * Makes a kit, or what is left of it. A render that fails leaves the others alone: they are kept, and the next run does
 * the failed ones alone. Throws what stops everything, and the signal's reason.
 */
export const runKit = async (run: KitRun): Promise<KitReport> => {
  const running = new Running(run),
    { store } = run
  const warnings: string[] = []
  if (run.plan.kit.takes > 1 && (await running.takesAreEqual())) {
    running.firstTakes()
    warnings.push(ONE_TAKE)
  }
  const { plan } = running
  // Levels that hang on all of them are known when all are.
  await running.make(plan.jobs, plan.kit.align === undefined ? 1 : null)
  if (running.failures.length > 0) return { files: [], failed: running.failures, warnings }
  const facts = plan.jobs.map(({ name }) => running.factsOf(name)!)
  const levels = kitLevels(plan, facts)
  append(warnings, levels.warnings)
  await running.write(levels.gains)
  if (running.failures.length > 0) return { files: [], failed: running.failures, warnings }
  const files = plan.jobs.flatMap(({ name }) => running.done.get(name)!.files)
  for (const [variation, name] of plan.sfz.entries())
    files.push(await store.writeText(name, sfzText(plan, facts, variation)))
  files.sort((a, b) => (a.name < b.name ? -1 : 1))
  if (plan.zip !== undefined) files.push(await store.writeZip(plan.zip, files))
  for (const words of [guardWords, correctionWords, loopWords]) append(warnings, words(facts, plan))
  return { files, failed: [], warnings }
}
