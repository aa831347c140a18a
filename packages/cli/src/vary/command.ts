import { mkdirSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { join, resolve } from 'node:path'
import { APP_VERSION, effectivePatch, type Patch, withSettings } from '@ypsilon/core'
import { fileWord } from '@ypsilon/core/takes/kit/names.ts'
import type { VariationValues } from '@ypsilon/core/takes/kit/plan.ts'
import { distanceOf } from '@ypsilon/core/takes/vary/print.ts'
import { PHRASE, shortage, type Variation, vary, type VaryReport } from '@ypsilon/core/takes/vary/vary.ts'
import { numberOption, readArguments } from '../arguments.ts'
import { BadInput } from '../bad-input.ts'
import { warn } from '../events.ts'
import { kernels, type LoadedPatch, loadPatch, reason } from '../files.ts'
import { writeWhole } from '../kit/folder.ts'
import { nowAndThen, untilStopped } from '../stopping.ts'
import { refuseInputs } from '../targets.ts'
import { openPool, type Pool } from '../work/pool.ts'
import { drawing } from './drawing.ts'

export const VARY_HELP = `Usage: ./ypsilon vary PATCH --count N --out DIR [options]
       ./ypsilon vary PATCH PATCH … --count N --out DIR [options]

Makes variations of a patch within the limits it holds, as patches and as renders of one note, with a table of how far
they are from each other: the mean difference of forty bands' levels over time, in dB. What no limit names stays where it
is pitch, level of the output, set only, a formula or moved by a macro. Silent ones, those the ear guard would have to
limit and those that sound almost as another are drawn again. Several patches are bred: every child has the values of
either, or between them.

  --count N              how many (1…1000)
  --seed N               other variations; the same again with the same
  --spread 0.2           share of its range a parameter may move to both sides, where its limit says nothing else
  --chance 0.5           how likely a parameter is moved
  --note 60              what is played to hear them
  --workers N            threads that render (one a core)
`

const OPTIONS = {
  count: { type: 'string' },
  seed: { type: 'string' },
  spread: { type: 'string' },
  chance: { type: 'string' },
  note: { type: 'string' },
  workers: { type: 'string' },
  out: { type: 'string' },
} as const

const MOST = 1000

const decimals = (distance: number): string => distance.toFixed(1)

/** Each with its distance from the patch and from the one it is nearest to. */
const tableOf = (names: readonly string[], { variations }: VaryReport): string => {
  const rows = variations.map(({ print, distance }, n) => {
    const others = variations.map((other, m) => (m === n ? Infinity : distanceOf(print, other.print))),
      near = others.indexOf(Math.min(...others))
    return [
      names[n]!,
      decimals(distance),
      near >= 0 && variations.length > 1 ? `${decimals(others[near]!)} (${near + 1})` : '',
    ]
  })
  const head = ['variation', 'from the patch, dB', 'nearest other, dB'],
    widths = head.map((word, column) => Math.max(word.length, ...rows.map((row) => row[column]!.length)))
  return [head, ...rows]
    .map((row) =>
      row
        .map((word, column) => word.padEnd(widths[column]!))
        .join('  ')
        .trimEnd(),
    )
    .join('\n')
}

/** All distances, as numbers separated by commas. */
const matrixOf = (names: readonly string[], variations: readonly Variation[]): string =>
  [
    ['', 'patch', ...names].join(','),
    ...variations.map(({ print, distance }, n) =>
      [
        names[n],
        decimals(distance),
        ...variations.map((other) => decimals(distanceOf(print, other.print))),
      ].join(','),
    ),
    '',
  ].join('\n')

const patchText = (patch: Patch, values: VariationValues, number: number): string =>
  `${JSON.stringify({ ...effectivePatch(withSettings(patch, values)), name: `${patch.name} ${number}`, app: APP_VERSION }, null, 2)}\n`

/** Makes the folder; nothing that is read is written over. */
const openFolder = (folder: string, names: readonly string[], inputs: readonly string[]): void => {
  refuseInputs(folder, names, inputs)
  try {
    mkdirSync(folder, { recursive: true })
  } catch (error) {
    throw new BadInput([`${folder}: ${reason(error)}`])
  }
}

const writeAll = async (
  pool: Pool,
  folder: string,
  { patch, brings }: LoadedPatch,
  names: readonly string[],
  { variations }: VaryReport,
  phrase: typeof PHRASE,
  signal: AbortSignal,
): Promise<void> => {
  const text = (name: string, content: string | Uint8Array): void => {
    const bytes = typeof content === 'string' ? new TextEncoder().encode(content) : content
    writeWhole(folder, join(folder, name), name, [bytes])
  }
  // Recordings have the same places beside every one of them.
  for (const [name, bytes] of brings()) text(name, bytes)
  variations.forEach(({ values }, n) => {
    text(`${names[n]}.ypatch.json`, patchText(patch, values, n + 1))
  })
  await Promise.all(
    variations.map(({ values }, n) =>
      pool.play({ kind: 'play', values, phrase, folder: resolve(folder), name: `${names[n]}.wav` }, signal),
    ),
  )
  text('distances.csv', matrixOf(names, variations))
}

export const varyCommand = async (args: string[]): Promise<void> => {
  const { values, names: files } = readArguments(args, OPTIONS, ['PATCH'], true)
  const folder = values['out']
  if (typeof folder !== 'string') throw new BadInput(['--out DIR is missing; see --help'])
  const count = numberOption(values, 'count', 1, MOST, true)
  if (count === undefined) throw new BadInput(['--count N is missing; see --help'])
  const threads = numberOption(values, 'workers', 1, 256, true) ?? availableParallelism(),
    note = numberOption(values, 'note', 0, 127, true) ?? PHRASE.note
  const loaded = files.map((file) => loadPatch(file))
  loaded.forEach(({ warnings }, n) => {
    for (const warning of warnings) warn(`warning: ${files[n]}: ${warning}`)
  })
  const [first] = loaded as [LoadedPatch, ...LoadedPatch[]],
    { patch } = first
  const seed = numberOption(values, 'seed', -(2 ** 53), 2 ** 53, true) ?? patch.vary?.seed ?? patch.seed ?? 1
  const draw = drawing(
    loaded.map((one) => one.patch),
    files.join(', '),
    { seed, spread: numberOption(values, 'spread', 0, 1), chance: numberOption(values, 'chance', 0, 1) },
  )
  const name = (number: number): string => `${fileWord(patch.name)}-${number}`
  openFolder(
    folder,
    Array.from({ length: count }, (_, n) => `${name(n + 1)}.ypatch.json`),
    loaded.flatMap((one) => one.files),
  )
  const phrase = { ...PHRASE, note },
    say = nowAndThen(false)
  const isDone = await untilStopped(async (signal) => {
    const pool = await openPool({ kernels: kernels(), source: { patch, assets: first.assets } }, threads)
    try {
      const report = await vary({
        count,
        draw,
        listen: (drawnValues) => pool.hear({ kind: 'hear', values: drawnValues, phrase }, signal),
        width: pool.width,
        progress: (kept, drawn) => {
          say(() => `${kept} of ${count} found among ${drawn} drawn`)
        },
      })
      const short = shortage(report, count)
      if (short !== undefined) warn(`warning: ${short}`)
      const names = report.variations.map((_, n) => name(n + 1))
      await writeAll(pool, folder, first, names, report, phrase, signal)
      process.stdout.write(`${tableOf(names, report)}\n`)
    } finally {
      await pool.close()
    }
  })
  if (!isDone) warn('stopped')
}
