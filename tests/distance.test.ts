/** The chart at every distance: whole patches that can be read, soundings, and the loupe that works in place of a card. */
import type { Page } from 'puppeteer-core'
import { describe, expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import { centreOf, choose, dragOn, exportedFrom, gripOf, named, type Point, usePage } from './support/page.ts'

const DEMOS = [
  'Engine Room',
  'Fault Siren',
  'Fog Signal',
  'Gull Tape',
  'Harbour Bell',
  'Keeper’s Steps',
  'Mooring Line',
  'Overtone Lantern',
  'Rain on Glass',
  'Reed Lamp',
  'Slate Drum',
  'Storm Wire',
]
const LEAST_TEXT_PX = 10.5

let page: Page
usePage((opened) => {
  page = opened
})

const zoomNow = (): Promise<number> =>
  page.$eval('.react-flow__viewport', (element) => new DOMMatrix(getComputedStyle(element).transform).a)

/** Wheels over the middle of the chart until the zoom is on the other side of a value, and lets it rest. */
const zoomBelow = async (wanted: number): Promise<void> => {
  const chart = (await (await page.$('[data-chart]'))!.boundingBox())!
  await page.mouse.move(chart.x + chart.width / 2, chart.y + chart.height / 2)
  await page.keyboard.down('Control')
  for (let n = 0; n < 60 && (await zoomNow()) >= wanted; n += 1) {
    await page.mouse.wheel({ deltaY: 12 })
    await pause(12)
  }
  await page.keyboard.up('Control')
  await pause(500)
}
const fresh = async (name: string): Promise<void> => {
  await choose(page, name, 'last')
  await named(page, name)
  await page.waitForSelector('[data-module]')
  await pause(600)
}

/** Sizes of all texts on the chart as they come out on the screen. */
const textSizes = (): Promise<{ text: string; size: number }[]> =>
  page.evaluate(() => {
    const found: { text: string; size: number }[] = []
    const walker = document.createTreeWalker(document.querySelector('[data-chart]')!, NodeFilter.SHOW_TEXT)
    while (walker.nextNode()) {
      const node = walker.currentNode,
        element = node.parentElement!
      const range = document.createRange()
      range.selectNode(node)
      const box = range.getBoundingClientRect()
      if (!node.textContent?.trim() || box.width === 0 || getComputedStyle(element).visibility === 'hidden')
        continue
      let scale = 1
      for (let at: HTMLElement | null = element; at; at = at.parentElement)
        scale *= new DOMMatrix(getComputedStyle(at).transform).a
      found.push({ text: node.textContent, size: parseFloat(getComputedStyle(element).fontSize) * scale })
    }
    return found
  })
const expectReadable = async (where: string): Promise<void> => {
  const small = (await textSizes()).filter(({ size }) => size < LEAST_TEXT_PX - 0.01)
  expect(small, where).toEqual([])
}

describe('every demo', () => {
  it('opens wholly in view, with all its text to be read', async () => {
    for (const name of DEMOS) {
      await fresh(name)
      const chart = (await (await page.$('[data-chart]'))!.boundingBox())!
      const { modules } = await exportedFrom(page)
      const boxes = await page.$$eval('[data-module]', (all) =>
        all.map((card) => {
          const { left, top, right, bottom } = card.getBoundingClientRect()
          return { id: card.getAttribute('data-module')!, left, top, right, bottom }
        }),
      )
      expect(boxes.map(({ id }) => id).sort(), name).toEqual(modules.map(({ id }) => id).sort())
      for (const { id, left, top, right, bottom } of boxes) {
        const isInside =
          left >= chart.x &&
          top >= chart.y &&
          right <= chart.x + chart.width &&
          bottom <= chart.y + chart.height
        expect(isInside, `${name}: ${id}`).toBe(true)
      }
      await expectReadable(name)
    }
  })

  it('can be read at any zoom, once it rests', async () => {
    await fresh('Keeper’s Steps')
    for (const zoom of [0.58, 0.5, 0.41, 0.33, 0.26]) {
      await zoomBelow(zoom)
      await expectReadable(`at ${zoom}`)
    }
  })
})

describe('from further off', () => {
  it('a card is one element still, with its name and its ports where they were', async () => {
    await fresh('Reed Lamp')
    const at = async (): Promise<{ zoom: number; card: Point; port: Point }> => {
      const card = (await (await page.$('[data-module="filter"]'))!.boundingBox())!
      return {
        zoom: await zoomNow(),
        card: { x: card.x, y: card.y },
        port: await centreOf(page, '[data-port="filter.low"]'),
      }
    }
    const offset = ({ zoom, card, port }: Awaited<ReturnType<typeof at>>): number[] => [
      Math.round((port.x - card.x) / zoom),
      Math.round((port.y - card.y) / zoom),
    ]
    const near = await at()
    expect(await page.$('[data-module="filter"] [data-param="cutoff"]')).not.toBeNull()
    for (const zoom of [0.8, 0.5, 0.35]) {
      await zoomBelow(zoom)
      expect(await page.$('[data-module="filter"] [data-param="cutoff"]')).toBeNull()
      const [x = 0, y = 0] = offset(await at()),
        [wasX = 0, wasY = 0] = offset(near)
      expect(Math.abs(x - wasX) + Math.abs(y - wasY)).toBeLessThanOrEqual(2)
      expect((await page.$$('[data-module="filter"]')).length).toBe(1)
      expect(await page.$eval('[data-module="filter"]', (card) => card.getAttribute('aria-label'))).toBe(
        'Filter',
      )
    }
  })

  it('it is dragged, and connected port to port', async () => {
    await fresh('Reed Lamp')
    await zoomBelow(0.7)
    const before = (await exportedFrom(page)).modules.find(({ id }) => id === 'out') as {
      x?: number
      y?: number
    }
    const grip = await gripOf(page, 'out')
    await dragOn(page, grip, { x: grip.x + 60, y: grip.y + 70 })
    const after = (await exportedFrom(page)).modules.find(({ id }) => id === 'out') as {
      x?: number
      y?: number
    }
    expect(after.x! - before.x!).toBeGreaterThan(40)
    expect(after.y! - before.y!).toBeGreaterThan(60)
    expect(after.x! % 12).toBe(0)
    await dragOn(
      page,
      await centreOf(page, '[data-port="filter.band"]'),
      await centreOf(page, '[data-port="out.in"]'),
    )
    expect(
      (await exportedFrom(page)).cables.some(({ from, to }) => from === 'filter.band' && to === 'out.in'),
    ).toBe(true)
  })

  it('what is held has its picture and its cables with it, and all is back when it is given up', async () => {
    await fresh('Reed Lamp')
    await zoomBelow(0.7)
    /** Pixels that are not clear, by canvas, of what is carried and of what is drawn over the chart. */
    const painted = (selector: string): Promise<number[]> =>
      page.$$eval(selector, (all) =>
        (all as HTMLCanvasElement[]).map((canvas) => {
          const { width, height } = canvas
          if (width * height === 0 || canvas.getBoundingClientRect().width === 0) return 0
          const copy = Object.assign(document.createElement('canvas'), { width, height })
          const context = copy.getContext('2d')!
          context.drawImage(canvas, 0, 0)
          const { data } = context.getImageData(0, 0, width, height)
          return data.reduce((sum, value, index) => sum + (index % 4 === 3 && value > 0 ? 1 : 0), 0)
        }),
      )
    const HELD = '[data-held-lines] canvas'
    expect((await painted(HELD)).every((count) => count === 0)).toBe(true)
    const start = await gripOf(page, 'out')
    await page.mouse.move(start.x, start.y)
    await page.mouse.down()
    await page.mouse.move(start.x - 70, start.y + 60, { steps: 5 })
    await pause(80)
    const moved = await gripOf(page, 'out')
    expect(moved.x - start.x).toBeLessThan(-40)
    expect(await painted('[data-module="out"] canvas')).toEqual([expect.any(Number)])
    const first = (await painted(HELD))[0]!
    expect(first).toBeGreaterThan(100)
    // Drawn anew in every frame: nothing of where it was stays.
    for (let n = 0; n < 12; n += 1) {
      await page.mouse.move(start.x - 70 + 20 * (n % 2), start.y + 60 + 5 * n)
      await pause(30)
    }
    await page.mouse.move(start.x - 70, start.y + 60)
    await pause(80)
    expect((await painted(HELD))[0]).toBe(first)
    await page.keyboard.press('Escape')
    await page.mouse.up()
    await pause(100)
    expect(await page.$$('[data-module="out"] canvas')).toEqual([])
    expect((await painted(HELD)).every((count) => count === 0)).toBe(true)
    const back = await gripOf(page, 'out')
    expect(Math.abs(back.x - start.x) + Math.abs(back.y - start.y)).toBeLessThan(1)
  })

  it('the end of a drag given up is where it was', async () => {
    await fresh('Reed Lamp')
    await zoomBelow(0.7)
    const start = await gripOf(page, 'out')
    await page.mouse.move(start.x, start.y)
    await page.mouse.down()
    await page.mouse.move(start.x - 50, start.y - 20, { steps: 4 })
    await pause(60)
    await page.keyboard.press('Escape')
    await page.mouse.up()
    await pause(100)
    const back = await gripOf(page, 'out')
    expect(Math.abs(back.x - start.x) + Math.abs(back.y - start.y)).toBeLessThan(1)
  })
})

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
