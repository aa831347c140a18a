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

const parent = async () => {
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
  const first = Number(values.seed ?? Math.floor(Math.random() * 2 ** 31))
  const runs = Number(values.runs ?? Infinity)
  const until = values.minutes
    ? performance.now() + 60_000 * Number(values.minutes)
    : runs === Infinity
      ? performance.now() + 60_000
      : Infinity
  const counts = Object.fromEntries(
    names.map((name) => [name, { runs: 0, taken: 0, refused: 0, faults: [] }]),
  )
  console.log(`seed ${first}`)
  let worker
  const begin = () =>
    new Promise((resolve) => {
      worker = fork(fileURLToPath(import.meta.url), ['--child'], {
        stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
      })
      worker.once('message', resolve)
    })
  const one = (name, seed) =>
    new Promise((resolve) => {
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
  await begin()
  const next = Object.fromEntries(names.map((name) => [name, first]))
  let busy = true
  while (busy && performance.now() < until) {
    busy = false
    for (const name of names) {
      const count = counts[name]
      for (let n = 0; n < (CASES_A_TURN[name] ?? CASES); n += 1) {
        if (count.runs >= (name === 'graphs' ? Math.ceil(runs / 10) : runs) || performance.now() > until)
          break
        busy = true
        const seed = next[name]++
        const { outcome, fault, gone } = await one(name, seed)
        count.runs += 1
        if (outcome) count[outcome] += 1
        if (fault) {
          count.faults.push({ seed, fault })
          console.error(`${name} ${seed}: ${fault}`)
        }
        if (gone) await begin()
      }
    }
  }
  worker.kill()
  for (const [name, { runs: all, taken, refused, faults }] of Object.entries(counts))
    console.log(`${name}: ${all} cases, ${taken} taken, ${refused} refused, ${faults.length} faults`)
  if (values.json) writeFileSync(values.json, JSON.stringify({ seed: first, counts }, null, 2))
  process.exitCode = Object.values(counts).some(({ faults }) => faults.length > 0) ? 1 : 0
}

await (process.argv[2] === '--child' ? child() : parent())
