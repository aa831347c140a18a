/** Copy, cut and paste by the browser's own keys: within a patch, between patches, as text. */
import type { Page } from 'puppeteer-core'
import { beforeEach, expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import { emptyChart, exportedFrom, importPatch, isUntouched, usePage } from './support/page.ts'
import { BENCH, selectCards, undo } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

/** A key of the browser's own, as it does it. */
const native = async (key: 'c' | 'x' | 'v', command: 'Copy' | 'Cut' | 'Paste'): Promise<void> => {
  await page.keyboard.down('Control')
  await page.keyboard.press(key, { commands: [command] })
  await page.keyboard.up('Control')
  await pause(150)
}
/** Text that comes from elsewhere, as another program hands it over. */
const pasteText = async (text: string): Promise<void> => {
  await page.evaluate((given) => {
    const data = new DataTransfer()
    data.setData('text/plain', given)
    document.dispatchEvent(
      new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
    )
  }, text)
  await pause(150)
}

beforeEach(async () => {
  await importPatch(page, BENCH)
  await pause(400)
})

it('what is copied comes beside it, with its inner wiring and names of its own, in one step', async () => {
  await selectCards(page, ['mix', 'out'])
  await native('c', 'Copy')
  expect(await isUntouched(page)).toBe(true)
  await native('v', 'Paste')
  const { modules, cables } = await exportedFrom(page)
  expect(modules.map(({ id }) => id).slice(7)).toEqual(['mix2', 'out2'])
  expect(cables.slice(2)).toMatchObject([{ from: 'mix2.out', to: 'out2.in', amount: 0.5 }])
  const selected = await page.$$eval('[data-selected="true"]', (all) =>
    all.map((card) => (card as HTMLElement).dataset['module']),
  )
  expect(selected.sort()).toEqual(['mix2', 'out2'])
  await undo(page)
  expect(await isUntouched(page)).toBe(true)
})

it('what is cut comes into another patch, and what is marked or typed stays text', async () => {
  await selectCards(page, ['a', 'notes'])
  await native('x', 'Cut')
  expect((await exportedFrom(page)).modules.map(({ id }) => id)).toEqual(['b', 'c', 'mix', 'filter', 'out'])
  await emptyChart(page)
  await native('v', 'Paste')
  const { modules, cables } = await exportedFrom(page)
  expect(modules.map(({ id }) => id).sort()).toEqual(['a', 'notes'])
  expect(cables).toMatchObject([{ from: 'notes.pitch', to: 'a.pitch' }])
  // In a text field it is text. What was pasted is selected: the patch's own notes come back without it.
  await page.keyboard.press('Escape')
  await page.waitForSelector('textarea[aria-label="Notes about the patch"]')
  await page.click('textarea[aria-label="Notes about the patch"]')
  await native('v', 'Paste')
  expect((await exportedFrom(page)).modules).toHaveLength(2)
})

it('a patch as text is pasted, other text is none of ours, and what is wrong is said', async () => {
  await emptyChart(page)
  await pasteText(JSON.stringify(BENCH))
  expect((await exportedFrom(page)).modules).toHaveLength(7)
  await pasteText('A line from somewhere')
  expect((await exportedFrom(page)).modules).toHaveLength(7)
  await pasteText('{"format":"ypsilon/clip","version":1,"modules":[{"id":"Q","type":"filter"}],"cables":[]}')
  await page.waitForFunction(() => document.body.textContent.includes('What was copied cannot be pasted.'))
  expect((await exportedFrom(page)).modules).toHaveLength(7)
})

it('a module is found by its name, and muted with all that leaves it', async () => {
  await page.keyboard.down('Control')
  await page.keyboard.press('f')
  await page.keyboard.up('Control')
  await page.waitForSelector('[role="dialog"] input')
  await page.keyboard.type('mix')
  await pause(80)
  await page.keyboard.press('Enter')
  await page.waitForFunction(
    () => document.querySelector('[data-selected="true"]')?.getAttribute('data-module') === 'mix',
  )
  for (const isMuted of [true, undefined]) {
    await page.keyboard.down('Alt')
    await page.keyboard.down('Control')
    await page.keyboard.press('m')
    await page.keyboard.up('Control')
    await page.keyboard.up('Alt')
    await pause(100)
    const cable = (await exportedFrom(page)).cables.find(({ from }) => from === 'mix.out') as {
      muted?: boolean
    }
    expect(cable.muted).toBe(isMuted)
  }
})
