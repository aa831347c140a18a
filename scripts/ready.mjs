// Makes sure that what is about to run is installed and built from the sources as they are now.
import { spawnSync } from 'node:child_process'
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

export const root = join(dirname(fileURLToPath(import.meta.url)), '..')

/** Runs npm quietly; its words go to stderr, so that stdout stays the program's own. */
const npm = (args) => {
  const result = spawnSync('npm', args, {
    cwd: root,
    stdio: ['ignore', 2, 2],
    shell: process.platform === 'win32',
  })
  if (result.status !== 0) {
    process.stderr.write(`ypsilon: "npm ${args.join(' ')}" failed; see above\n`)
    process.exit(1)
  }
}

/** Installs the packages of the lock file when they are missing or the lock file has changed. */
export const installed = () => {
  const lock = readFileSync(join(root, 'package-lock.json'), 'utf8')
  const stamp = join(root, 'node_modules/.ypsilon-installed')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return
  process.stderr.write('Installing packages …\n')
  // Not "npm ci": that refuses a lock file without the native parts of other systems; this adds what a system needs.
  npm(['install', '--no-save', '--no-audit', '--no-fund', '--loglevel=error'])
  writeFileSync(stamp, lock)
}

const newestIn = (folder) => {
  let newest = 0
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (
      entry.name === 'generated' ||
      entry.name === 'node_modules' ||
      entry.name === 'dist' ||
      entry.name.endsWith('.test.ts')
    )
      continue
    const path = join(folder, entry.name)
    newest = Math.max(newest, entry.isDirectory() ? newestIn(path) : statSync(path).mtimeMs)
  }
  return newest
}

const SOURCES = {
  cli: ['packages/core', 'packages/cli', 'scripts'],
  server: ['packages/server'],
  web: ['packages/core', 'packages/web', 'scripts', 'demo'],
}
const RESULTS = {
  cli: 'packages/cli/dist/ypsilon.js',
  server: 'packages/server/dist/server.js',
  web: 'packages/web/dist/index.html',
}

/** True when a part is built and not older than its sources. */
export const isBuilt = (part) => {
  const result = join(root, RESULTS[part])
  return (
    existsSync(result) &&
    SOURCES[part].every((folder) => newestIn(join(root, folder)) <= statSync(result).mtimeMs)
  )
}

/** Installs and builds the parts that need it. */
export const ready = async (...parts) => {
  installed()
  const missing = parts.filter((part) => !isBuilt(part))
  if (missing.length === 0) return
  process.stderr.write(`Building ${missing.join(', ')} …\n`)
  const { build } = await import('./build.mjs')
  await build(missing)
}
