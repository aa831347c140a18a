/** The loupe: a whole card over its place, from further off, that works there. */
import type { Page } from 'puppeteer-core'
import { describe, expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import { centreOf, dragOn, exportedFrom, freshly, type Point, usePage, zoomOut } from './support/page.ts'

let page: Page
usePage((opened) => {
  page = opened
})
const zoomBelow = (wanted: number): Promise<void> => zoomOut(page, wanted)
const fresh = (name: string): Promise<void> => freshly(page, name)

describe('the loupe', () => {
  const bodyOf = async (id: string): Promise<Point> => {
    const box = (await (await page.$(`[data-module="${id}"]`))!.boundingBox())!
    return { x: box.x + box.width / 2, y: box.y + box.height / 2 }
  }
  const isOpen = (id: string): Promise<boolean> =>
    page.$(`[data-loupe="${id}"]`).then((found) => found !== null)
  const restOn = async (id: string): Promise<void> => {
    await page.mouse.move(5, 790)
    await pause(350)
    const { x, y } = await bodyOf(id)
    await page.mouse.move(x, y)
    await page.waitForSelector(`[data-loupe="${id}"]`)
  }

  it('opens where the pointer rests, wakes with its first move, and goes with the pointer', async () => {
    await fresh('Reed Lamp')
    await zoomBelow(0.6)
    await restOn('filter')
    expect(await page.$eval('[data-loupe="filter"]', (loupe) => loupe.getAttribute('data-inert'))).toBe(
      'true',
    )
    const { x, y } = await bodyOf('filter')
    await page.mouse.move(x + 6, y + 3)
    expect(await page.$eval('[data-loupe="filter"]', (loupe) => loupe.getAttribute('data-inert'))).toBe(
      'false',
    )
    expect((await page.$$('[data-module="filter"]')).length).toBe(1)
    await page.mouse.move(5, 300)
    await pause(60)
    expect(await isOpen('filter')).toBe(false)
  })

  it('works: a field is dragged in it, and it stays while it is used', async () => {
    await restOn('filter')
    const field = await centreOf(page, '[data-loupe="filter"] [data-param="cutoff"]')
    await dragOn(page, field, { x: field.x + 60, y: field.y })
    const { modules } = await exportedFrom(page)
    expect(Number(modules.find(({ id }) => id === 'filter')!.params!['cutoff'])).toBeGreaterThan(420)
  })

  it('opens by Enter and by a click on the selected card, and closes with Escape', async () => {
    await page.mouse.move(5, 790)
    const { x, y } = await bodyOf('breath')
    await page.mouse.click(x, y)
    expect(await isOpen('breath')).toBe(false)
    await page.mouse.click(x, y)
    await page.waitForSelector('[data-loupe="breath"]')
    await page.keyboard.press('Escape')
    await page.waitForFunction(() => document.querySelector('[data-loupe]') === null)
    await page.focus('[data-module="breath"]')
    await page.keyboard.press('Enter')
    await page.waitForSelector('[data-loupe="breath"]')
    expect(await page.evaluate(() => document.activeElement!.closest('[data-loupe]') !== null)).toBe(true)
    await page.keyboard.press('Escape')
    await page.waitForFunction(() => document.querySelector('[data-loupe]') === null)
    expect(await page.evaluate(() => document.activeElement!.getAttribute('data-module'))).toBe('breath')
  })

  it('takes a name that is typed with F2', async () => {
    await page.focus('[data-module="breath"]')
    await page.keyboard.press('F2')
    await page.waitForSelector('[data-loupe="breath"] input')
    await page.keyboard.down('Control')
    await page.keyboard.press('a')
    await page.keyboard.up('Control')
    await page.keyboard.type('Swell')
    await page.keyboard.press('Enter')
    await page.waitForFunction(
      () => document.querySelector('[data-module="breath"] .sounding-name')?.textContent === 'Swell',
    )
    await page.keyboard.press('Escape')
  })

  it('opens at once under a cable in hand, shows its ports, and takes the cable', async () => {
    await fresh('Reed Lamp')
    await zoomBelow(0.5)
    const from = await centreOf(page, '[data-port="tide.out"]')
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    const over = await bodyOf('filter')
    await page.mouse.move(over.x - 40, over.y, { steps: 5 })
    await page.mouse.move(over.x, over.y, { steps: 3 })
    await page.waitForSelector('[data-loupe="filter"]')
    const port = await centreOf(page, '[data-loupe="filter"] [data-port="filter.resonance"]')
    await page.mouse.move(port.x, port.y, { steps: 4 })
    await page.mouse.up()
    await pause(150)
    const { cables } = await exportedFrom(page)
    expect(cables.some(({ from: source, to }) => source === 'tide.out' && to === 'filter.resonance')).toBe(
      true,
    )
    expect(await isOpen('filter')).toBe(false)
  })

  it('is kept open by its pin, several of them', async () => {
    await fresh('Reed Lamp')
    await zoomBelow(0.45)
    for (const id of ['filter', 'notes']) {
      await restOn(id)
      const { x, y } = await bodyOf(id)
      await page.mouse.move(x + 8, y + 2)
      await page.click(`[data-loupe="${id}"] .loupe-pin`)
    }
    await page.mouse.move(5, 790)
    await pause(100)
    expect([await isOpen('filter'), await isOpen('notes')]).toEqual([true, true])
    await page.keyboard.press('Escape')
    await page.keyboard.press('Escape')
    await pause(100)
    expect([await isOpen('filter'), await isOpen('notes')]).toEqual([false, false])
  })
})
