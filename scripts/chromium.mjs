// Finds Chromium, or installs Debian's where that is possible.
import { existsSync } from 'node:fs'
import { install } from './debian.mjs'

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

export const ensureChromium = () => {
  const found = findChromium()
  if (found) return found
  if (install('Chromium', 'chromium', 'fonts-liberation')) return findChromium()
  process.stderr.write(
    'Chromium is missing and could not be installed. Install it, or name it: CHROMIUM=/path/to/chromium npm test\n',
  )
  return process.exit(1)
}
