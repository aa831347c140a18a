import { availableParallelism } from 'node:os'
import { faultText, own, parseNote, type Result } from '@ypsilon/core'
import { filesOf, type KitPlan, planKit, type VariationValues } from '@ypsilon/core/takes/kit/plan.ts'
import { type KitProgress, KitStop, type KitReport, runKit } from '@ypsilon/core/takes/kit/run.ts'
import { PHRASE, shortage, vary } from '@ypsilon/core/takes/vary/vary.ts'
import { numberOption, readArguments, type Values, wordOption } from '../arguments.ts'
import { BadInput } from '../bad-input.ts'
import { warn } from '../events.ts'
import { kernels } from '../files.ts'
import { nowAndThen, untilStopped } from '../stopping.ts'
import { refuseInputs, sizeWords } from '../targets.ts'
import { drawing } from '../vary/drawing.ts'
import { KitFolder } from './folder.ts'
import { openPool, type Pool } from '../work/pool.ts'
import { fingerprint, type LoadedKit, loadKit } from './source.ts'

export const KIT_HELP = `Usage: ./ypsilon kit KIT.json|PATCH --out DIR [options]

Renders notes × velocities × takes × variations of a patch, each from a fresh engine, on all cores. What is given here
comes before what the description says; left out, a patch alone gives C2…C6 in steps of three at full velocity.

  --notes 36..84/3       keys: from..to/step, or a list (36,40,43); numbers or names (C2..C6/3)
  --velocities 0.4,1     layers of velocity, above 0…1
  --takes 2              with seeds of their own, where anything in the patch is random
  --variations N         of the patch, within its limits
  --seed N               of the first take, instead of the patch's
  --hold S               seconds a note is held (2)
  --tail DB/S            a sound ends so far below its peak, or so long after its note (-60/10)
  --rate 48000           frames per second, 8000…192000
  --bits 16|24|32f       depth of the files' samples (24)
  --align LUFS           all notes of a layer at one loudness, the loudest layer at this
  --trim on|off          ends cut where nothing is heard any more (on); off: all as long as they may be
  --loop auto|off        loops where something matches, in the files and in the SFZ (off)
  --release              what is heard from a note's end on as a file of its own
  --crossfade N          layers go over into each other over so many of 127 steps
  --choke                all keys end each other
  --correct              brings the pitch of every file to its key
  --name PATTERN         of the files: {patch} {note} {key} {velocity} {take} {variation}, with / for folders
  --sfz                  an SFZ text for samplers
  --zip                  one archive of all
  --resume               goes on with what was stopped in this folder; renders that failed alone are done again
  --workers N            threads that render (one a core)
`

const OPTIONS = {
  out: { type: 'string' },
  notes: { type: 'string' },
  velocities: { type: 'string' },
  takes: { type: 'string' },
  variations: { type: 'string' },
  seed: { type: 'string' },
  hold: { type: 'string' },
  tail: { type: 'string' },
  rate: { type: 'string' },
  bits: { type: 'string' },
  align: { type: 'string' },
  trim: { type: 'string' },
  loop: { type: 'string' },
  release: { type: 'boolean' },
  crossfade: { type: 'string' },
  choke: { type: 'boolean' },
  correct: { type: 'boolean' },
  name: { type: 'string' },
  sfz: { type: 'boolean' },
  zip: { type: 'boolean' },
  resume: { type: 'boolean' },
  workers: { type: 'string' },
} as const

const noteIn = (text: string): number => {
  const note = parseNote(text)
  if (note === undefined)
    throw new BadInput([`--notes: "${text}" is no key (a number or a name such as C#3)`])
  return note
}

/** `36..84/3` or `36,40,43`. */
const notesIn = (text: string): unknown => {
  const range = /^([^./,]+)\.\.([^./,]+)(?:\/(\d+))?$/.exec(text)
  if (range)
    return { from: noteIn(range[1]!), to: noteIn(range[2]!), ...(range[3] ? { step: Number(range[3]) } : {}) }
  return text.split(',').map(noteIn)
}

const numberIn = (name: string, text: string): number => {
  const value = text.trim() === '' ? NaN : Number(text)
  if (Number.isNaN(value)) throw new BadInput([`--${name}: "${text}" is not a number`])
  return value
}

const tailIn = (text: string): unknown => {
  const [db = '', most = ''] = text.split('/')
  return { db: numberIn('tail', db), ...(most === '' ? {} : { most: numberIn('tail', most) }) }
}

const NUMBERS = ['takes', 'variations', 'seed', 'hold', 'rate', 'crossfade'] as const
const FLAGS = ['release', 'choke', 'correct', 'sfz', 'zip'] as const
const WORDS = ['bits', 'loop', 'name'] as const

/** Fields of a description that are given as options. */
const flagsOf = (values: Values): Record<string, unknown> => {
  const flags = new Map<string, unknown>()
  const given = <T>(names: readonly string[], read: (text: string, name: string) => T): void => {
    for (const name of names) {
      const value = own(values, name)
      if (value !== undefined) flags.set(name, read(String(value), name))
    }
  }
  given(NUMBERS, (text, name) => numberIn(name, text))
  given(FLAGS, () => true)
  given(WORDS, (text) => text)
  given(['notes'], notesIn)
  given(['velocities'], (text) => text.split(',').map((part) => numberIn('velocities', part)))
  given(['tail'], tailIn)
  given(['align'], (text) => ({ mode: 'notes', lufs: numberIn('align', text) }))
  const trim = wordOption(values, 'trim', ['on', 'off'])
  if (trim !== undefined) flags.set('trim', trim === 'on')
  return Object.fromEntries(flags)
}

/** How far it is, in words. */
const progressWords = ({ share, secondsLeft, done, of }: KitProgress): string =>
  `${done} of ${of} rendered, ${Math.floor(100 * share)} %${secondsLeft === undefined ? '' : `, about ${Math.ceil(secondsLeft)} s left`}`

const reportOn = (plan: KitPlan, { files, failed, warnings }: KitReport, folder: string): void => {
  for (const text of warnings) warn(`warning: ${text}`)
  if (failed.length > 0)
    throw new BadInput([
      ...failed.map(({ name, message }) => `${name}: ${message}`),
      `${failed.length} of ${plan.jobs.length} failed; the others are kept, and --resume does these alone again`,
    ])
  const sounds = files.filter(({ name }) => name.endsWith('.wav')),
    others = files.filter(({ name }) => !name.endsWith('.wav')).map(({ name }) => name)
  process.stdout.write(
    `${[`${sounds.length} files in ${folder}, ${sizeWords(sounds.reduce((sum, { bytes }) => sum + bytes, 0))}`, ...others].join('; ')}\n`,
  )
}

/** The plan of a kit, or its faults. Variations that are not known yet are counted alone. */
const planned = (
  { kit, source, others }: LoadedKit,
  file: string,
  variations: readonly VariationValues[] | undefined = kit.variations > 0
    ? Array.from({ length: kit.variations }, () => [])
    : undefined,
): Extract<Result<KitPlan>, { ok: true }> => {
  const result = planKit(kit, {
    patch: source.patch,
    lookup: { patch: (name) => others.get(name) },
    ...(variations ? { variations } : {}),
  })
  if (!result.ok) throw new BadInput(result.faults.map((fault) => `${file}: ${faultText(fault)}`))
  return result
}

/** Values of the variations a kit asks for, heard at its middle key; the same whatever hears them. */
const variationsOf = async (
  { kit, source }: LoadedKit,
  pool: Pool,
  signal: AbortSignal,
): Promise<readonly VariationValues[] | undefined> => {
  if (kit.variations === 0) return undefined
  const { patch } = source,
    seed = patch.vary?.seed ?? kit.seed ?? patch.seed ?? 1,
    phrase = { ...PHRASE, note: kit.notes[kit.notes.length >> 1]!, velocity: kit.velocities.at(-1)! }
  const report = await vary({
    count: kit.variations,
    draw: drawing([patch], 'variations', { seed }),
    listen: (values) => pool.hear({ kind: 'hear', values, phrase }, signal),
    width: pool.width,
  })
  const short = shortage(report, kit.variations)
  if (report.variations.length === 0) throw new BadInput([`variations: ${short}`])
  if (short !== undefined) warn(`warning: variations: ${short}`)
  return report.variations.map(({ values }) => values)
}

export const kitCommand = async (args: string[]): Promise<void> => {
  const { values, names } = readArguments(args, OPTIONS, ['KIT.json or PATCH'])
  const folder = values['out']
  if (typeof folder !== 'string') throw new BadInput(['--out DIR is missing; see --help'])
  const threads = numberOption(values, 'workers', 1, 256, true) ?? availableParallelism()
  const loaded = loadKit(names[0]!, flagsOf(values))
  const { kit, source, others } = loaded
  const { value: plan, warnings } = planned(loaded, names[0]!)
  for (const warning of warnings) warn(`warning: ${names[0]}: ${faultText(warning)}`)
  refuseInputs(folder, filesOf(plan), loaded.files)
  const store = KitFolder.open(folder, fingerprint(loaded), values['resume'] === true)
  const say = nowAndThen(true),
    kept = `what is rendered is kept in ${folder}, and --resume goes on with it`
  const isDone = await untilStopped(async (signal) => {
    const pool = await openPool(
      { kernels: kernels(), source, kit: { kit, others, folder } },
      Math.min(threads, plan.jobs.length),
    )
    try {
      const variations = await variationsOf(loaded, pool, signal)
      const report = await runKit({
        plan: variations ? planned(loaded, names[0]!, variations).value : plan,
        runner: pool,
        store,
        signal,
        progress: (now) => {
          say(() => progressWords(now), now.share >= 1)
        },
        clock: () => performance.now() / 1000,
      })
      if (report.failed.length === 0) store.finish()
      reportOn(plan, report, folder)
    } catch (error) {
      throw error instanceof KitStop ? new BadInput([error.message, kept]) : error
    } finally {
      await pool.close()
    }
  }).finally(() => {
    store.close()
  })
  if (!isDone) warn(`stopped; ${kept}`)
}
