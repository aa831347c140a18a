// Installs packages where this is Debian or its like.
import { spawnSync } from 'node:child_process'
import { existsSync } from 'node:fs'

const run = (command, args) =>
  spawnSync(command, args, {
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  }).status === 0

/** False where they could not be installed. */
export const install = (name, ...packages) => {
  if (!existsSync('/usr/bin/apt-get')) return false
  process.stderr.write(`Installing ${name} …\n`)
  const sudo = process.getuid?.() === 0 ? [] : ['sudo', '-n']
  const apt = (...args) => run([...sudo, 'apt-get'][0], [...sudo, 'apt-get', ...args].slice(1))
  apt('update', '-qq')
  return apt('install', '-y', '-qq', '--no-install-recommends', ...packages)
}

const isThere = (command, ...args) => spawnSync(command, args, { stdio: 'ignore' }).status === 0

/** SoX, which reads what this program writes in some tests. Without it they are left out, and that is said. */
export const ensureSox = () => {
  if (isThere('sox', '--version') || install('SoX', 'sox')) return
  process.stderr.write(
    'SoX is missing and could not be installed: the tests that read files with it are left out\n',
  )
}
