/** What is done in the inspector and by menus on rows: several at once, values taken along, replacing, going through history. */
import type { Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import {
  exportedFrom,
  importPatch,
  isUntouched,
  paramsOf,
  pressCard,
  pressNamed,
  said,
  usePage,
  withCtrl,
} from './support/page.ts'
import { selectCards, undo, withCtrlAlt } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

const THREE = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'Three reeds',
  modules: [
    { id: 'a', type: 'oscillator', params: { fine: -10 }, x: 0, y: 0 },
    { id: 'b', type: 'oscillator', params: { fine: 10 }, x: 264, y: 0 },
    { id: 'filter', type: 'filter', params: { cutoff: 432, resonance: 0.6 }, x: 528, y: 0 },
    { id: 'out', type: 'output', x: 792, y: 0 },
    { id: 'lfo', type: 'lfo', x: 264, y: 300 },
  ],
  cables: [
    { id: 'ca', from: 'a.saw', to: 'filter.in' },
    { id: 'cb', from: 'b.saw', to: 'filter.in' },
    { id: 'sweep', from: 'lfo.out', to: 'filter.cutoff', amount: 1.5 },
    { id: 'co', from: 'filter.low', to: 'out.in' },
  ],
}

/** Chooses an entry of the menu of a row. */
const onRow = async (row: string, entry: string): Promise<void> => {
  await (await page.waitForSelector(`[data-row="${row}"]`))!.click({ button: 'right' })
  await page.waitForSelector('[role="menu"]')
  await pressNamed(page, '[role="menuitem"]', entry, 'begins')
  await page.waitForFunction(() => document.querySelector('[role="menu"]') === null)
  await pause(150)
}

/** The inspector is about so many. */
const isAbout = (heading: string): Promise<unknown> =>
  page.waitForFunction((words) => document.querySelector('aside h2')?.textContent === words, {}, heading)

beforeEach(async () => {
  await importPatch(page, THREE)
  await pause(600)
})

describe('several modules', () => {
  it('have their common values set at once: typed the same, moved by as much, in one step each', async () => {
    await selectCards(page, ['a', 'b'])
    // The first of them alone has such a field as well.
    await isAbout('2 modules')
    const field = await page.waitForSelector('aside [data-param="fine"]')
    expect(await page.$eval('aside', (aside) => aside.textContent)).toContain('Fine (various)')
    await field!.focus()
    await page.keyboard.press('ArrowRight')
    await pause(100)
    const [moved] = [Number((await paramsOf(page, 'a'))['fine']) + 10]
    expect(moved).toBeGreaterThan(0)
    expect(Number((await paramsOf(page, 'b'))['fine']) - 10).toBeCloseTo(moved, 3)
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
    await page.focus('aside [data-param="fine"]')
    await page.keyboard.press('Enter')
    await page.waitForSelector('aside input')
    await page.keyboard.type('7 ct')
    await page.keyboard.press('Enter')
    await pause(150)
    expect([(await paramsOf(page, 'a'))['fine'], (await paramsOf(page, 'b'))['fine']]).toEqual([7, 7])
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
  })

  it('of different kinds have what they share, and are lined up there', async () => {
    await selectCards(page, ['a', 'b', 'lfo'])
    await isAbout('3 modules')
    expect(await page.$('aside [data-param="fine"]')).toBeNull()
    await pressNamed(page, 'aside button', 'Left')
    const xs = ((await exportedFrom(page)).modules as unknown as { id: string; x: number }[])
      .filter(({ id }) => ['a', 'b', 'lfo'].includes(id))
      .map(({ x }) => x)
    expect(new Set(xs).size).toBe(1)
  })
})

describe('a value', () => {
  it('is taken from one row to another, and to the same row of all that are selected', async () => {
    await onRow('b.fine', 'Copy the value')
    await onRow('a.fine', 'Paste +10 ct')
    expect((await paramsOf(page, 'a'))['fine']).toBe(10)
    await undo(page)
    await onRow('filter.cutoff', 'Copy the value')
    await selectCards(page, ['a', 'b'])
    await onRow('a.fine', 'Paste 432 Hz')
    await said(page, '432 Hz makes no sense there')
    expect((await paramsOf(page, 'a'))['fine']).toBe(-10)
    await onRow('b.fine', 'Copy the value')
    await selectCards(page, ['a', 'b'])
    await onRow('a.fine', 'Paste +10 ct on 2')
    expect([(await paramsOf(page, 'a'))['fine'], (await paramsOf(page, 'b'))['fine']]).toEqual([10, 10])
  })

  it('or all settings of a module go to others that have such', async () => {
    await pressCard(page, 'a')
    await withCtrlAlt(page, 'c')
    await pause(200)
    await pressCard(page, 'b')
    await withCtrlAlt(page, 'v')
    await pause(200)
    expect((await paramsOf(page, 'b'))['fine']).toBe(-10)
    await pressCard(page, 'out')
    await withCtrlAlt(page, 'v')
    await said(page, 'no setting in common')
  })
})

describe('a module', () => {
  it('becomes another of its family with its cables and settings, in one step', async () => {
    await pressCard(page, 'filter')
    await withCtrlAlt(page, 'r')
    await page.waitForSelector('[role="dialog"] input')
    await page.keyboard.type('ladder')
    await pause(100)
    await page.keyboard.press('Enter')
    await page.waitForFunction(() => document.querySelector('[role="dialog"]') === null)
    await pause(300)
    const { modules, cables } = await exportedFrom(page)
    expect(modules[2]).toMatchObject({
      id: 'filter',
      type: 'ladder',
      params: { cutoff: 432, resonance: 0.6 },
    })
    expect(cables).toHaveLength(4)
    expect(cables).toContainEqual(expect.objectContaining({ id: 'sweep', to: 'filter.cutoff', amount: 1.5 }))
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
  })

  it('and all others have what they cost written on them when that is asked for', async () => {
    await withCtrlAlt(page, 'k')
    await page.waitForSelector('[data-load="filter"]', { timeout: 30000 })
    const loads = await page.$$eval('[data-load]', (all) => all.map((one) => one.textContent))
    expect(loads).toHaveLength(THREE.modules.length)
    for (const words of loads) expect(words).toMatch(/^\d+\.\d %$/)
    await withCtrlAlt(page, 'k')
    await page.waitForFunction(() => document.querySelector('[data-load]') === null)
  })
})

describe('history', () => {
  it('has every step by name; one press goes back to any of them, another forth again', async () => {
    await pressCard(page, 'lfo')
    await page.keyboard.press('Delete')
    await pressCard(page, 'b')
    await withCtrl(page, 'd')
    await pressCard(page, 'a')
    await page.keyboard.press('Delete')
    await page.keyboard.press('Escape')
    await page.waitForSelector('ol[aria-label="Steps, the latest first"]')
    const steps = (): Promise<(string | null)[]> =>
      page.$$eval('ol[aria-label="Steps, the latest first"] button', (all) =>
        all.map((one) => one.textContent),
      )
    expect(await steps()).toEqual([
      'Delete Oscillator',
      'Duplicate Oscillator',
      'Delete LFO',
      'As it was opened',
    ])
    const ids = async (): Promise<string[]> => (await exportedFrom(page)).modules.map(({ id }) => id)
    await pressNamed(page, 'ol button', 'Delete LFO')
    expect(await ids()).toEqual(['a', 'b', 'filter', 'out'])
    expect(await page.$eval('ol button[aria-current="step"]', (one) => one.textContent)).toBe('Delete LFO')
    await pressNamed(page, 'ol button', 'As it was opened')
    expect(await exportedFrom(page)).toMatchObject({ modules: THREE.modules.map(({ id }) => ({ id })) })
    await pressNamed(page, 'ol button', 'Delete Oscillator')
    expect(await ids()).toEqual(['b', 'filter', 'out', 'osc'])
  })
})
