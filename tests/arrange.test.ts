/** What is selected is lined up and spaced by keys and by name, each in one step that undo takes back. */
import type { Page } from 'puppeteer-core'
import { expect, it } from 'vitest'
import { addModule, emptyChart, exportedFrom, usePage, withCtrl } from './support/page.ts'

let page: Page
usePage((opened) => (page = opened))

const places = async (): Promise<Map<string, readonly [x: number, y: number]>> => {
  const { modules } = (await exportedFrom(page)) as unknown as {
    readonly modules: readonly { readonly id: string; readonly x: number; readonly y: number }[]
  }
  return new Map(modules.map(({ id, x, y }) => [id, [x, y]]))
}
const column = async (axis: 0 | 1): Promise<number[]> =>
  [...(await places()).values()].map((place) => place[axis])
const pressed = async (key: 'ArrowLeft' | 'ArrowUp'): Promise<void> => {
  await page.keyboard.down('Alt')
  await page.keyboard.down('Shift')
  await page.keyboard.press(key)
  await page.keyboard.up('Shift')
  await page.keyboard.up('Alt')
}
const byName = async (words: string): Promise<void> => {
  await withCtrl(page, 'p')
  await page.waitForSelector('[role="dialog"] input')
  await page.keyboard.type(words)
  await page.keyboard.press('Enter')
  await page.waitForFunction(() => !document.querySelector('[role="dialog"]'))
}

it('left edges and tops by keys, gaps by name; undo gives every place back', async () => {
  await emptyChart(page)
  await addModule(page, 'oscillator', 380, 200)
  await addModule(page, 'filter', 640, 330)
  await addModule(page, 'amplifier', 820, 520)
  const before = await places()
  expect(before.size).toBe(3)
  expect(new Set(await column(0)).size).toBe(3)
  await page.mouse.click(1000, 640)
  await pressed('ArrowLeft')
  // Nothing is selected: nothing moves.
  expect([...(await places())]).toEqual([...before])
  await withCtrl(page, 'a')
  await byName('Space evenly down')
  const [first, second, third] = [...(await places()).values()]
  expect(first).toEqual([...before.values()][0])
  expect(third).toEqual([...before.values()][2])
  expect(second![0]).toBe([...before.values()][1]![0])
  await pressed('ArrowLeft')
  expect(new Set(await column(0)).size).toBe(1)
  expect((await column(0))[0]).toBe(Math.min(...[...before.values()].map(([x]) => x)))
  await pressed('ArrowUp')
  expect(new Set(await column(1)).size).toBe(1)
  await withCtrl(page, 'z')
  await withCtrl(page, 'z')
  await withCtrl(page, 'z')
  expect([...(await places())]).toEqual([...before])
})
