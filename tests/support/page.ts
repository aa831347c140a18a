/** What several tests do with the page: its menu, its downloads, what it sounds like. */
import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser, ElementHandle, Page } from 'puppeteer-core'
import { Archive } from '../../packages/core/src/formats/archive.ts'
import { readWav } from '../../packages/core/src/formats/wav.ts'
import { afterAll, beforeAll } from 'vitest'
import { type Opened, openPage, patient, pause, serve, type Served } from './browser.ts'

/** Presses an item of the patch menu by how it begins: the first, or the last, which is the shipped one. */
const pressItem = async (page: Page, item: string, which: 'first' | 'last' = 'first'): Promise<void> => {
  await page.click('button[aria-label^="Patch "]')
  await page.waitForSelector('[role="menuitem"]')
  const found = await page.evaluateHandle(
    (begin, place) => {
      const all = [...document.querySelectorAll<HTMLElement>('[role="menuitem"]')].filter((node) =>
        node.textContent?.startsWith(begin),
      )
      return all.at(place === 'first' ? 0 : -1)
    },
    item,
    which,
  )
  const element = found.asElement()
  if (!element) throw new Error(`The patch menu has no ${item}`)
  await (element as ElementHandle<HTMLElement>).click()
  await page.waitForFunction(() => document.querySelector('[role="menu"]') === null)
}
export const choose = async (page: Page, item: string, which?: 'first' | 'last'): Promise<void> => {
  await pressItem(page, item, which)
  await pause(200)
}

const downloads = mkdtempSync(join(tmpdir(), 'ypsilon-downloads-'))

/** The file that something makes the page download. */
export const downloadBytes = async (page: Page, act: () => Promise<void>): Promise<Buffer> => {
  const client = await page.createCDPSession()
  await client.send('Browser.setDownloadBehavior', {
    behavior: 'allowAndName',
    downloadPath: downloads,
    eventsEnabled: true,
  })
  const finished = new Promise<string>((resolve) => {
    client.on('Browser.downloadProgress', (event) => {
      if (event.state === 'completed') resolve(event.guid)
    })
  })
  await act()
  const guid = await finished
  await client.detach()
  return readFileSync(join(downloads, guid))
}

const takeCount = (page: Page): Promise<string> =>
  page.$eval('button[aria-label$=" takes"]', (button) => button.textContent ?? '')

/** Records what the worklet puts out while something happens. */
export const record = async (page: Page, act: () => Promise<void>): Promise<Float32Array[]> => {
  await page.click('button[aria-label="Record the output"]')
  await pause(150)
  await act()
  const takes = await takeCount(page)
  await page.click('button[aria-label="Stop recording"]')
  await page.waitForFunction(
    (before) => document.querySelector('button[aria-label$=" takes"]')!.textContent !== before,
    {},
    takes,
  )
  await page.click('button[aria-label$=" takes"]')
  // The list has the latest first, once the take is written.
  const wav = '[data-radix-popper-content-wrapper] li:first-child button[aria-label$="WAV file"]'
  await page.waitForSelector(wav)
  const bytes = await downloadBytes(page, async () => {
    await page.click(wav)
  })
  await page.keyboard.press('Escape')
  await pause(100)
  const result = readWav(new Uint8Array(bytes))
  if (!result.ok) throw new Error(result.fault.message)
  return [...result.sound.channels]
}

export interface Point {
  readonly x: number
  readonly y: number
}

export const centreOf = async (page: Page, selector: string): Promise<Point> => {
  const box = await (await page.waitForSelector(selector))!.boundingBox()
  return { x: box!.x + box!.width / 2, y: box!.y + box!.height / 2 }
}

/** Clicks the element that has these words, or begins with them, once it is there. */
export const pressNamed = async (
  page: Page,
  selector: string,
  words: string,
  match: 'whole' | 'begins' = 'whole',
): Promise<void> => {
  const found = await page.waitForFunction(
    (among, text, how) =>
      [...document.querySelectorAll<HTMLElement>(among)].find((node) =>
        how === 'whole' ? node.textContent === text : node.textContent?.startsWith(text),
      ),
    {},
    selector,
    words,
    match,
  )
  await (found as ElementHandle).click()
}

/** The top of a card, which selects and moves it at every distance. */
export const gripOf = async (page: Page, id: string): Promise<Point> => {
  const box = await (await page.waitForSelector(`[data-module="${id}"]`))!.boundingBox()
  return { x: box!.x + Math.min(40, box!.width / 2), y: box!.y + 6 }
}
export const pressCard = async (page: Page, id: string, button: 'left' | 'right' = 'left'): Promise<void> => {
  const { x, y } = await gripOf(page, id)
  await page.mouse.click(x, y, { button })
}

/** A drag with the small first move that passes the threshold. */
export const dragOn = async (page: Page, from: Point, to: Point): Promise<void> => {
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(from.x + 6, from.y + 2)
  await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2, { steps: 3 })
  await page.mouse.move(to.x, to.y, { steps: 3 })
  await page.mouse.up()
  await pause(60)
}

/** Opens the finder at a place on the chart, types, takes the first. */
export const addModule = async (page: Page, text: string, x: number, y: number): Promise<void> => {
  await page.mouse.click(x, y, { count: 2 })
  await page.waitForSelector('[role="dialog"] input')
  await page.keyboard.type(text)
  await pause(80)
  await page.keyboard.press('Enter')
  await page.waitForFunction(() => document.querySelector('[role="dialog"]') === null)
  await pause(60)
}

export const connectPorts = async (page: Page, from: string, to: string): Promise<void> =>
  dragOn(
    page,
    await centreOf(page, `.source[data-port="${from}"]`),
    await centreOf(page, `.target[data-port="${to}"]`),
  )

/** A patch as the page exports it. */
export interface Exported {
  readonly name: string
  readonly modules: readonly {
    readonly id: string
    readonly type: string
    readonly label?: string
    readonly params?: Readonly<Record<string, unknown>>
    readonly data?: Readonly<Record<string, unknown>>
  }[]
  readonly view?: unknown
  readonly cables: readonly {
    readonly from: string
    readonly to: string
    readonly amount?: number
    readonly id?: string
  }[]
}

export const exportedFrom = async (page: Page): Promise<Exported> => {
  const bytes = await downloadBytes(page, () => pressItem(page, 'Export as a file'))
  // With its audio it is an archive.
  const opened = bytes.subarray(0, 2).toString() === 'PK' ? Archive.open(new Uint8Array(bytes)) : undefined
  const inside = opened?.ok ? opened.archive.read('patch.json', 2 ** 24) : undefined
  return JSON.parse(inside?.ok ? new TextDecoder().decode(inside.bytes) : bytes.toString('utf8')) as Exported
}

/** What is set in a module. */
export const paramsOf = async (page: Page, id: string): Promise<Readonly<Record<string, unknown>>> =>
  (await exportedFrom(page)).modules.find((module) => module.id === id)?.params ?? {}

/** Starts from an empty bench. */
export const emptyChart = async (page: Page): Promise<void> => {
  await choose(page, 'New patch')
  await page.waitForFunction(() => document.querySelectorAll('[data-module]').length === 0)
}

/** Name of the patch on the bench. */
export const nameOf = (page: Page): Promise<string> =>
  page.$eval('button[aria-label^="Patch "]', (button) => button.getAttribute('aria-label')!.slice(6))
export const named = async (page: Page, name: string): Promise<void> => {
  await page.waitForFunction(
    (wanted) => document.querySelector('button[aria-label^="Patch "]')?.getAttribute('aria-label') === wanted,
    // The largest patches take a slow machine long: no time is asked for here.
    { timeout: 60000 },
    `Patch ${name}`,
  )
}
/** Waits until the page says something. */
export const said = (page: Page, words: string): Promise<unknown> =>
  page.waitForFunction((text) => document.body.textContent!.includes(text), { timeout: 30000 }, words)
export const kept = (page: Page): Promise<unknown> => said(page, 'kept just now')
export const cards = (page: Page): Promise<number> => page.$$eval('[data-module]', (all) => all.length)
export const withCtrl = async (page: Page, key: string): Promise<void> => {
  await page.keyboard.down('Control')
  await page.keyboard.press(key as 'a')
  await page.keyboard.up('Control')
  await pause(60)
}
/** A page that is gone without any farewell: nothing it would do on leaving happens. */
export const crash = async (page: Page): Promise<void> => {
  const client = await page.createCDPSession()
  // It never answers: nobody waits for it.
  void client.send('Page.crash').catch(() => undefined)
  await pause(300)
}
/** A further tab. */
export const another = async (browser: Browser, address: string): Promise<Page> => {
  const page = patient(await browser.newPage())
  await page.setViewport({ width: 1280, height: 800 })
  await page.goto(address, { waitUntil: 'networkidle0' })
  await page.waitForSelector('[data-chart]')
  return page
}
/** Presses a button by its words. */
export const button = async (page: Page, words: string): Promise<void> => {
  const found = await page.waitForSelector(`::-p-xpath(//button[normalize-space()="${words}"])`)
  await found!.click()
}

/** Gives the page a patch as a file, and waits until it is on the bench. */
export const importPatch = async (page: Page, patch: { readonly name: string }): Promise<void> => {
  await page.evaluate((text) => {
    const input = document.querySelector<HTMLInputElement>('[data-import]')!
    const files = new DataTransfer()
    files.items.add(new File([text], 'patch.ypatch.json'))
    input.files = files.files
    input.dispatchEvent(new Event('change', { bubbles: true }))
  }, JSON.stringify(patch))
  await named(page, patch.name)
}

/** The shipped demo anew, without a step to undo. */
export const freshDemo = async (page: Page, name: string, module: string): Promise<void> => {
  await choose(page, name, 'last')
  await page.waitForFunction(
    () => document.querySelector<HTMLButtonElement>('button[aria-label="Undo"]')!.disabled,
  )
  await named(page, name)
  await page.waitForSelector(`[data-module="${module}"]`)
}

/** Whether there is nothing to undo. */
export const isUntouched = (page: Page): Promise<boolean> =>
  page.$eval('button[aria-label="Undo"]', (button) => (button as HTMLButtonElement).disabled)

/** One page for all tests of a file: opened before the first of them, closed after the last. */
export const usePage = (take: (page: Page) => void): void => {
  let server: Served | undefined, opened: Opened | undefined
  beforeAll(async () => {
    server = await serve()
    opened = await openPage(server.address)
    take(opened.page)
  })
  afterAll(async () => {
    await opened?.close()
    server?.stop()
  })
}

export const zoomOf = (page: Page): Promise<number> =>
  page.$eval('.react-flow__viewport', (element) => new DOMMatrix(getComputedStyle(element).transform).a)

/** Wheels over the middle of the chart until the zoom is below a value, and lets it rest. */
export const zoomOut = async (page: Page, wanted: number): Promise<void> => {
  const chart = (await (await page.$('[data-chart]'))!.boundingBox())!
  await page.mouse.move(chart.x + chart.width / 2, chart.y + chart.height / 2)
  await page.keyboard.down('Control')
  for (let n = 0; n < 60 && (await zoomOf(page)) >= wanted; n += 1) {
    await page.mouse.wheel({ deltaY: 12 })
    await pause(12)
  }
  await page.keyboard.up('Control')
  await pause(500)
}

/** A demo as it comes, seen whole. */
export const freshly = async (page: Page, name: string): Promise<void> => {
  await choose(page, name, 'last')
  await named(page, name)
  await page.waitForSelector('[data-module]')
  await pause(600)
}
