/** Recordings in the page: dropped, chosen, heard, drawn, kept in an archive that opens elsewhere, and what is broken. */
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle, Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Archive } from '../packages/core/src/formats/archive.ts'
import { writeWav } from '../packages/core/src/formats/wav.ts'
import { hzBetween, largest } from '../packages/core/src/testing/measure.ts'
import { type Opened, openPage, pause, serve, type Served } from './support/browser.ts'
import {
  addModule,
  choose,
  connectPorts,
  downloadBytes,
  emptyChart,
  exportedFrom,
  pressCard,
  pressNamed,
  record,
} from './support/page.ts'

const folder = mkdtempSync(join(tmpdir(), 'ypsilon-recordings-'))
const RATE = 44100
/** A second of a tone at another rate than the engine's. */
const bytes = writeWav(
  {
    rate: RATE,
    channels: [0, 1].map(() =>
      Float32Array.from({ length: RATE }, (_, n) => 0.3 * Math.sin((2 * Math.PI * 440 * n) / RATE)),
    ),
  },
  '32f',
)
const wav = join(folder, 'Quay hammer.wav'),
  broken = join(folder, 'broken.wav'),
  empty = join(folder, 'empty.wav')

let server: Served, opened: Opened, page: Page
beforeAll(async () => {
  writeFileSync(wav, bytes)
  writeFileSync(broken, bytes.subarray(0, 30))
  writeFileSync(empty, writeWav({ rate: RATE, channels: [new Float32Array(0)] }, '16'))
  server = await serve()
  opened = await openPage(server.address)
  page = opened.page
})
afterAll(async () => {
  expect(opened.problems).toEqual([])
  await opened.close()
  server.stop()
})

const give = async (selector: string, ...files: string[]): Promise<void> => {
  await page.waitForSelector(selector)
  await ((await page.$(selector)) as ElementHandle<HTMLInputElement>).uploadFile(...files)
}
const paramsOf = async (type: string): Promise<Readonly<Record<string, unknown>> | undefined> =>
  (await exportedFrom(page)).modules.find((module) => module.type === type)?.params
const heard = async (act: () => Promise<void> = () => pause(900)): Promise<Float32Array> => {
  const [left] = await record(page, act)
  return left!
}

describe('a recording', () => {
  it('that comes in with nothing selected is a player, drawn and heard', async () => {
    await emptyChart(page)
    await addModule(page, 'output', 900, 300)
    await page.mouse.click(640, 200)
    await page.keyboard.press('Escape')
    await page.mouse.click(640, 520)
    await give('[data-import]', wav)
    await page.waitForSelector('[data-module="player"]')
    expect((await paramsOf('player'))?.['asset']).toBe('quay-hammer')
    await connectPorts(page, 'player.out', 'out.in')
    const sound = await heard()
    expect(largest(sound)).toBeGreaterThan(0.05)
    expect(hzBetween(sound, 0.4, 0.8)).toBeCloseTo(440, 0)
    await pressCard(page, 'player')
    // Its picture says how long it is.
    await page.waitForFunction(() =>
      document
        .querySelector('[data-testid="module-picture"]')
        ?.getAttribute('aria-label')
        ?.includes('1.00 s'),
    )
  })

  it('is chosen by its name, and from a file for one module alone', async () => {
    await pressCard(page, 'player')
    await pressNamed(page, 'button[data-param="asset"]', 'quay-hammer', 'begins')
    await pressNamed(page, '[role="menuitemradio"]', 'none')
    await pause(200)
    expect((await paramsOf('player'))?.['asset']).toBe('')
    // What is left is what the output takes out of a sound's mean.
    expect(largest((await heard()).subarray(9600))).toBeLessThan(1e-5)
    await give('[data-recording="player"]', wav)
    await page.waitForFunction(
      () => document.querySelector('button[data-param="asset"]')?.textContent === 'quay-hammer',
    )
    expect(largest(await heard())).toBeGreaterThan(0.05)
    // One step: undone, it is silent again.
    await page.mouse.click(640, 520)
    await page.keyboard.down('Control')
    await page.keyboard.press('z')
    await page.keyboard.up('Control')
    await pause(300)
    expect((await paramsOf('player'))?.['asset']).toBe('')
  })

  it('becomes zones of a sampler, which are set in a table', async () => {
    await addModule(page, 'sampler', 640, 440)
    await pressCard(page, 'sampler')
    await give('[data-zones="sampler"]', wav, wav)
    await page.waitForSelector('[data-zone="2"]')
    const field = await page.waitForSelector('input[aria-label="Root of zone 2"]')
    await field!.click()
    await page.keyboard.type('72')
    await page.keyboard.press('Enter')
    await (await page.waitForSelector('input[aria-label="High key of zone 1"]'))!.click()
    await page.keyboard.type('200')
    await page.keyboard.press('Enter')
    await page.waitForFunction(
      () => document.querySelector('.fault')?.textContent === 'A number from 0 to 127.',
    )
    await page.keyboard.press('Escape')
    await page.click('button[aria-label="Remove zone 1"]')
    await page.waitForFunction(() => !document.querySelector('[data-zone="2"]'))
    const { modules } = await exportedFrom(page)
    const zones = (modules.find(({ type }) => type === 'sampler') as unknown as { data: { zones: object[] } })
      .data.zones
    expect(zones).toEqual([{ asset: 'quay-hammer', root: 72 }])
  })

  it('that is broken is refused with its reason, and nothing changes', async () => {
    const before = await exportedFrom(page)
    await give('[data-import]', broken)
    await page.waitForFunction(() => document.body.textContent?.includes('broken.wav was not opened'))
    await give('[data-import]', empty)
    await page.waitForFunction(() => document.body.textContent?.includes('it holds no samples'))
    expect(await exportedFrom(page)).toEqual(before)
  })

  it('goes into the archive byte for byte, and the archive opens in another browser', async () => {
    const zip = await downloadBytes(page, () => choose(page, 'Export'))
    const archive = Archive.open(new Uint8Array(zip))
    if (!archive.ok) throw new Error(archive.fault.message)
    const inside = archive.archive.read('assets/quay-hammer.wav', 1e8)
    expect(inside.ok && Buffer.from(inside.bytes).equals(Buffer.from(bytes))).toBe(true)
    const path = join(folder, 'quay.ypatch.zip')
    writeFileSync(path, zip)
    const elsewhere = await openPage(server.address)
    try {
      await elsewhere.page.mouse.click(640, 300)
      await ((await elsewhere.page.$('[data-import]')) as ElementHandle<HTMLInputElement>).uploadFile(path)
      await elsewhere.page.waitForSelector('[data-module="sampler"]')
      const again = await downloadBytes(elsewhere.page, () => choose(elsewhere.page, 'Export'))
      const second = Archive.open(new Uint8Array(again))
      if (!second.ok) throw new Error(second.fault.message)
      const there = second.archive.read('assets/quay-hammer.wav', 1e8)
      expect(there.ok && Buffer.from(there.bytes).equals(Buffer.from(bytes))).toBe(true)
    } finally {
      await elsewhere.close()
    }
  })

  it('of a place that comes with us is a starting point, taken in one step', async () => {
    await emptyChart(page)
    await addModule(page, 'convolver', 300, 440)
    await pressCard(page, 'convolver')
    await page.waitForSelector('button[data-param="preset"]')
    await page.click('button[data-param="preset"]')
    await pressNamed(page, '[role="menuitemradio"]', 'Only its first wall')
    await page.waitForFunction(
      () => document.querySelector('button[data-param="preset"]')?.textContent === 'Only its first wall',
    )
    await page.waitForFunction(() => document.querySelector('[role="menu"]') === null)
    await pause(200)
    expect(await paramsOf('convolver')).toMatchObject({ asset: 'slipway-shed', length: 0.05, mix: 0.45 })
    await page.mouse.click(800, 300)
    await page.keyboard.down('Control')
    await page.keyboard.press('z')
    await page.keyboard.up('Control')
    await pause(300)
    expect((await paramsOf('convolver'))?.['length'] ?? 1).toBe(1)
  })
})
