import { adviseOn, compile, moduleLoads } from '@ypsilon/core'
import { spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync, readdirSync } from 'node:fs'
import { cpus, tmpdir } from 'node:os'
import { gzipSync } from 'node:zlib'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import {
  cableTime,
  compileTime,
  largePatch,
  loopLoad,
  sleepRatio,
  v16TimesRealTime,
  watchLoad,
} from '@ypsilon/core/speed/suite.ts'
import { moduleCosts } from '@ypsilon/core/speed/costs.ts'
import { middle } from '@ypsilon/core/speed/measure.ts'
import { recallCost, type RecallCost } from '@ypsilon/core/speed/recall.ts'
import { editCost, keyToSound } from '@ypsilon/core/speed/live.ts'
import { costsAgainstBounds, dearInputs } from '@ypsilon/core/speed/bounds.ts'
import { readArguments } from './arguments.ts'
import { kernels, loadPatch } from './files.ts'

export const SPEED_HELP = `Usage: ./ypsilon speed [--json] [--modules] [--check]

  --modules   instead: what each module costs, in nanoseconds for one sample of one voice and side
  --check     instead: holds every module to the bound its description states, and to no more whatever comes in; fails
              when one is beyond it in three tries

Measures the engine in one run and prints ratios, because machines are noisy: the patch V16 (16 voices, 3 saws, filter,
two envelopes) against a hand-fused C version (when g++ is there) and against the browser's native nodes (when Chromium
is there), a feedback loop run sample by sample, silent against playing modules, watching, compile times, sizes.
`

const ROOT = fileURLToPath(new URL('../../..', import.meta.url))
const SECONDS = 10,
  ROUNDS = 25

const now = (): number => performance.now() / 1000

/** Builds the C reference; undefined when there is no compiler. */
const buildReference = (folder: string): string | undefined => {
  const program = join(folder, 'v16')
  const result = spawnSync('g++', ['-O3', '-msse4.1', join(ROOT, 'speed/reference/v16.cpp'), '-o', program], {
    stdio: 'ignore',
  })
  return result.status === 0 ? program : undefined
}

/** Engine and reference in turn, so that both meet the same machine; medians of each and of the ratio. */
const versusC = (
  module: WebAssembly.Module,
): { engine: number; reference: number | null; ratio: number | null } => {
  const folder = mkdtempSync(join(tmpdir(), 'ypsilon-speed-'))
  try {
    const program = buildReference(folder)
    v16TimesRealTime(module, 20, now)
    const engine: number[] = [],
      reference: number[] = [],
      ratios: number[] = []
    for (let round = 0; round < ROUNDS; round += 1) {
      const c = program ? Number(spawnSync(program, [String(SECONDS)], { encoding: 'utf8' }).stdout) : NaN
      const ours = v16TimesRealTime(module, SECONDS, now)
      engine.push(ours)
      if (program) {
        reference.push(c)
        ratios.push(ours / c)
      }
    }
    return {
      engine: middle(engine),
      reference: program ? middle(reference) : null,
      ratio: program ? middle(ratios) : null,
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

interface InBrowser {
  readonly engine: number
  readonly native: number
  readonly ratio: number
}

/** The same patch in Chromium, engine against native nodes, by a program of its own. */
const versusNative = (): InBrowser | null => {
  const script = join(ROOT, 'speed/native.mjs')
  if (!existsSync(script)) return null
  const result = spawnSync(process.execPath, [script, fileURLToPath(new URL('.', import.meta.url))], {
    encoding: 'utf8',
  })
  return result.status === 0 ? (JSON.parse(result.stdout) as InBrowser) : null
}

interface LiveCopies {
  /** 0: a plain sum that takes as long as the most of them. */
  readonly copies: number
  readonly load: number
  readonly late: number
  readonly blocks: number
}

/** Copies of V16 in an audio worklet, by a program of its own. */
const liveCopies = (): LiveCopies[] | null => {
  const script = join(ROOT, 'speed/live.mjs')
  if (!existsSync(script)) return null
  const result = spawnSync(process.execPath, [script, fileURLToPath(new URL('.', import.meta.url))], {
    encoding: 'utf8',
  })
  return result.status === 0 ? (JSON.parse(result.stdout) as LiveCopies[]) : null
}

/** Load of every demo patch as `check` estimates it, over what it takes while its notes are held. */
const estimatesAgainstMeasured = (module: WebAssembly.Module): { name: string; ratio: number }[] => {
  const folder = join(ROOT, 'demo/patches')
  const files = readdirSync(folder).filter((name) => name.endsWith('.ypatch.json'))
  return files.flatMap((name) => {
    const { patch, assets } = loadPatch(join(folder, name))
    const compiled = compile(patch, { assets })
    if (!compiled.ok) return []
    const measured = [0, 1, 2].map(() =>
      moduleLoads(module, patch, { now, assets, seconds: 0.5 }).reduce((sum, load) => sum + load.share, 0),
    )
    const { loadPercent } = adviseOn(patch, compiled.plan)
    return [{ name: patch.name, ratio: loadPercent / 100 / Math.min(...measured) }]
  })
}

const rounded = (value: number | null, digits = 2): number | null =>
  value === null ? null : Number(value.toFixed(digits))

const recallOf = (module: WebAssembly.Module): Record<keyof RecallCost, number | null> => {
  const { worked, taken, moving } = recallCost(module, now)
  return { worked: rounded(worked), taken: rounded(taken), moving: rounded(moving) }
}

/** A row a module. */
const tableOf = (
  cost: string,
  rows: readonly (readonly [type: string, cost: string, bound: number])[],
): string =>
  [
    `| module | ${cost} | bound |`,
    '|---|---|---|',
    ...rows.map(([type, words, bound]) => `| \`${type}\` | ${words} | ${bound} |`),
    '',
  ].join('\n')

/** Modules beyond their bounds in each of three tries. */
const checkBounds = (module: WebAssembly.Module): void => {
  const rounds = [0, 1, 2].map(() => costsAgainstBounds(module, now))
  const best = rounds[0]!.map((first, at) => ({
    ...first,
    times: Math.min(...rounds.map((round) => round[at]!.times)),
  }))
  const dear = dearInputs(module, now),
    // What is dear once may have met a busy machine: only what is dear again counts.
    again = dear.length > 0 ? new Set(dearInputs(module, now).map((text) => text.split(':')[0])) : new Set()
  const over = [
    ...best
      .filter(({ times, bound }) => times > bound)
      .map(
        ({ type, times, bound }) =>
          `${type} costs ${times.toFixed(1)} times the reference, more than ${bound}`,
      ),
    ...dear.filter((text) => again.has(text.split(':')[0])),
  ]
  process.stdout.write(
    tableOf(
      'times the reference',
      best.map(({ type, times, bound }) => [type, times.toFixed(2), bound]),
    ),
  )
  if (over.length === 0) return
  process.stderr.write(`${over.join('\n')}\n`)
  process.exitCode = 1
}

/** Everything there is to measure, in one run. */
const measureAll = (module: WebAssembly.Module) => {
  const c = versusC(module),
    native = versusNative()
  const large = largePatch(200)
  return {
    machine: cpus()[0]?.model ?? 'unknown',
    node: process.version,
    v16TimesRealTime: rounded(c.engine, 1),
    cReferenceTimesRealTime: rounded(c.reference, 1),
    v16AgainstC: rounded(c.ratio, 3),
    v16AgainstNativeNodes: rounded(native?.ratio ?? null, 2),
    chromium: native,
    loopPercentOfCore: rounded(
      middle(Array.from({ length: ROUNDS }, () => loopLoad(module, 5, now))) * 100,
      3,
    ),
    silentAgainstPlaying: rounded(sleepRatio(module, now), 4),
    watching200PercentOfCore: rounded(watchLoad(module, now) * 100, 2),
    compile200Ms: rounded(compileTime(large, now)),
    compileOneMoreCableMs: rounded(cableTime(large, now)),
    edits: editCost(module, now),
    keyToSoundBlocks: rounded(keyToSound(module) / 128),
    live: liveCopies(),
    recall500InBlocks: recallOf(module),
    estimates: estimatesAgainstMeasured(module).map(({ name, ratio }) => ({ name, ratio: rounded(ratio) })),
    kernelsKb: rounded(gzipSync(readFileSync(new URL('./kernels.wasm', import.meta.url))).length / 1024, 1),
  }
}
type Report = ReturnType<typeof measureAll>

const missing = (value: number | null, unit: string, why: string): string =>
  value === null ? `not measured (${why})` : `${value}${unit}`

const liveWords = ({ live }: Report): string => {
  if (live === null) return 'not measured (no Chromium here)'
  const words = live.map(({ copies, load, late, blocks }) => {
    const what = copies === 0 ? 'a plain sum as long' : copies
    return `${what}: ${(load * 100).toFixed(1)} % of a core, ${late} of ${blocks} blocks late`
  })
  return words.join('; ')
}

const editWords = ({ edits: { made, edited, usual, late } }: Report): string =>
  [
    `made in ${made[0].toFixed(1)} ms (99 %: ${made[1].toFixed(1)})`,
    `blocks after one ${edited[0].toFixed(3)} of their time, 99 % ${edited[1].toFixed(3)}, usual ${usual.toFixed(3)}`,
    `late ${late[0]}, others ${late[1]}`,
  ].join('; ')

const recallWords = ({ recall500InBlocks: { worked, taken, moving } }: Report): string =>
  `${worked} of a block's time to work out, ${taken} to take in, ${moving} more a block while they move`

type Row = readonly [name: string, words: string, target?: string]

/** A row a measurement, with its target. */
const rowsOf = (report: Report): Row[] => {
  const ratios = report.estimates.map(({ ratio }) => ratio ?? 1),
    reference = missing(report.cReferenceTimesRealTime, ' × real time', 'no g++')
  return [
    ['V16', `${report.v16TimesRealTime} × real time`],
    ['V16 / C reference', missing(report.v16AgainstC, '', 'no g++ here'), `≥ 0.6; reference ${reference}`],
    ['V16 / native nodes, Chromium', missing(report.v16AgainstNativeNodes, '', 'no Chromium here'), '≥ 4.5'],
    ['3-module loop, 16 lanes', `${report.loopPercentOfCore} % of a core`, '≤ 0.5'],
    ['200 modules silent / playing', `${report.silentAgainstPlaying}`, '≤ 0.05'],
    ['watching 200 ports', `${report.watching200PercentOfCore} % of a core`, '≤ 3'],
    ['compile 200 modules', `${report.compile200Ms} ms`, '≤ 10'],
    ['one cable more in them', `${report.compileOneMoreCableMs} ms`, '≤ 3'],
    ['1,000 edits', editWords(report)],
    ['key to first changed sample', `${report.keyToSoundBlocks} blocks`, '≤ 2'],
    ['V16 live in a worklet', liveWords(report), 'one ≤ 2 %; 40 without a late block'],
    ['recall of 500 values', recallWords(report), '≤ 1'],
    [
      'load, estimated / measured',
      `${Math.min(...ratios)} … ${Math.max(...ratios)} over the demo patches`,
      '0.67 … 1.5',
    ],
    ['kernels', `${report.kernelsKb} kB gzip`, '≤ 150'],
  ]
}

const lineOf = ([name, words, target]: Row): string =>
  `${name.padEnd(30)} ${words}${target === undefined ? '' : `   (target ${target})`}`

export const speedCommand = (args: string[]): void => {
  const { values } = readArguments(
    args,
    { json: { type: 'boolean' }, modules: { type: 'boolean' }, check: { type: 'boolean' } },
    [],
  )
  const module = kernels(),
    say = (value: unknown, text: () => string): void => {
      process.stdout.write(values['json'] ? `${JSON.stringify(value, null, 2)}\n` : text())
    }
  if (values['check']) {
    checkBounds(module)
    return
  }
  if (values['modules']) {
    const costs = moduleCosts(module, now)
    say(costs, () =>
      tableOf(
        'ns per voice-sample',
        costs.map(({ type, nanoseconds, bound }) => [type, nanoseconds.toFixed(1), bound]),
      ),
    )
    return
  }
  const report = measureAll(module)
  const head = `${report.machine}, Node.js ${report.node}; medians of ${ROUNDS} rounds where something is compared`
  say(report, () => [head, ...rowsOf(report).map(lineOf), ''].join('\n'))
}
