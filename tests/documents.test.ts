/** What is kept: patches, their steps, and versions, through reloads and crashes. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Page } from 'puppeteer-core'
import { openPage, pause, reloaded, serve, type Served } from './support/browser.ts'
import {
  addModule,
  another,
  button,
  cards,
  choose,
  crash,
  exportedFrom,
  kept,
  named,
  nameOf,
  pressCard,
  said,
  withCtrl,
} from './support/page.ts'

let server: Served
beforeAll(async () => {
  server = await serve()
})
afterAll(() => {
  server.stop()
})

const items = async (page: Page): Promise<string[]> => {
  await page.click('button[aria-label^="Patch "]')
  await page.waitForSelector('[role="menuitem"]')
  const all = await page.$$eval('[role="menuitem"]', (found) => found.map((item) => item.textContent ?? ''))
  await page.keyboard.press('Escape')
  await page.waitForFunction(() => !document.querySelector('[role="menu"]'))
  return all
}
describe('opening something else', () => {
  it('loses nothing: every patch is a document of its own', async () => {
    const { page, close } = await openPage(server.address)
    await choose(page, 'New patch')
    await named(page, 'Untitled')
    await addModule(page, 'oscillator', 500, 200)
    await addModule(page, 'filter', 800, 200)
    await kept(page)
    await choose(page, 'Harbour Bell')
    await named(page, 'Harbour Bell')
    expect(await cards(page)).toBeGreaterThan(3)
    // The other one is among the latest, with its undo history.
    await choose(page, 'Untitled')
    await named(page, 'Untitled')
    expect(await cards(page)).toBe(2)
    await withCtrl(page, 'z')
    expect(await cards(page)).toBe(1)
    await choose(page, 'New patch')
    await page.waitForFunction(() => document.querySelectorAll('[data-module]').length === 0)
    // A demo and a new patch that nobody changed are none.
    expect((await items(page)).filter((item) => item.startsWith('Untitled'))).toHaveLength(1)
    expect((await items(page))[0]).toMatch(/^New patch/)
    await close()
  })

  it('keeps an empty bench and an untouched demo on it through a reload', async () => {
    const { page, close } = await openPage(server.address)
    await choose(page, 'Harbour Bell')
    await named(page, 'Harbour Bell')
    await reloaded(page)
    await named(page, 'Harbour Bell')
    await choose(page, 'New patch')
    await named(page, 'Untitled')
    await reloaded(page)
    await said(page, 'The bench is empty')
    expect(await nameOf(page)).toBe('Untitled')
    await close()
  })

  it('duplicates, renames, puts aside and takes back', async () => {
    const { page, close } = await openPage(server.address)
    await choose(page, 'Duplicate the patch')
    await named(page, 'Reed Lamp copy')
    await choose(page, 'Rename')
    await page.waitForFunction(() => document.activeElement?.matches('[role="dialog"] input'))
    await page.keyboard.type('Gull Organ')
    await page.keyboard.press('Enter')
    await named(page, 'Gull Organ')
    await kept(page)
    await withCtrl(page, 'z')
    await named(page, 'Reed Lamp copy')
    await choose(page, 'Put the patch aside')
    await named(page, 'Untitled')
    expect((await items(page)).some((item) => item.startsWith('Reed Lamp copy'))).toBe(false)
    await page.click('nav a[href="/devices"]')
    await (await page.waitForSelector('button[aria-label="Take Reed Lamp copy back"]'))!.click()
    await named(page, 'Reed Lamp copy')
    await close()
  })
})

describe('steps', () => {
  it('are kept as they are made: a crash in the middle of fast edits loses none', async () => {
    const opened = await openPage(server.address)
    const { page, browser, close } = opened
    await page.mouse.click(600, 560)
    const start = await cards(page)
    await pressCard(page, 'out')
    // 25 steps in a few seconds, none with a pause.
    for (let n = 0; n < 25; n += 1) {
      await page.keyboard.down('Control')
      await page.keyboard.press('d')
      await page.keyboard.up('Control')
    }
    await crash(page)
    const next = await another(browser, server.address)
    expect(await cards(next)).toBeGreaterThan(start)
    const { modules } = await exportedFrom(next)
    expect(modules.filter(({ type }) => type === 'output')).toHaveLength(26)
    // Each of them can still be undone.
    for (let n = 0; n < 25; n += 1) await withCtrl(next, 'z')
    expect((await exportedFrom(next)).modules).toHaveLength(start)
    await close()
  })

  it('are kept when the page is left at once, and undone ones stay undone', async () => {
    const { page, close } = await openPage(server.address)
    await pressCard(page, 'out')
    await withCtrl(page, 'd')
    await withCtrl(page, 'd')
    await withCtrl(page, 'z')
    await reloaded(page, 'domcontentloaded')
    await page.waitForSelector('[data-module]')
    const count = async (): Promise<number> =>
      (await exportedFrom(page)).modules.filter(({ type }) => type === 'output').length
    expect(await count()).toBe(2)
    await page.keyboard.down('Shift')
    await withCtrl(page, 'z')
    await page.keyboard.up('Shift')
    await pause(100)
    expect(await count()).toBe(3)
    await close()
  })

  it('of a drag are one, given up with Escape none', async () => {
    const { page, close } = await openPage(server.address)
    const field = (await (await page.$('[data-module="out"] [data-param="level"]'))!.boundingBox())!
    const [x, y] = [field.x + field.width / 2, field.y + field.height / 2]
    await page.mouse.move(x, y)
    await page.mouse.down()
    for (let n = 1; n <= 40; n += 1) await page.mouse.move(x - n, y)
    await page.keyboard.press('Escape')
    await page.mouse.move(x - 60, y)
    await page.mouse.up()
    expect(
      await page.$eval('button[aria-label="Undo"]', (undo) => (undo as HTMLButtonElement).disabled),
    ).toBe(true)
    const levels = (await exportedFrom(page)).modules.find(({ id }) => id === 'out')!.params
    await page.mouse.move(x, y)
    await page.mouse.down()
    for (let n = 1; n <= 40; n += 1) await page.mouse.move(x - n, y)
    await page.mouse.up()
    expect((await exportedFrom(page)).modules.find(({ id }) => id === 'out')!.params).not.toEqual(levels)
    await reloaded(page)
    await page.waitForSelector('[data-module]')
    await withCtrl(page, 'z')
    expect((await exportedFrom(page)).modules.find(({ id }) => id === 'out')!.params).toEqual(levels)
    expect(
      await page.$eval('button[aria-label="Undo"]', (undo) => (undo as HTMLButtonElement).disabled),
    ).toBe(true)
    await close()
  })
})

describe('versions', () => {
  it('are kept by hand, say what differs, and come back in one step', async () => {
    const { page, close } = await openPage(server.address)
    await pressCard(page, 'out')
    await withCtrl(page, 'd')
    await choose(page, 'Versions')
    // The dialog comes when it is asked for.
    await (await page.waitForSelector('input[aria-label="Name of the version"]'))!.type('Two outputs')
    await page.keyboard.press('Enter')
    await said(page, 'Two outputs')
    await page.keyboard.press('Escape')
    await page.waitForFunction(() => !document.querySelector('[role="dialog"]'))
    await pressCard(page, 'filter')
    await page.keyboard.press('Backspace')
    const count = await cards(page)
    await choose(page, 'Versions')
    await said(page, '1 module removed')
    await button(page, 'Restore')
    await page.waitForSelector('[data-module="filter"]')
    expect(await cards(page)).toBe(count + 1)
    await withCtrl(page, 'z')
    await page.waitForFunction(() => !document.querySelector('[data-module="filter"]'))
    await close()
  })
})

/** Writes another format into the only document, once the store has the whole of it: leaving it writes that last. */
const damageBody = (page: Page): Promise<unknown> =>
  page.waitForFunction(
    () =>
      new Promise<boolean>((resolve, reject) => {
        const request = indexedDB.open('ypsilon')
        request.onerror = reject
        request.onsuccess = () => {
          const done = (is: boolean) => {
            request.result.close()
            resolve(is)
          }
          const transaction = request.result.transaction('documents', 'readwrite')
          transaction.onabort = reject
          const store = transaction.objectStore('documents')
          store.openCursor(IDBKeyRange.bound('body/', 'body/~')).onsuccess = ({ target }) => {
            const cursor = (target as IDBRequest<IDBCursorWithValue | null>).result,
              body = cursor?.value as { steps: number; patch: unknown } | undefined
            if (!cursor || !body!.steps) {
              done(false)
              return
            }
            cursor.update({ ...body, patch: { format: 'something else' } })
            transaction.oncomplete = () => {
              done(true)
            }
          }
        }
      }),
    { polling: 200 },
  )

describe('damage', () => {
  it('of a document is said, and it is put aside, not deleted', async () => {
    const { page, close } = await openPage(server.address)
    await pressCard(page, 'out')
    await withCtrl(page, 'd')
    await choose(page, 'Harbour Bell')
    await named(page, 'Harbour Bell')
    await damageBody(page)
    await choose(page, 'Reed Lamp')
    await said(page, 'could not be read. It is put aside, not deleted.')
    expect(await nameOf(page)).toBe('Harbour Bell')
    await page.click('nav a[href="/devices"]')
    await page.waitForSelector('button[aria-label="Take Reed Lamp back"]')
    await close()
  })
})
