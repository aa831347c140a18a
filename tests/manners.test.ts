/** Keys and fields: what is typed, given up, reset; and that nothing unseen is changed. */
import type { Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import {
  centreOf,
  choose,
  connectPorts,
  exportedFrom,
  freshDemo,
  importPatch,
  isUntouched,
  named,
  paramsOf,
  pressCard,
  said,
  usePage,
  withCtrl,
} from './support/page.ts'

let page: Page
usePage((opened) => {
  page = opened
})

const view = async (name: string): Promise<void> => {
  await page.click(`nav a[href="/${name === 'bench' ? '' : name}"]`)
  await page.waitForSelector(`[data-view="${name}"]`)
  if (name === 'bench') await page.waitForSelector('[data-module]')
}
const cableOf = async (from: string, to: string) =>
  (await exportedFrom(page)).cables.find((cable) => cable.from === from && cable.to === to)
const focusOn = async (module: string, param: string): Promise<void> => {
  await page.focus(`[data-module="${module}"] [data-param="${param}"]`)
}

beforeEach(async () => {
  await freshDemo(page, 'Reed Lamp', 'filter')
})

describe('keys', () => {
  it('change the patch only where it is seen', async () => {
    await view('guide')
    await page.waitForSelector('main[aria-label="Guide"]')
    await withCtrl(page, 'a')
    await page.keyboard.press('Backspace')
    await withCtrl(page, 'd')
    await withCtrl(page, 'z')
    await view('bench')
    expect((await exportedFrom(page)).modules).toHaveLength(9)
    expect(await isUntouched(page)).toBe(true)
  })

  it('of a focused field mean the field: Backspace resets it, digits type', async () => {
    await focusOn('filter', 'resonance')
    expect((await paramsOf(page, 'filter'))['resonance']).toBe(0.24)
    await focusOn('filter', 'resonance')
    await page.keyboard.press('Backspace')
    await pause(100)
    expect(await page.$('[data-module="filter"]')).not.toBeNull()
    expect((await paramsOf(page, 'filter'))['resonance']).toBe(0.2)
    await focusOn('filter', 'resonance')
    await page.keyboard.type('55')
    await page.keyboard.press('Enter')
    await pause(100)
    expect((await paramsOf(page, 'filter'))['resonance']).toBe(0.55)
  })

  it('play letters by their place and never search with them', async () => {
    await page.mouse.click(600, 580)
    await page.click('button[aria-label^="Patch "]')
    await page.waitForSelector('[role="menuitem"]')
    await page.keyboard.press('k')
    await pause(100)
    expect(await page.$('[role="menuitem"][data-highlighted]')).toBeNull()
    await page.keyboard.press('Escape')
  })
})

describe('what is typed', () => {
  const typeInto = async (module: string, param: string, text: string, end: 'Enter' | 'Tab' | 'Escape') => {
    await focusOn(module, param)
    await page.keyboard.press('Enter')
    await page.waitForSelector('input[aria-label$="type a value"]')
    await page.keyboard.type(text)
    await page.keyboard.press(end)
    await pause(120)
  }

  it('is taken by Enter, by Tab and by leaving, and not by Escape', async () => {
    await typeInto('filter', 'cutoff', '640', 'Tab')
    expect((await paramsOf(page, 'filter'))['cutoff']).toBe(640)
    await typeInto('filter', 'cutoff', '900', 'Escape')
    expect((await paramsOf(page, 'filter'))['cutoff']).toBe(640)
    await focusOn('filter', 'cutoff')
    await page.keyboard.press('Enter')
    await page.keyboard.type('1 k')
    await page.mouse.click(600, 580)
    await pause(120)
    expect((await paramsOf(page, 'filter'))['cutoff']).toBe(1000)
  })

  it('may be relative, and is refused in words beside the field', async () => {
    await typeInto('filter', 'cutoff', '+12 st', 'Enter')
    expect((await paramsOf(page, 'filter'))['cutoff']).toBeCloseTo(840, 6)
    await typeInto('filter', 'cutoff', 'foo', 'Enter')
    const words = await page.$eval('[data-module="filter"] [role="alert"]', (fault) => fault.textContent)
    expect(words).toBe('"foo" is not a number in Hz')
    await page.keyboard.press('Escape')
    expect((await paramsOf(page, 'filter'))['cutoff']).toBeCloseTo(840, 6)
  })

  it('as tempo is given up by Escape', async () => {
    const tempo = 'input[aria-label="Tempo in beats per minute"]'
    await page.click(tempo)
    await page.keyboard.type('140')
    await page.keyboard.press('Escape')
    expect(await page.$eval(tempo, (input) => (input as HTMLInputElement).value)).toBe('96.0')
    await page.click(tempo)
    await page.keyboard.type('1400')
    await page.keyboard.press('Enter')
    await said(page, 'The tempo goes from 20 to 300 bpm.')
    await page.keyboard.press('Escape')
    expect(await isUntouched(page)).toBe(true)
  })

  it('as an amount has the units of its target', async () => {
    const amount = async (text: string): Promise<void> => {
      await page.click('aside button[aria-label^="Amount"]')
      await page.waitForSelector('aside input[aria-label="Amount"]')
      await page.keyboard.type(text)
      await page.keyboard.press('Enter')
      await pause(120)
    }
    await page.evaluate(() => {
      const tag = document.querySelector<HTMLElement>('[data-tag][aria-label$="filter.cutoff"]')!
      tag.click()
    })
    await page.waitForSelector('aside button[aria-label^="Amount"]')
    await amount('120 Hz')
    expect((await cableOf('breath.env', 'filter.cutoff'))!.amount).toBeCloseTo(Math.log2(540 / 420), 6)
    await amount('1/2')
    expect((await cableOf('breath.env', 'filter.cutoff'))!.amount).toBe(0.5)
    await amount('foo')
    await said(page, '"foo" is not a number in oct')
    await page.keyboard.press('Escape')
    expect((await cableOf('breath.env', 'filter.cutoff'))!.amount).toBe(0.5)
  })

  it('as a connection brings its amount, in one step', async () => {
    await page.mouse.click(600, 580)
    await withCtrl(page, 'k')
    await page.waitForSelector('[aria-label="Connect by typing"] input')
    await page.keyboard.type('tide out > filter cutoff * 2 st')
    await pause(80)
    await page.keyboard.press('Enter')
    await pause(150)
    expect((await cableOf('tide.out', 'filter.cutoff'))!.amount).toBeCloseTo(2 / 12, 9)
    await withCtrl(page, 'z')
    expect(await cableOf('tide.out', 'filter.cutoff')).toBeUndefined()
    await withCtrl(page, 'k')
    await page.waitForSelector('[aria-label="Connect by typing"] input')
    await page.keyboard.type('tide out > filter cutoff * foo')
    await pause(80)
    await page.keyboard.press('Enter')
    await said(page, '"foo" is not a number in oct')
    await page.keyboard.press('Escape')
    expect(await cableOf('tide.out', 'filter.cutoff')).toBeUndefined()
  })
})

describe('lists and formulas', () => {
  it('keep the entries that do not play', async () => {
    const all = [true, false, true, true, false, false, true, false]
    await importPatch(page, {
      format: 'ypsilon/patch',
      version: 1,
      name: 'Eight steps',
      modules: [{ id: 'row', type: 'steps', params: { length: 4 }, data: { on: all } }],
      cables: [],
    } as never)
    await page.waitForSelector('[data-module="row"]')
    await pressCard(page, 'row')
    await (await page.waitForSelector('button[aria-label="on 2"]'))!.click()
    await pause(120)
    const row = (await exportedFrom(page)).modules[0] as unknown as { data: { on: boolean[] } }
    expect(row.data.on).toEqual([true, true, true, true, false, false, true, false])
  })

  it('never show what does not play', async () => {
    await choose(page, 'New patch')
    await named(page, 'Untitled')
    await page.keyboard.press('/')
    await page.waitForSelector('[role="dialog"] input')
    await page.keyboard.type('formula')
    await pause(80)
    await page.keyboard.press('Enter')
    const text = 'aside textarea[aria-label^="text of"]'
    await page.waitForSelector(text)
    const shown = (): Promise<string> => page.$eval(text, (area) => (area as HTMLTextAreaElement).value)
    const before = await shown()
    await page.focus(text)
    await page.keyboard.type(' + (')
    await page.focus('input[aria-label="Tempo in beats per minute"]')
    await said(page, 'The formula was not taken')
    expect(await shown()).toBe(before)
  })
})

describe('connecting', () => {
  it('an output to an output says what it wants, and changes nothing', async () => {
    const before = (await exportedFrom(page)).cables.length
    const from = await centreOf(page, '.source[data-port="tide.out"]'),
      to = await centreOf(page, '.source[data-port="breath.env"]')
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(from.x + 8, from.y + 3)
    await page.mouse.move(to.x, to.y, { steps: 4 })
    await page.mouse.up()
    await said(page, 'An output goes to an input.')
    expect((await exportedFrom(page)).cables).toHaveLength(before)
    await connectPorts(page, 'tide.out', 'filter.cutoff')
    expect((await exportedFrom(page)).cables).toHaveLength(before + 1)
  })
})
