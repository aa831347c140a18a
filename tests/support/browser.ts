import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { findChromium, FLAGS } from '../../scripts/chromium.mjs'
import puppeteer, { type Browser, type Page } from 'puppeteer-core'

export const ROOT = fileURLToPath(new URL('../..', import.meta.url))
const CHROMIUM = findChromium() ?? 'chromium'

export interface Served {
  readonly address: string
  readonly output: () => string
  stop(): void
}

/** Starts the built server on a free port. */
export const serve = async (environment: Record<string, string> = {}): Promise<Served> => {
  const port = 20000 + Math.floor(Math.random() * 20000)
  const child: ChildProcess = spawn(process.execPath, [join(ROOT, 'packages/server/dist/server.js')], {
    env: { ...process.env, PORT: String(port), ...environment },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  let text = ''
  child.stdout!.on('data', (data: Buffer) => {
    text += data.toString()
  })
  child.stderr!.on('data', (data: Buffer) => {
    text += data.toString()
  })
  for (let tries = 0; tries < 200; tries += 1) {
    const found = /at (http:\S+)/.exec(text)
    if (found)
      return {
        address: found[1]!,
        output: () => text,
        stop: () => {
          child.kill()
        },
      }
    await new Promise((resolve) => {
      setTimeout(resolve, 50)
    })
  }
  child.kill()
  throw new Error(`The server did not start: ${text}`)
}

export interface Opened {
  readonly browser: Browser
  readonly page: Page
  readonly problems: string[]
  close(): Promise<void>
}

/** What is pressed, focused or read is waited for: on a slow machine it comes later. */
export const patient = (page: Page): Page => {
  const [click, focus, $eval] = [page.click.bind(page), page.focus.bind(page), page.$eval.bind(page)]
  page.click = async (selector, options) => {
    await page.waitForSelector(selector)
    await click(selector, options)
  }
  page.focus = async (selector) => {
    await page.waitForSelector(selector)
    await focus(selector)
  }
  page.$eval = (async (selector: string, ...rest: [never]) => {
    await page.waitForSelector(selector)
    return $eval(selector, ...rest)
  }) as Page['$eval']
  return page
}

/** Opens the page in a fresh Chromium; errors on the console are collected. */
export const openPage = async (
  address: string,
  options: { width?: number; height?: number } = {},
): Promise<Opened> => {
  const profile = mkdtempSync(join(tmpdir(), 'ypsilon-profile-'))
  const browser = await puppeteer.launch({
    executablePath: CHROMIUM,
    headless: true,
    args: [...FLAGS, '--force-color-profile=srgb', '--hide-scrollbars'],
    userDataDir: profile,
    defaultViewport: { width: options.width ?? 1280, height: options.height ?? 800 },
    protocolTimeout: 120000,
  })
  const page = patient(await browser.newPage())
  const problems: string[] = []
  page.on('console', (message) => {
    if (message.type() === 'error') problems.push(message.text())
  })
  page.on('pageerror', (error) => {
    problems.push(String(error))
  })
  await page.goto(address, { waitUntil: 'networkidle0' })
  return {
    browser,
    page,
    problems,
    close: async () => {
      await browser.close()
      rmSync(profile, { recursive: true, force: true })
    },
  }
}

/** How long a reload may take before it is asked whether the page hangs. */
const RELOAD_MS = 20_000

/**
 * Loads the page anew. Where nothing comes of it, it is asked whether the page still answers: one that does was never
 * told to go, and is told once more; one that does not is a fault of ours.
 */
export const reloaded = async (
  page: Page,
  waitUntil: 'networkidle0' | 'domcontentloaded' = 'networkidle0',
): Promise<void> => {
  try {
    await page.reload({ waitUntil, timeout: RELOAD_MS })
  } catch {
    const answer = await Promise.race([page.evaluate(() => document.readyState), pause(5000)])
    if (answer === undefined) throw new Error('The page hangs while it is left: it answers no more.')
    await page.reload({ waitUntil })
  }
}

export const pause = (ms: number): Promise<void> =>
  new Promise((resolve) => {
    setTimeout(resolve, ms)
  })
