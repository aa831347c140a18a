// npm test: installs what it needs (Chromium included), builds, checks and runs every test.
import { spawnSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { checked } from './checks.mjs'
import { ensureChromium } from './chromium.mjs'
import { ensureSox } from './debian.mjs'
import { installed, root } from './ready.mjs'

const step = (name, command, args) => {
  process.stderr.write(`\n— ${name}\n`)
  const result = spawnSync(command, args, {
    cwd: root,
    stdio: ['ignore', 'inherit', 'inherit'],
    shell: process.platform === 'win32',
  })
  if (result.status !== 0) {
    process.stderr.write(`${name} failed\n`)
    process.exit(result.status ?? 1)
  }
}

installed()
const chromium = ensureChromium()
ensureSox()
process.env.CHROMIUM = chromium
const only = process.argv.slice(2)
step('Build', process.execPath, ['scripts/build.mjs'])
if (only.length === 0 && !(await checked())) process.exit(1)
const report = join(root, 'node_modules/.cache/tests.json')
step('Tests', process.execPath, [
  'node_modules/vitest/vitest.mjs',
  'run',
  '--reporter=default',
  '--reporter=json',
  `--outputFile.json=${report}`,
  ...only,
])
const { numPassedTests, numFailedTests } = JSON.parse(readFileSync(report, 'utf8'))
process.stdout.write(`${numPassedTests} passed, ${numFailedTests} failed\n`)
