/** The outline by keyboard alone: a patch is gone through, set, wired and taken apart as a tree. */
import type { Page } from 'puppeteer-core'
import { beforeEach, expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import { exportedFrom, freshly, importPatch, isUntouched, usePage } from './support/page.ts'
import { undo, withCtrlAlt } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

/** The row the keyboard is in, as it is heard. */
const here = (): Promise<string> =>
  page.evaluate(() =>
    (document.activeElement?.closest('[role="treeitem"]')?.textContent ?? '').replace(/^[–+]/, ''),
  )
const press = async (...keys: readonly string[]): Promise<void> => {
  for (const key of keys) {
    await page.keyboard.press(key as 'a')
    await pause(60)
  }
}
/** The keyboard goes to the row it was in, once the tree is there. */
const intoTree = async (): Promise<void> => {
  await (await page.waitForSelector('[role="treeitem"][tabindex="0"]'))!.focus()
}
/** Goes down until a row of these words is reached. */
const goTo = async (words: string): Promise<void> => {
  for (let n = 0; n < 80 && !(await here()).startsWith(words); n += 1) await press('ArrowDown')
  expect(await here()).toMatch(new RegExp(`^${words}`))
}
const selected = (): Promise<string[]> =>
  page.$$eval('[data-selected="true"]', (all) => all.map((card) => (card as HTMLElement).dataset['module']!))

const FORMULA = (text: string) => ({
  format: 'ypsilon/patch',
  version: 1,
  name: 'Two lines',
  modules: [{ id: 'own', type: 'formula', data: { text }, x: 0, y: 0 }],
  cables: [],
})

beforeEach(async () => {
  await freshly(page, 'Reed Lamp')
  if ((await page.$('[role="tree"]')) === null) await withCtrlAlt(page, 'o')
  await page.waitForSelector('[role="tree"]')
  const open = await page.$('button[aria-label="Keep the outline open"]')
  if (open) await open.click()
  await pause(400)
  await intoTree()
  await press('Home')
})

it('has the modules in order, and what the keyboard is in is selected on the chart', async () => {
  const { modules } = await exportedFrom(page)
  await intoTree()
  await press('Home')
  expect(await page.$$eval('[role="treeitem"]', (all) => all.length)).toBe(modules.length)
  await press('ArrowDown', 'ArrowDown')
  expect(await selected()).toEqual([modules[2]!.id])
  await press('ArrowRight')
  expect(
    await page.$eval('[role="treeitem"][aria-expanded="true"]', (row) => row.getAttribute('aria-level')),
  ).toBe('1')
  await press('ArrowRight')
  expect(await here()).toMatch(/^pitch.*, input$/)
  await press('ArrowLeft')
  expect(await here()).toMatch(/^Low reed/)
  await press('ArrowLeft')
  expect(await page.$('[role="treeitem"][aria-expanded="true"]')).toBeNull()
})

it('sets a value that is typed, refuses what makes none, and gives up by Escape', async () => {
  await goTo('Filter')
  await press('ArrowRight')
  await goTo('Cutoff')
  const before = (await exportedFrom(page)).modules.find(({ id }) => id === 'filter')!.params!['cutoff']
  await intoTree()
  await press('Enter')
  await page.waitForSelector('[role="tree"] input')
  await page.keyboard.type('1.2 kHz')
  await press('Enter')
  expect(await here()).toMatch(/Cutoff 1.2 kHz/)
  await press('Enter')
  await page.waitForSelector('[role="tree"] input')
  await page.keyboard.type('loud')
  await press('Enter')
  await page.waitForSelector('[role="tree"] [role="alert"]')
  await press('Escape')
  const value = async (): Promise<unknown> =>
    (await exportedFrom(page)).modules.find(({ id }) => id === 'filter')!.params!['cutoff']
  expect(await value()).toBe(1200)
  await undo(page)
  expect(await value()).toBe(before)
  expect(await isUntouched(page)).toBe(true)
})

it('takes a cable away, changes its amount, and connects from a port', async () => {
  await goTo('Filter')
  await press('ArrowRight')
  await goTo('from Low reed pulse')
  await press('Enter')
  await page.waitForSelector('[role="tree"] input')
  await page.keyboard.type('0.25')
  await press('Enter')
  const intoFilter = async () => (await exportedFrom(page)).cables.filter(({ to }) => to === 'filter.in')
  expect((await intoFilter())[0]).toMatchObject({ from: 'low.pulse', amount: 0.25 })
  await intoTree()
  await goTo('from Low reed pulse')
  await press('Delete')
  expect((await intoFilter()).map(({ from }) => from)).toEqual(['high.saw'])
  await intoTree()
  await press('Home')
  await goTo('in , input')
  await press('Enter')
  await page.waitForSelector('[role="dialog"] input')
  await page.keyboard.type('tide out')
  await press('Enter')
  await pause(200)
  expect((await intoFilter()).map(({ from }) => from)).toEqual(['high.saw', 'tide.out'])
})

it('renames, bypasses and deletes the module it is at, by the commands of the page', async () => {
  await goTo('Lamp room')
  await page.keyboard.down('Control')
  await press('b')
  await page.keyboard.up('Control')
  expect(await here()).toMatch(/bypassed/)
  await press('Delete')
  expect((await exportedFrom(page)).modules.some(({ id }) => id === 'room')).toBe(false)
})

it('types the data of a module, refuses what it may not hold, and writes, names and removes marks', async () => {
  await freshly(page, 'Engine Room')
  await page.waitForSelector('[role="tree"]')
  const { modules } = await exportedFrom(page),
    { id, label } = modules.find(({ type }) => type === 'steps')!
  await intoTree()
  await press('Home')
  await goTo(label ?? 'Steps')
  await press('ArrowRight')
  await goTo('a, data')
  await press('Enter')
  await page.waitForSelector('[role="tree"] input')
  await page.keyboard.type('0 7 twelve')
  await press('Enter')
  await page.waitForSelector('[role="tree"] [role="alert"]')
  await press('Escape', 'Enter')
  await page.waitForSelector('[role="tree"] input')
  await page.keyboard.type('0 7 12')
  await press('Enter')
  const rowA = async (): Promise<unknown> =>
    (await exportedFrom(page)).modules.find((module) => module.id === id)!.data!['a']
  expect(await rowA()).toEqual([0, 7, 12])
  // A frame of the module, by its keys; then as a row of the tree.
  await intoTree()
  await withCtrlAlt(page, 'f')
  await page.waitForSelector('.mark-frame input')
  await page.keyboard.type('Pistons')
  await press('Enter')
  await intoTree()
  await press('End')
  expect(await here()).toBe('Frame of 1 module Pistons')
  await press('Enter')
  await page.waitForSelector('[role="tree"] input')
  await page.keyboard.type('Shaft')
  await press('Enter')
  const frames = async () => ((await exportedFrom(page)).view as { frames: { title: string }[] }).frames
  expect((await frames()).map(({ title }) => title)).toEqual(['Shaft'])
  await press('Delete')
  expect(await frames()).toEqual([])
  expect((await exportedFrom(page)).modules).toHaveLength(modules.length)
})

it('takes a formula of several lines to the inspector, where there is room for it', async () => {
  const text = 'y = a * 2\nx = y + b'
  await importPatch(page, FORMULA(text))
  await intoTree()
  await press('Home')
  await goTo('Formula')
  await press('ArrowRight')
  await goTo('text, data')
  await press('Enter')
  await page.waitForFunction(
    (wanted) => (document.activeElement as HTMLTextAreaElement | null)?.value === wanted,
    { timeout: 5000 },
    text,
  )
})
