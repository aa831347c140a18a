/** Everything by keyboard, nothing lost in small windows, and no violation that a checker finds. */
import type { Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openPage, pause, reloaded, serve, type Served } from './support/browser.ts'
import { violations } from './support/axe.ts'
import { choose, exportedFrom, pressCard, withCtrl } from './support/page.ts'

let server: Served
beforeAll(async () => {
  server = await serve()
})
afterAll(() => {
  server.stop()
})

const goTo = async (page: Page, path: string): Promise<void> => {
  await page.click(`nav a[href="${path}"]`)
  await page.waitForSelector(`main[aria-label]`)
  await pause(400)
}

describe.each(['light', 'dark'])('a checker finds nothing, %s', (scheme) => {
  it('on any view, with menus and dialogs open', async () => {
    const { page, close } = await openPage(server.address)
    await page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: scheme }])
    await pause(300)
    const found: Record<string, string[]> = {}
    const look = async (what: string): Promise<void> => {
      found[what] = await violations(page, scheme === 'dark' ? ['color-contrast'] : undefined)
    }
    const closed = async (): Promise<void> => {
      await page.keyboard.press('Escape')
      await pause(250)
    }
    await look('bench')
    await page.click('button[aria-label^="Patch "]')
    await page.waitForSelector('[role="menu"]')
    await look('patch menu')
    await closed()
    await pressCard(page, 'filter')
    await look('selected')
    await pressCard(page, 'filter', 'right')
    await page.waitForSelector('[role="menu"]')
    await look('context menu')
    await closed()
    await page.click('[data-module="notes"] [data-param="mode"]')
    await page.waitForSelector('[role="menu"]')
    await look('choice')
    await closed()
    await page.click('.rail-button[aria-label="Filters"]')
    await page.waitForSelector('.drawer')
    await look('drawer')
    await closed()
    for (const [what, key] of [
      ['palette', 'p'],
      ['line', 'k'],
    ] as const) {
      await withCtrl(page, key)
      await page.waitForSelector('[role="dialog"]')
      await look(what)
      await closed()
    }
    for (const [what, key] of [
      ['finder', '/'],
      ['shortcuts', '?'],
    ] as const) {
      await page.keyboard.press(key)
      await page.waitForSelector('[role="dialog"]')
      await look(what)
      await closed()
    }
    for (const what of ['Rename', 'Versions']) {
      await choose(page, what)
      await page.waitForSelector('[role="dialog"]')
      await look(what)
      await closed()
    }
    await page.click('button[aria-label$=" takes"]')
    await page.waitForSelector('[role="dialog"]')
    await look('takes')
    await closed()
    await (await page.waitForSelector('::-p-xpath(//*[@role="tab"][.="Keys"])'))!.click()
    await look('keys')
    // From further off, with a loupe.
    await page.keyboard.down('Control')
    for (let n = 0; n < 8; n += 1) {
      await page.mouse.move(500, 300)
      await page.mouse.wheel({ deltaY: 30 })
      await pause(20)
    }
    await page.keyboard.up('Control')
    await page.waitForSelector('.sounding[data-module="filter"]')
    await page.focus('[data-module="filter"]')
    await page.keyboard.press('Enter')
    await page.waitForSelector('[data-loupe="filter"]')
    await look('from further off')
    await page.keyboard.press('Escape')
    await goTo(page, '/guide')
    await look('guide')
    await goTo(page, '/devices')
    await look('devices')
    expect(Object.fromEntries(Object.entries(found).filter(([, all]) => all.length > 0))).toEqual({})
    await close()
  })
})

describe('a small window', () => {
  it.each([
    [1000, 800],
    [853, 533],
  ])('of %d by %d loses nothing', async (width, height) => {
    const { page, close } = await openPage(server.address, { width, height })
    await page.keyboard.press('a')
    await pause(400)
    const lost = await page.evaluate(() =>
      [...document.querySelectorAll('.top-bar button, .top-bar a, .top-bar input, aside *, .rail *')]
        .filter((element) => {
          const { left, right, width: wide } = element.getBoundingClientRect()
          return wide > 0 && (left < -1 || right > window.innerWidth + 1)
        })
        .map((element) => element.outerHTML.slice(0, 80)),
    )
    expect(lost).toEqual([])
    for (const path of ['/guide', '/devices']) {
      await goTo(page, path)
      expect(
        await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth),
      ).toBeLessThanOrEqual(0)
    }
    await close()
  })
})

describe('the theme', () => {
  it('follows the system until one is chosen, which is remembered', async () => {
    const { page, close } = await openPage(server.address)
    const isTheme = (name: string): Promise<unknown> =>
      page.waitForFunction((wanted) => document.documentElement.dataset['theme'] === wanted, {}, name)
    await page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: 'dark' }])
    await isTheme('night')
    await page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: 'light' }])
    await isTheme('day')
    await page.click('button[aria-label="Night"]')
    await reloaded(page)
    await isTheme('night')
    await close()
  })
})

describe('the keyboard alone', () => {
  const activeLabel = (page: Page): Promise<string> =>
    page.evaluate(() => {
      const active = document.activeElement as HTMLElement | null
      return active?.getAttribute('aria-label') ?? active?.textContent ?? ''
    })
  const focused = (page: Page, selector: string): Promise<boolean> =>
    page.$eval(selector, (element) => element === document.activeElement)

  it('reaches cards, ports and rows; selects, moves, opens, disconnects and connects', async () => {
    const { page, close } = await openPage(server.address)
    await page.focus('[data-module="notes"]')
    // From one card the Tab key comes to everything on it, then to the next card.
    const seen: string[] = []
    for (let n = 0; n < 60 && !(await focused(page, '[data-module="low"]')); n += 1) {
      await page.keyboard.press('Tab')
      seen.push(await activeLabel(page))
    }
    expect(seen.join('\n')).toMatch(/More rows/)
    expect(seen.join('\n')).toMatch(/Voices/)
    expect(seen.join('\n')).toMatch(/Output pitch, connected/)
    await page.waitForSelector('[data-module="low"][data-selected="true"]')
    const place = async (): Promise<number> =>
      ((await exportedFrom(page)).modules.find(({ id }) => id === 'low') as unknown as { x: number }).x
    const before = await place()
    await page.focus('[data-module="low"]')
    await page.keyboard.press('ArrowRight')
    expect(await place()).toBe(before + 12)
    await page.focus('.target[data-port="low.pitch"]')
    await page.keyboard.press('Backspace')
    await pause(100)
    const to = async (): Promise<boolean> =>
      (await exportedFrom(page)).cables.some(({ to: end }) => end === 'low.pitch')
    expect(await to()).toBe(false)
    await page.focus('.target[data-port="low.pitch"]')
    await page.keyboard.press('Enter')
    await page.waitForSelector('[aria-label="Connect by typing"] input')
    await page.keyboard.type('notes pitch')
    await pause(80)
    await page.keyboard.press('Enter')
    await pause(120)
    expect(await to()).toBe(true)
    await close()
  })

  it('goes from tab to tab by arrows, and keeps the focus', async () => {
    const { page, close } = await openPage(server.address)
    await page.focus('[role="tab"]')
    await page.keyboard.press('ArrowRight')
    await page.waitForSelector('[data-note]')
    await page.waitForFunction(() => document.activeElement?.textContent === 'Keys')
    expect(await activeLabel(page)).toBe('Keys')
    await page.focus('[data-module="filter"] [data-param="cutoff"]')
    await page.keyboard.press('ArrowUp')
    expect(await focused(page, '[data-module="filter"] [data-param="cutoff"]')).toBe(true)
    // The mouse gives it back to the chart.
    await page.click('button[aria-label="Night"]')
    expect(await focused(page, '[data-chart]')).toBe(true)
    await close()
  })

  it('goes along cables and takes them away, and plays the keys on screen', async () => {
    const { page, close } = await openPage(server.address)
    await pressCard(page, 'filter')
    await withCtrl(page, 'ArrowRight')
    await page.waitForSelector('aside button[aria-label^="Amount"]')
    const before = (await exportedFrom(page)).cables.length
    await page.keyboard.press('Backspace')
    await pause(100)
    expect((await exportedFrom(page)).cables).toHaveLength(before - 1)
    await page.focus('[role="tab"]')
    await page.keyboard.press('ArrowRight')
    await page.waitForSelector('[data-note]')
    await page.focus('[aria-label^="Keys on screen"]')
    await page.keyboard.press('ArrowRight')
    await page.keyboard.down('Enter')
    expect(
      await page.$$eval('[data-note][data-held="true"]', (keys) =>
        keys.map((key) => (key as HTMLElement).dataset['note']),
      ),
    ).toEqual(['61'])
    await page.keyboard.up('Enter')
    expect(await page.$$('[data-note][data-held="true"]')).toHaveLength(0)
    await close()
  })

  it('adds a part connected to what is selected with Shift+Enter, and alone with Enter', async () => {
    const { page, close } = await openPage(server.address)
    await pressCard(page, 'filter')
    const count = (await exportedFrom(page)).cables.length
    const find = async (shift: boolean): Promise<void> => {
      await page.keyboard.press('/')
      await page.waitForSelector('[role="dialog"] input')
      await page.keyboard.type('drive')
      await pause(80)
      if (shift) await page.keyboard.down('Shift')
      await page.keyboard.press('Enter')
      if (shift) await page.keyboard.up('Shift')
      await page.waitForFunction(() => !document.querySelector('[role="dialog"]'))
    }
    await find(false)
    expect((await exportedFrom(page)).cables).toHaveLength(count)
    await pressCard(page, 'filter')
    await find(true)
    expect((await exportedFrom(page)).cables.at(-1)).toMatchObject({ from: 'filter.low', to: 'drive2.in' })
    await close()
  })

  it('does every command by name', async () => {
    const { page, close } = await openPage(server.address)
    await withCtrl(page, 'p')
    await page.waitForSelector('[role="dialog"] input')
    await page.keyboard.type('select all')
    await pause(80)
    await page.keyboard.press('Enter')
    await page.waitForFunction(() => document.querySelectorAll('[data-selected="true"]').length === 9)
    await close()
  })
})
