// How well a kit is shared out among cores: 68 samples of two seconds on one core, with one thread (what the engine's
// compiler and collector do besides has the other core to itself), with two, and as two halves in processes of their own,
// in turn. Prints medians and ratios: machines are noisy, ratios of one run are not.
import { spawn } from 'node:child_process'
import { existsSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ready, root } from './ready.mjs'

const ROUNDS = Number(process.argv[2] ?? 5)
const folder = mkdtempSync(join(tmpdir(), 'ypsilon-kit-speed-'))
const LENGTH = [
  '--hold',
  '0.5',
  '--tail',
  '-60/1.5',
  '--trim',
  'off',
  '--velocities',
  '0.4,1',
  '--takes',
  '2',
]

/** Holds a program to one core, where that can be done. */
const PIN = existsSync('/usr/bin/taskset') ? ['/usr/bin/taskset', '-c', '0'] : []

const kit = (name, notes, workers, before = []) =>
  new Promise((done, failed) => {
    const out = join(folder, name)
    rmSync(out, { recursive: true, force: true })
    const [first, ...rest] = [
      ...before,
      process.execPath,
      ...[
        join(root, 'packages/cli/dist/ypsilon.js'),
        'kit',
        join(root, 'demo/patches/harbour-bell.ypatch.json'),
        '--notes',
        notes,
        ...LENGTH,
        '--workers',
        String(workers),
        '--out',
        out,
      ],
    ]
    const program = spawn(first, rest, { stdio: 'ignore' })
    program.on('exit', (code) => (code === 0 ? done() : failed(new Error(`the kit ended with ${code}`))))
  })

const seconds = async (act) => {
  const start = performance.now()
  await act()
  return (performance.now() - start) / 1000
}
const median = (list) => [...list].sort((a, b) => a - b)[list.length >> 1]

await ready('cli')
const WHOLE = '36..84/3'
const core = [],
  one = [],
  two = [],
  halves = []
for (let round = 0; round < ROUNDS; round += 1) {
  if (PIN.length > 0) core.push(await seconds(() => kit('core', WHOLE, 1, PIN)))
  one.push(await seconds(() => kit('one', WHOLE, 1)))
  two.push(await seconds(() => kit('two', WHOLE, 2)))
  // Every other note each: the best that two cores of this machine can do.
  halves.push(await seconds(() => Promise.all([kit('low', '36..84/6', 1), kit('high', '39..81/6', 1)])))
}
rmSync(folder, { recursive: true, force: true })
const words = (name, list) =>
  `${name}: ${median(list).toFixed(2)} s (${list.map((x) => x.toFixed(2)).join(' ')})`
process.stdout.write(
  `${[
    ...(core.length > 0 ? [words('one core', core)] : []),
    words('one thread', one),
    words('two threads', two),
    words('two processes, half of it each', halves),
    ...(core.length > 0
      ? [`two cores against half of one: ${median(two.map((x, n) => (2 * x) / core[n])).toFixed(3)}`]
      : []),
    `two threads against half of one: ${median(two.map((x, n) => (2 * x) / one[n])).toFixed(3)}`,
    `two processes against half of one: ${median(halves.map((x, n) => (2 * x) / one[n])).toFixed(3)}`,
  ].join('\n')}\n`,
)
