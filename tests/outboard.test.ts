/** Outboard in the page: rows named as the device names them, its own controls moved, learned, given up, undone. */
import type { Page } from 'puppeteer-core'
import { expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import {
  addModule,
  centreOf,
  dragOn,
  emptyChart,
  exportedFrom,
  type Point,
  pressCard,
  pressNamed,
  usePage,
  withCtrl,
} from './support/page.ts'

let page: Page
usePage((opened) => (page = opened))

const paramsNow = async (): Promise<Readonly<Record<string, unknown>>> =>
  (await exportedFrom(page)).modules.find(({ type }) => type === 'outboard')?.params ?? {}
const textOf = (name: string): Promise<string> =>
  page.$eval(`[aria-label="Inspector"] [data-param="${name}"]`, (field) => field.textContent ?? '')
/** Drags one of the device's own controls sideways. */
const move = async (id: string, by: number): Promise<void> => {
  const from: Point = await centreOf(page, `[data-own="${id}"] [role="slider"]`)
  await dragOn(page, from, { x: from.x + by, y: from.y })
  await pause(150)
}
const learn = async (words: string): Promise<void> => {
  await pressNamed(page, 'button[data-param="learn"]', words === 'off' ? 'control' : 'off')
  await pressNamed(page, '[role="menuitemradio"]', words)
}

it('has rows in the device’s words and units', async () => {
  await emptyChart(page)
  await addModule(page, 'outboard', 640, 300)
  await pressCard(page, 'outboard')
  await page.waitForSelector('[data-own="distance"]')
  expect(await textOf('p1')).toMatch(/^Distance.* ms$/)
  expect(await textOf('p5')).toMatch(/^Tone.* kHz$/)
  await page.focus('[aria-label="Inspector"] [data-param="p1"]')
  await page.keyboard.type('320 ms')
  await page.keyboard.press('Enter')
  await pause(150)
  expect(await textOf('p1')).toBe('Distance320 ms')
})

it('moves the control that sets what is moved', async () => {
  const before = Number((await paramsNow())['p2'] ?? 0.5)
  await move('repeats', 30)
  const params = await paramsNow()
  expect(Number(params['p2'])).toBeGreaterThan(before + 0.05)
  expect(params['control2'] ?? '').toBe('')
})

it('learns by the device’s own control, in one step', async () => {
  await learn('control 8')
  await page.waitForFunction(() => document.body.textContent.includes('Move what control 8 is to set'))
  const before = await paramsNow()
  await move('wear', -30)
  const after = await paramsNow()
  expect(after['control8']).toBe('wear')
  expect(Number(after['p8'])).toBeLessThan(0.45)
  expect(after['p3']).toBe(before['p3'])
  expect(await textOf('p8')).toMatch(/^Wear/)
  expect(await textOf('p3')).toMatch(/^Control 3/)
  // It has learned: what is moved next keeps the control it has.
  await move('tone', 20)
  expect((await paramsNow())['control8']).toBe('wear')
  await withCtrl(page, 'z')
  await withCtrl(page, 'z')
  await pause(150)
  expect(await paramsNow()).toEqual(before)
})

it('gives learning up at Escape, and learns from a row’s menu', async () => {
  const before = await paramsNow()
  await learn('control 7')
  await page.keyboard.press('Escape')
  await page.waitForFunction(() => !document.body.textContent.includes('Move what control'))
  await move('heat', 20)
  const params = await paramsNow()
  expect(params['control7']).toBe(before['control7'])
  expect(params['p4']).not.toBe(before['p4'])
  const { x, y } = await centreOf(page, '[data-port="outboard.p2"]')
  await page.mouse.click(x, y, { button: 'right' })
  await pressNamed(page, '[role="menuitem"]', 'Learn from the device')
  await page.waitForFunction(() => document.body.textContent.includes('Move what control 2 is to set'))
  await move('blend', 15)
  expect((await paramsNow())['control2']).toBe('blend')
})
