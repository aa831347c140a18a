/** The chart at every distance: whole patches that can be read, soundings, and what is held. */
import type { Page } from 'puppeteer-core'
import { describe, expect, it } from 'vitest'
import { generatedPatch } from '../packages/core/src/testing/generated.ts'
import { demoPatch, DEMOS } from '../packages/core/src/testing/patches.ts'
import { pause } from './support/browser.ts'
import {
  centreOf,
  dragOn,
  exportedFrom,
  freshly,
  gripOf,
  importPatch,
  type Point,
  usePage,
  zoomOf,
  zoomOut,
} from './support/page.ts'

/** Whole patches of 40 modules, wired at random from these seeds. */
const SEEDS = [3, 4, 9] as const
const LEAST_TEXT_PX = 10.5

let page: Page
usePage((opened) => {
  page = opened
})

const zoomBelow = (wanted: number): Promise<void> => zoomOut(page, wanted)
const fresh = (name: string): Promise<void> => freshly(page, name)

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

interface CardBox {
  readonly id: string
  readonly left: number
  readonly top: number
  readonly right: number
  readonly bottom: number
}
const boxesOf = (selector: string, name: string): Promise<CardBox[]> =>
  page.$$eval(
    selector,
    (all, attribute) =>
      all.map((card) => {
        const { left, top, right, bottom } = card.getBoundingClientRect()
        return { id: card.getAttribute(attribute)!, left, top, right, bottom }
      }),
    name,
  )
const touch = (a: CardBox, b: CardBox): boolean =>
  a.left < b.right - 0.5 && a.right > b.left + 0.5 && a.top < b.bottom - 0.5 && a.bottom > b.top + 0.5

/** All in view, to be read, no card over another, no amount over a card or another amount. */
const expectWhole = async (name: string): Promise<void> => {
  const chart = (await (await page.$('[data-chart]'))!.boundingBox())!
  const { modules } = await exportedFrom(page)
  const boxes = await boxesOf('[data-module]', 'data-module')
  expect(boxes.map(({ id }) => id).sort(), name).toEqual(modules.map(({ id }) => id).sort())
  for (const box of boxes) {
    const isInside =
      box.left >= chart.x &&
      box.top >= chart.y &&
      box.right <= chart.x + chart.width &&
      box.bottom <= chart.y + chart.height
    expect(isInside, `${name}: ${box.id}`).toBe(true)
  }
  const tags = await boxesOf('[data-tag]', 'data-tag')
  const over = [...boxes, ...tags].flatMap((a, n, all) =>
    all.slice(n + 1).flatMap((b) => (touch(a, b) ? [`${a.id} on ${b.id}`] : [])),
  )
  expect(over, name).toEqual([])
  await expectReadable(name)
}

describe('every demo, and patches of 40 modules', () => {
  it('open wholly in view, with all their text to be read, and nothing on anything', async () => {
    for (const { name } of DEMOS.map((name) => demoPatch(name))) {
      await fresh(name)
      await expectWhole(name)
    }
    for (const seed of SEEDS) {
      const patch = generatedPatch(40, seed)
      await importPatch(page, patch)
      await pause(900)
      await expectWhole(patch.name)
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
        zoom: await zoomOf(page),
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
    await page.mouse.move(start.x - 70, start.y - 60, { steps: 5 })
    await pause(80)
    const moved = await gripOf(page, 'out')
    expect(moved.x - start.x).toBeLessThan(-40)
    expect(await painted('[data-module="out"] canvas')).toEqual([expect.any(Number)])
    const first = (await painted(HELD))[0]!
    expect(first).toBeGreaterThan(100)
    // Drawn anew in every frame: nothing of where it was stays.
    for (let n = 0; n < 12; n += 1) {
      await page.mouse.move(start.x - 70 + 20 * (n % 2), start.y - 60 - 5 * n)
      await pause(30)
    }
    await page.mouse.move(start.x - 70, start.y - 60)
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
