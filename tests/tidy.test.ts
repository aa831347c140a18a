/** Tidy, frames, notes and the map, by real keys and mouse. */
import type { Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import {
  centreOf,
  dragOn,
  exportedFrom,
  freshly,
  gripOf,
  importPatch,
  isUntouched,
  usePage,
  withCtrl,
} from './support/page.ts'
import { drawnIn } from './support/canvases.ts'
import { BENCH, selectCards, undo, withCtrlAlt } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

interface View {
  readonly frames?: readonly { readonly id: string; readonly title: string }[]
  readonly notes?: readonly { readonly id: string; readonly text: string }[]
}
interface Placed {
  readonly modules: readonly { readonly id: string; readonly x: number; readonly y: number }[]
  readonly view: View
}
const exported = async (): Promise<Placed> => (await exportedFrom(page)) as unknown as Placed
const places = async (): Promise<string[]> =>
  (await exported()).modules.map(({ id, x, y }) => `${id} ${x} ${y}`)

beforeEach(async () => {
  await importPatch(page, BENCH)
  await pause(500)
})

describe('Tidy', () => {
  const tidied = async (): Promise<void> => {
    await withCtrl(page, 'l')
    await pause(1500)
  }

  it('is how demos come, lays out what was moved, and is one step', async () => {
    await freshly(page, 'Rain on Glass')
    const stored = await places()
    await tidied()
    expect(await isUntouched(page)).toBe(true)
    for (const id of ['pane2', 'filter', 'env']) {
      const grip = await gripOf(page, id)
      await dragOn(page, grip, { x: grip.x + 70, y: grip.y + 90 })
    }
    // Nothing is selected: all are laid out.
    await page.keyboard.press('Escape')
    await page.mouse.click(300, 590)
    const moved = await places()
    expect(moved).not.toEqual(stored)
    await tidied()
    expect(await places()).toEqual(stored)
    await undo(page)
    expect(await places()).toEqual(moved)
  })

  it('of a selection leaves the others', async () => {
    const before = await places()
    await selectCards(page, ['a', 'b', 'mix'])
    await tidied()
    const after = await places()
    expect(after).not.toEqual(before)
    for (const id of ['notes', 'c', 'filter', 'out'])
      expect(after.find((place) => place.startsWith(`${id} `))).toBe(
        before.find((place) => place.startsWith(`${id} `)),
      )
    await tidied()
    expect(await places()).toEqual(after)
  })
})

describe('frames and notes', () => {
  const xOf = async (id: string): Promise<number> =>
    (await exported()).modules.find((module) => module.id === id)!.x

  it('a frame is made of a selection, named, and moves what is in it', async () => {
    await selectCards(page, ['a', 'b'])
    await withCtrlAlt(page, 'f')
    await page.waitForSelector('.mark-frame input')
    await page.keyboard.type('Reeds')
    await page.keyboard.press('Enter')
    await pause(80)
    const [frame] = (await exported()).view.frames!
    expect(frame).toMatchObject({ title: 'Reeds' })
    const before = [await xOf('a'), await xOf('b'), await xOf('c')]
    await pause(300)
    const title = await centreOf(page, `[data-mark="${frame!.id}"] .mark-title`)
    await dragOn(page, title, { x: title.x + 80, y: title.y })
    const after = [await xOf('a'), await xOf('b'), await xOf('c')]
    expect(after[0]! - before[0]!).toBeGreaterThan(40)
    expect(after[1]! - before[1]!).toBe(after[0]! - before[0]!)
    expect(after[2]).toBe(before[2])
    // By key as well; and what it holds stays when it goes.
    await page.keyboard.press('ArrowRight')
    await pause(60)
    expect(await xOf('a')).toBe(after[0]! + 12)
    await page.keyboard.press('Delete')
    await pause(60)
    expect((await exported()).view.frames).toEqual([])
    expect((await exported()).modules).toHaveLength(7)
    await undo(page)
    await undo(page)
    await undo(page)
    expect(await xOf('a')).toBe(before[0])
  })

  it('a frame keeps what is in it when all is tidied, and undo gives back its place and size', async () => {
    await selectCards(page, ['a', 'b'])
    await withCtrlAlt(page, 'f')
    await page.waitForSelector('.mark-frame input')
    await page.keyboard.type('Reeds')
    await page.keyboard.press('Enter')
    await pause(80)
    await page.keyboard.press('Escape')
    const before = await exported()
    await withCtrl(page, 'l')
    await pause(1500)
    const after = await exported(),
      frame = after.view.frames![0] as unknown as Record<'x' | 'y' | 'width' | 'height', number>
    expect(after.modules).not.toEqual(before.modules)
    for (const { id, x, y } of after.modules) {
      const isIn = x > frame.x && x < frame.x + frame.width && y > frame.y && y < frame.y + frame.height
      expect(isIn, id).toBe(id === 'a' || id === 'b')
    }
    await undo(page)
    expect(await exported()).toEqual(before)
  })

  it('a note is written where nothing stands, and given up by Escape', async () => {
    await withCtrlAlt(page, 'n')
    await page.waitForSelector('.mark-note textarea')
    await page.keyboard.type('Tune by ear.')
    await withCtrl(page, 'Enter')
    await pause(80)
    expect((await exported()).view.notes![0]).toMatchObject({ text: 'Tune by ear.' })
    const box = (await (await page.$('.mark-note'))!.boundingBox())!
    const cards = await page.$$eval('[data-module]', (all) =>
      all.map((card) => {
        const { left, top, right, bottom } = card.getBoundingClientRect()
        return { left, top, right, bottom }
      }),
    )
    for (const { left, top, right, bottom } of cards)
      expect(
        left >= box.x + box.width || right <= box.x || top >= box.y + box.height || bottom <= box.y,
      ).toBe(true)
    await page.keyboard.press('F2')
    await page.waitForSelector('.mark-note textarea')
    await page.keyboard.type('Nonsense')
    await page.keyboard.press('Escape')
    await pause(80)
    expect((await exported()).view.notes![0]).toMatchObject({ text: 'Tune by ear.' })
  })
})

it('the map shows the whole patch, and moves the view to what is pressed, frames far off included', async () => {
  const far = { id: 'frame', title: 'Far', x: 2400, y: 0, width: 240, height: 240 }
  await importPatch(page, { ...BENCH, name: 'With a frame', view: { frames: [far] } } as typeof BENCH)
  await pause(500)
  // It may be there already, where not all is in view.
  if (!(await page.$('[data-mini-map]'))) await withCtrl(page, 'm')
  const map = (await (await page.waitForSelector('[data-mini-map]'))!.boundingBox())!,
    chart = (await (await page.$('[data-chart]'))!.boundingBox())!
  await page.mouse.click(map.x + map.width / 2, map.y + map.height / 2)
  await pause(300)
  // The middle of all is in the middle of the chart now: from the first card's left to the frame's right.
  const card = (await (await page.waitForSelector('[data-module="out"]'))!.boundingBox())!,
    zoom = card.width / 192
  const middle = card.x + ((far.x + far.width) / 2 - 900) * zoom
  expect(Math.abs(middle - (chart.x + chart.width / 2))).toBeLessThan(30)
  // The frame of what is seen stands around the place that was pressed.
  const seen = (await (await page.$('.mini-map-view'))!.boundingBox())!
  expect(Math.abs(seen.x + seen.width / 2 - (map.x + map.width / 2))).toBeLessThan(3)
  expect(Math.abs(seen.width / seen.height - chart.width / chart.height)).toBeLessThan(0.1)
  // What is chosen is seen on the map, and what is moved moves there.
  const drawn = (): Promise<string> => drawnIn(page, '[data-mini-map] canvas')
  const before = await drawn()
  await page.focus('[data-chart]')
  await withCtrl(page, 'a')
  await expect.poll(drawn).not.toBe(before)
  const chosen = await drawn()
  const grip = await gripOf(page, 'out')
  await dragOn(page, grip, { x: grip.x, y: grip.y + 120 })
  await expect.poll(drawn).not.toBe(chosen)
  await withCtrl(page, 'm')
  await page.waitForFunction(() => document.querySelector('[data-mini-map]') === null)
})
