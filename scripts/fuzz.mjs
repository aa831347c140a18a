// npm run fuzz -- --minutes 30 [--class patches,graphs] [--seed 1] [--runs 1000] [--json FILE]
// Tries cases at random in a process of its own; one that does not answer is killed and told of by its seed.
import { fork } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { parseArgs } from 'node:util'
import { root } from './ready.mjs'

const CASES_A_TURN = { graphs: 5 }
const CASES = 100
/** Nothing takes longer, on any machine. */
const HANG_MS = 60_000
const ALL = [
  'patches',
  'events',
  'playing',
  'conversions',
  'archives',
  'sounds',
  'midi',
  'scales',
  'formulas',
  'graphs',
]

const child = async () => {
  const { runnerImport } = await import('vite')
  const { module } = await runnerImport(join(root, 'tests/fuzz/classes.ts'), {
    configFile: false,
    root,
    logLevel: 'error',
  })
  const classes = module.classes(root)
  process.on('message', async ({ name, seed }) => {
    const item = classes.find((entry) => entry.name === name)
    process.send({ name, seed, ...(await module.runOne(item, seed)) })
  })
  process.send({ ready: true })
}

/** What was asked for: classes, the first seed, how many cases or how long. */
const settings = () => {
  const { values } = parseArgs({
    options: {
      minutes: { type: 'string' },
      runs: { type: 'string' },
      class: { type: 'string' },
      seed: { type: 'string' },
      json: { type: 'string' },
    },
  })
  const names = values.class ? values.class.split(',') : ALL
  const unknown = names.find((name) => !ALL.includes(name))
  if (unknown) throw new Error(`"${unknown}" is no class; there are ${ALL.join(', ')}`)
  const minutes = values.minutes ?? (values.runs ? Infinity : 1)
  return {
    names,
    first: Number(values.seed ?? Math.floor(Math.random() * 2 ** 31)),
    runs: Number(values.runs ?? Infinity),
    until: performance.now() + 60_000 * Number(minutes),
    json: values.json,
  }
}

/** A process that runs cases, begun anew where one of them takes it along. */
class Worker {
  begin() {
    return new Promise((resolve) => {
      this.process = fork(fileURLToPath(import.meta.url), ['--child'], {
        stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
      })
      this.process.once('message', resolve)
    })
  }
  one(name, seed) {
    const { process: worker } = this
    return new Promise((resolve) => {
      const ended = (code) => resolve({ fault: `the process ended (${code})`, gone: true })
      const timer = setTimeout(() => {
        worker.off('exit', ended)
        worker.kill('SIGKILL')
        resolve({ fault: `no answer in ${HANG_MS / 1000} s`, gone: true })
      }, HANG_MS)
      worker.once('exit', ended)
      worker.once('message', (message) => {
        clearTimeout(timer)
        worker.off('exit', ended)
        resolve(message)
      })
      worker.send({ name, seed })
    })
  }
  end() {
    this.process.kill()
  }
}

/** One case, counted. */
const runCase = async (worker, name, seed, count) => {
  const { outcome, fault, gone } = await worker.one(name, seed)
  count.runs += 1
  if (outcome) count[outcome] += 1
  if (fault) {
    count.faults.push({ seed, fault })
    console.error(`${name} ${seed}: ${fault}`)
  }
  if (gone) await worker.begin()
}

const parent = async () => {
  const { names, first, runs, until, json } = settings()
  const counts = Object.fromEntries(
    names.map((name) => [name, { runs: 0, taken: 0, refused: 0, faults: [] }]),
  )
  console.log(`seed ${first}`)
  const worker = new Worker()
  await worker.begin()
  const next = Object.fromEntries(names.map((name) => [name, first]))
  const most = (name) => (name === 'graphs' ? Math.ceil(runs / 10) : runs)
  const mayRun = (name) => counts[name].runs < most(name) && performance.now() < until
  while (names.some(mayRun))
    for (const name of names)
      for (let n = 0; n < (CASES_A_TURN[name] ?? CASES) && mayRun(name); n += 1)
        await runCase(worker, name, next[name]++, counts[name])
  worker.end()
  for (const [name, { runs: all, taken, refused, faults }] of Object.entries(counts))
    console.log(`${name}: ${all} cases, ${taken} taken, ${refused} refused, ${faults.length} faults`)
  if (json) writeFileSync(json, JSON.stringify({ seed: first, counts }, null, 2))
  process.exitCode = Object.values(counts).some(({ faults }) => faults.length > 0) ? 1 : 0
}

await (process.argv[2] === '--child' ? child() : parent())
