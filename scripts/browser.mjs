// What scripts that look at the page need: the built application served, and a Chromium to open it in.
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import puppeteer from 'puppeteer-core'
import { ensureChromium, FLAGS } from './chromium.mjs'
import { ready, root } from './ready.mjs'

/** Builds what is old, serves the page at a port, and opens a browser of 1280 × 800. */
export const openBrowser = async (port, options = {}) => {
  await ready('web', 'server')
  const server = spawn(process.execPath, [join(root, 'packages/server/dist/server.js')], {
    env: { ...process.env, PORT: String(port) },
  })
  const address = await new Promise((resolve) => {
    server.stdout.on('data', (data) => {
      const found = /at (http:\S+)/.exec(String(data))
      if (found) resolve(found[1])
    })
  })
  const browser = await puppeteer.launch({
    executablePath: ensureChromium(),
    headless: true,
    defaultViewport: { width: 1280, height: 800 },
    args: [...FLAGS, '--hide-scrollbars'],
    ...options,
  })
  return {
    address,
    browser,
    close: async () => {
      await browser.close()
      server.kill()
    },
  }
}

export const pause = (ms) =>
  new Promise((resolve) => {
    setTimeout(resolve, ms)
  })
