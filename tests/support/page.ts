/** What several tests do with the page: its menu, its downloads, what it sounds like. */
import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from 'puppeteer-core'
import { readWav } from '../../packages/core/src/formats/wav.ts'
import { pause } from './browser.ts'

/** Chooses an item of the patch menu by how it begins. */
export const choose = async (page: Page, item: string): Promise<void> => {
  await page.click('button[aria-label^="Patch "]')
  await page.waitForSelector('[role="menuitem"]')
  for (const element of await page.$$('[role="menuitem"]')) {
    if ((await element.evaluate((node) => node.textContent))?.startsWith(item)) {
      await element.click()
      break
    }
  }
  await page.waitForFunction(() => document.querySelector('[role="menu"]') === null)
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

/** Records what the worklet puts out while something happens. */
export const record = async (page: Page, act: () => Promise<void>): Promise<Float32Array[]> => {
  await page.click('button[aria-label="Record the output"]')
  await pause(150)
  await act()
  await page.click('button[aria-label="Stop recording"]')
  await pause(250)
  await page.click('button[aria-label$=" takes"]')
  await page.waitForSelector('[data-radix-popper-content-wrapper] li:last-child button')
  const bytes = await downloadBytes(page, async () => {
    await page.click('[data-radix-popper-content-wrapper] li:last-child button')
  })
  await page.keyboard.press('Escape')
  await pause(100)
  const wav = readWav(new Uint8Array(bytes))
  if (!wav.ok) throw new Error(wav.fault.message)
  return [...wav.sound.channels]
}

export interface Point {
  readonly x: number
  readonly y: number
}

export const centreOf = async (page: Page, selector: string): Promise<Point> => {
  const box = await (await page.waitForSelector(selector))!.boundingBox()
  return { x: box!.x + box!.width / 2, y: box!.y + box!.height / 2 }
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
    readonly params?: Readonly<Record<string, unknown>>
  }[]
  readonly cables: readonly {
    readonly from: string
    readonly to: string
    readonly amount?: number
    readonly id?: string
  }[]
}

export const exportedFrom = async (page: Page): Promise<Exported> =>
  JSON.parse((await downloadBytes(page, () => choose(page, 'Export as a file'))).toString('utf8')) as Exported

/** Starts from an empty bench. */
export const emptyChart = async (page: Page): Promise<void> => {
  await choose(page, 'New patch')
  await page.waitForFunction(() => document.querySelectorAll('[data-module]').length === 0)
}
