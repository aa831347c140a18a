// Finds Chromium, or installs Debian's where that is possible.
import { spawnSync } from 'node:child_process'
import { existsSync } from 'node:fs'

const PLACES = [
  process.env.CHROMIUM,
  '/usr/bin/chromium',
  '/usr/bin/chromium-browser',
  '/usr/bin/google-chrome',
  '/Applications/Google Chrome.app/Contents/MacOS/Google Chrome',
].filter(Boolean)

/** How it runs without a screen: quiet, its own audio clock, nothing on the network. */
export const FLAGS = [
  '--no-sandbox',
  '--disable-dev-shm-usage',
  '--disable-gpu',
  '--disable-quic',
  '--autoplay-policy=no-user-gesture-required',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
]

export const findChromium = () => PLACES.find((path) => existsSync(path))

const run = (command, args) =>
  spawnSync(command, args, {
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  }).status === 0

export const ensureChromium = () => {
  const found = findChromium()
  if (found) return found
  if (existsSync('/usr/bin/apt-get')) {
    process.stderr.write('Installing Chromium …\n')
    const sudo = process.getuid?.() === 0 ? [] : ['sudo', '-n']
    const apt = (...args) => run([...sudo, 'apt-get'][0], [...sudo, 'apt-get', ...args].slice(1))
    apt('update', '-qq')
    if (apt('install', '-y', '-qq', '--no-install-recommends', 'chromium', 'fonts-liberation'))
      return findChromium()
  }
  process.stderr.write(
    'Chromium is missing and could not be installed. Install it, or name it: CHROMIUM=/path/to/chromium npm test\n',
  )
  return process.exit(1)
}
