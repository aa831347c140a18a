// npm run lint: format, rules, types and generated documents, checked without running the app.
import { spawn } from 'node:child_process'
import { availableParallelism } from 'node:os'
import { pathToFileURL } from 'node:url'
import { root } from './ready.mjs'

const TYPES = ['core', 'cli', 'server', 'web', 'web/tsconfig.worklet.json'].map((name) => `packages/${name}`)
/** What is checked without running it: by name, what is run by node. */
const CHECKS = [
  ['Format', ['node_modules/prettier/bin/prettier.cjs', '--check', '--log-level=warn', '.']],
  ['Lint', ['node_modules/eslint/bin/eslint.js', '.']],
  ...[...TYPES, 'tests'].map((name) => [`Types of ${name}`, ['node_modules/typescript/bin/tsc', '-p', name]]),
  ['Generated documents', ['scripts/documents.mjs', '--check']],
]

/** Runs one check; what it says is printed in one piece when it has ended. Resolves with whether it found nothing. */
const check = ([name, args]) =>
  new Promise((resolve) => {
    const said = []
    const run = spawn(process.execPath, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] })
    for (const stream of [run.stdout, run.stderr]) stream.on('data', (piece) => said.push(piece))
    run.on('error', (error) => said.push(Buffer.from(`${error.message}\n`)))
    run.on('close', (code) => {
      process.stderr.write(`\n— ${name}${code === 0 ? '' : ' failed'}\n${Buffer.concat(said).toString()}`)
      resolve(code === 0)
    })
  })

/** All checks, as many at a time as there are processors; all that fail are told, not the first alone. Resolves with whether none did. */
export const checked = async () => {
  const left = [...CHECKS]
  const failed = []
  const worker = async () => {
    for (let next = left.shift(); next; next = left.shift()) if (!(await check(next))) failed.push(next[0])
  }
  await Promise.all(Array.from({ length: availableParallelism() }, worker))
  if (failed.length > 0) process.stderr.write(`\n${failed.join(', ')} failed\n`)
  return failed.length === 0
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? '').href && !(await checked())) process.exit(1)
