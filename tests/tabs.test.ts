/** Two tabs of one document, and what is recorded while a page ends. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openPage, pause, reloaded, serve, type Served } from './support/browser.ts'
import { another, button, crash, kept, pressCard, record, said, withCtrl } from './support/page.ts'

let server: Served
beforeAll(async () => {
  server = await serve()
})
afterAll(() => {
  server.stop()
})

describe('two tabs', () => {
  it('of one document: the second reads until it asks, and nothing is lost', async () => {
    const { page, browser, close } = await openPage(server.address)
    await pressCard(page, 'out')
    await withCtrl(page, 'd')
    await kept(page)
    const second = await another(browser, server.address)
    await said(second, 'open in another tab, reading only')
    await pressCard(second, 'filter')
    await second.keyboard.press('Backspace')
    await pause(200)
    expect(await second.$('[data-module="filter"]')).not.toBeNull()
    // The first goes on, also with what is not kept yet when the second asks.
    await page.bringToFront()
    await withCtrl(page, 'd')
    await second.bringToFront()
    await button(second, 'Work here')
    await second.waitForFunction(() => document.querySelectorAll('[data-module^="out"]').length === 3)
    await said(page, 'open in another tab, reading only')
    await pressCard(second, 'filter')
    await second.keyboard.press('Backspace')
    await second.waitForFunction(() => !document.querySelector('[data-module="filter"]'))
    await kept(second)
    await second.close()
    await page.bringToFront()
    await button(page, 'Work here')
    await page.waitForFunction(() => !document.querySelector('[data-module="filter"]'))
    await close()
  })

  it('one of which hangs: the other takes over after a second', async () => {
    const { page, browser, close } = await openPage(server.address)
    await pressCard(page, 'out')
    await withCtrl(page, 'd')
    await kept(page)
    const second = await another(browser, server.address)
    await said(second, 'reading only')
    void page.evaluate('const end = Date.now() + 8000; while (Date.now() < end);').catch(() => undefined)
    await button(second, 'Work here')
    await second.waitForFunction(() => !document.body.textContent!.includes('reading only'))
    await pressCard(second, 'filter')
    await second.keyboard.press('Backspace')
    await kept(second)
    // The one that hung comes back and reads.
    await said(page, 'reading only')
    await close()
  })
})

describe('takes', () => {
  it('are there after a reload, and what was recorded before a crash is too', async () => {
    const { page, browser, close } = await openPage(server.address)
    await page.mouse.click(600, 560)
    await record(page, async () => {
      await page.keyboard.down('a')
      await pause(500)
      await page.keyboard.up('a')
    })
    await reloaded(page)
    await page.waitForSelector('button[aria-label="1 takes"]')
    await page.mouse.click(600, 560)
    await page.click('button[aria-label="Record the output"]')
    await page.keyboard.down('a')
    await pause(2600)
    await crash(page)
    const next = await another(browser, server.address)
    await (await next.waitForSelector('button[aria-label="2 takes"]'))!.click()
    const seconds = await next.$$eval('[data-radix-popper-content-wrapper] li .mono', (all) =>
      all.map((item) => Number.parseFloat(item.textContent!)),
    )
    expect(seconds).toHaveLength(2)
    expect(Math.max(...seconds)).toBeGreaterThan(1.4)
    await close()
  })
})
