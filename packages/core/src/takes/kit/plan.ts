/** A kit as renders and files: what is played for each, and how their names and places come about. */
import { append } from '../../units/append.ts'
import { patchIndex } from '../../patch/index.ts'
import type { Fault, ParamValue, Patch, PatchModule, Result } from '../../patch/types.ts'
import { own } from '../../units/own.ts'
import { planChain } from '../chain.ts'
import type { Lookup } from '../step.ts'
import { type KitDescription, velocityStep } from './description.ts'
import { fileWord, nameOf } from './names.ts'

/** Values of a variation, laid over the patch. */
export type VariationValues = readonly (readonly [target: string, value: ParamValue])[]

/** One render. Plain data: it may be sent anywhere. */
export interface KitJob {
  readonly index: number
  readonly note: number
  readonly velocity: number
  /** Layer of velocity, from the softest, and 1…127. */
  readonly layer: number
  readonly step: number
  /** From 0 on. */
  readonly take: number
  readonly variation: number
  readonly seed: number
  readonly values: VariationValues
  /** Its file without its ending, and the one from the note's end on. */
  readonly name: string
  readonly releaseName?: string
}

export interface KitPlan {
  readonly kit: KitDescription
  readonly patchName: string
  readonly jobs: readonly KitJob[]
  /** Names of the files that hold all of them together: one a variation for samplers, one archive. */
  readonly sfz: readonly string[]
  readonly zip: string | undefined
}

export interface KitSource {
  readonly patch: Patch
  /** Patches that steps of its chain name. */
  readonly lookup: Lookup
  /** Values of its variations; one of none where the patch is taken as it is. */
  readonly variations?: readonly VariationValues[]
}

const RELEASE = '-release'
export const wavName = (name: string): string => `${name}.wav`

const jobsOf = (kit: KitDescription, { patch, variations = [[]] }: KitSource): KitJob[] => {
  const jobs: KitJob[] = []
  const seed = kit.seed ?? patch.seed ?? 1
  variations.forEach((values, variation) => {
    for (const note of kit.notes)
      kit.velocities.forEach((velocity, layer) => {
        for (let take = 0; take < kit.takes; take += 1) {
          const step = velocityStep(velocity)
          const name = nameOf(kit.name, {
            patch: patch.name,
            note,
            velocity: step,
            take: take + 1,
            variation: variation + 1,
          })
          jobs.push({
            index: jobs.length,
            note,
            velocity,
            layer,
            step,
            take,
            variation,
            seed: seed + take,
            values,
            name,
            ...(kit.release ? { releaseName: `${name}${RELEASE}` } : {}),
          })
        }
      })
  })
  return jobs
}

/** Files of a plan by their paths. */
export const filesOf = ({ jobs, sfz, zip }: KitPlan): string[] => [
  ...jobs.flatMap(({ name, releaseName }) => [
    wavName(name),
    ...(releaseName === undefined ? [] : [wavName(releaseName)]),
  ]),
  ...sfz,
  ...(zip === undefined ? [] : [zip]),
]

/** Two files of one name, or one where another needs a folder; small letters and large ones are the same to many systems. */
const clashes = (files: readonly string[]): Fault[] => {
  const seen = new Map<string, string>(),
    folders = new Map<string, string>()
  const faults: Fault[] = []
  for (const file of files) {
    const other = seen.get(file.toLowerCase())
    if (other !== undefined)
      faults.push({
        place: 'name',
        message: `two files would be called ${file}${other === file ? '' : ` (one of them ${other}, which many systems take for the same)`}`,
      })
    seen.set(file.toLowerCase(), file)
    const parts = file.toLowerCase().split('/')
    for (let n = 1; n < parts.length; n += 1) folders.set(parts.slice(0, n).join('/'), file)
  }
  for (const [folder, inside] of folders) {
    const file = seen.get(folder)
    if (file !== undefined)
      faults.push({ place: 'name', message: `${file} would be a file and the folder of ${inside}` })
  }
  return faults.slice(0, 10)
}

/** Frames of a render at the most. */
export const mostFrames = ({ hold, tail, rate }: KitDescription): number =>
  Math.round((hold + tail.most) * rate)

/** What can be made, but is hardly meant. */
const remarks = (kit: KitDescription, patch: Patch): Fault[] => {
  const { modules } = patchIndex(patch)
  const has = (is: (module: PatchModule) => boolean): boolean => modules.some(({ module }) => is(module))
  return [
    ...(kit.notes.length > 1 && !has(({ type }) => type === 'notes')
      ? [{ place: 'notes', message: 'the patch has no notes module: every key sounds the same' }]
      : []),
    ...(has(({ type, params }) => type === 'output' && Number(own(params, 'pair') ?? 1) > 1)
      ? [{ place: 'patch', message: 'it has further pairs of outputs; files hold the first' }]
      : []),
  ]
}

/** A checked kit as a plan; faults come here, and nothing is rendered yet. */
export const planKit = (kit: KitDescription, source: KitSource): Result<KitPlan> => {
  const { patch } = source,
    word = fileWord(patch.name),
    jobs = jobsOf(kit, source)
  const many = (source.variations?.length ?? 1) > 1
  const plan: KitPlan = {
    kit,
    patchName: patch.name,
    jobs,
    sfz: kit.sfz
      ? Array.from(
          { length: source.variations?.length ?? 1 },
          (_, n) => `${word}${many ? `-${n + 1}` : ''}.sfz`,
        )
      : [],
    zip: kit.zip ? `${word}.zip` : undefined,
  }
  const faults: Fault[] = clashes(filesOf(plan))
  if (!patch.modules.some(({ type }) => type === 'output'))
    append(faults, [{ place: 'patch', message: 'it has no output: nothing of it can be heard' }])
  const chain = planChain(kit.chain, { rate: kit.rate, channels: 2, frames: mostFrames(kit) }, source.lookup)
  if (!chain.ok) append(faults, chain.faults)
  return faults.length > 0 ? { ok: false, faults } : { ok: true, value: plan, warnings: remarks(kit, patch) }
}
