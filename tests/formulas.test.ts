/** Formulas in the dock: coloured, completed from the patch, faults said in place, the value of every name now. */
import type { Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import { exportedFrom, importPatch, pressCard, pressNamed, usePage } from './support/page.ts'
import { undo } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

const PATCH = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'Reckoning',
  modules: [
    { id: 'tide', type: 'value', label: 'Tide', params: { value: 0.25 }, x: 0, y: 0 },
    {
      id: 'sum',
      type: 'formula',
      label: 'Sum',
      params: { p1: 2 },
      data: { text: 'x = a * p1' },
      x: 264,
      y: 0,
    },
    { id: 'out', type: 'output', params: { level: -40 }, x: 528, y: 0 },
  ],
  cables: [
    { id: 'a', from: 'tide.out', to: 'sum.a', amount: 3 },
    { id: 'o', from: 'sum.x', to: 'out.in' },
  ],
}
const TEXT = '[data-editor="formula"] .cm-content'
const formulaNow = async (): Promise<unknown> =>
  (await exportedFrom(page)).modules.find(({ id }) => id === 'sum')!.data!['text']
const write = async (text: string): Promise<void> => {
  await page.click(TEXT)
  await page.keyboard.down('Control')
  await page.keyboard.press('a')
  await page.keyboard.up('Control')
  await page.keyboard.type(text)
}
const take = async (): Promise<void> => {
  await page.keyboard.down('Control')
  await page.keyboard.press('Enter')
  await page.keyboard.up('Control')
  await pause(150)
}
const valueOf = (name: string): Promise<string> =>
  page.$eval(`[data-formula-values] dd[data-name="${name}"]`, (cell) => cell.textContent ?? '')

beforeEach(async () => {
  await importPatch(page, PATCH)
  await pause(400)
  await pressCard(page, 'sum')
  await pressNamed(page, '[role="tab"]', 'Formula')
  await page.waitForSelector(TEXT)
})

describe('a formula', () => {
  it('is written, coloured by its own reader, and taken in one step', async () => {
    await write('w = a + 1; x = sin(w) * 0.5')
    await take()
    expect(await formulaNow()).toBe('w = a + 1; x = sin(w) * 0.5')
    const kinds = await page.$$eval(`${TEXT} [class^="formula-"]`, (all) =>
      all.map((each) => [each.className, each.textContent]),
    )
    expect(kinds).toContainEqual(['formula-function', 'sin'])
    expect(kinds).toContainEqual(['formula-name', 'w'])
    await undo(page)
    expect(await formulaNow()).toBe('x = a * p1')
  })

  it('says what is wrong, at the place, and is not taken; Escape gives it up', async () => {
    await write('x = a * frobnicate(2')
    await page.waitForSelector('[data-editor="formula"] [role="alert"]')
    await page.waitForSelector(`${TEXT} .cm-lintRange-error`)
    await take()
    await page.waitForFunction(() => /The formula was not taken/.test(document.body.textContent ?? ''))
    expect(await formulaNow()).toBe('x = a * p1')
    expect(await page.$eval(TEXT, (text) => text.textContent)).toBe('x = a * p1')
    await write('x = 7')
    await page.keyboard.press('Escape')
    await page.keyboard.press('Escape')
    expect(await formulaNow()).toBe('x = a * p1')
  })

  it('completes functions, names of its own, and says what comes to each input', async () => {
    await write('depth = a; x = de')
    await page.waitForSelector('.cm-tooltip-autocomplete')
    await pause(200)
    await page.keyboard.press('Enter')
    await page.keyboard.type(' + cl')
    await page.waitForFunction(() =>
      /clamp/.test(document.querySelector('.cm-tooltip-autocomplete')?.textContent ?? ''),
    )
    await pause(200)
    await page.keyboard.press('Enter')
    await page.keyboard.type('a, 0, 1')
    await take()
    expect(await formulaNow()).toBe('depth = a; x = depth + clamp(a, 0, 1)')
    await write('x = a')
    await page.keyboard.press('Escape')
    await page.keyboard.down('Control')
    await page.keyboard.press('Space')
    await page.keyboard.up('Control')
    await page.waitForFunction(() =>
      /Tide out/.test(document.querySelector('.cm-tooltip-autocomplete')?.textContent ?? ''),
    )
  })

  it('shows what every name holds now, as it sounds', async () => {
    await write('w = a + p1; x = w / 2')
    await take()
    await expect.poll(() => valueOf('a'), { timeout: 5000 }).toBe('0.7500')
    await expect.poll(() => valueOf('w'), { timeout: 5000 }).toBe('2.750')
    await expect.poll(() => valueOf('x'), { timeout: 5000 }).toBe('1.375')
    expect(await valueOf('p1')).toBe('2.000')
  })
})

describe('a field that follows a formula', () => {
  it('is written in the inspector with words from the patch, and shows what they hold now', async () => {
    const patch = {
      ...PATCH,
      name: 'Reckoning two',
      modules: [
        ...PATCH.modules,
        {
          id: 'low',
          type: 'filter',
          label: 'Fog',
          params: { cutoff: '= 300 + tide.out * 1000' },
          x: 264,
          y: 260,
        },
      ],
    }
    await importPatch(page, patch)
    await pause(400)
    await pressCard(page, 'low')
    const text = '[data-field-formula="cutoff"] .cm-content'
    await page.waitForSelector(text)
    const values = (): Promise<(string | null)[]> =>
      page.$$eval('[data-field-formula="cutoff"] dd', (all) => all.map((cell) => cell.textContent))
    await expect.poll(values, { timeout: 5000 }).toEqual(['550 Hz', '0.2500'])
    await page.click(text)
    await page.keyboard.press('End')
    await page.keyboard.type(' + sum.')
    await page.waitForFunction(() =>
      /Sum x/.test(document.querySelector('.cm-tooltip-autocomplete')?.textContent ?? ''),
    )
    await pause(200)
    await page.keyboard.press('Enter')
    await page.keyboard.down('Control')
    await page.keyboard.press('Enter')
    await page.keyboard.up('Control')
    await pause(150)
    const { params } = (await exportedFrom(page)).modules.find(({ id }) => id === 'low')!
    expect(String(params!['cutoff'])).toMatch(/^= 300 \+ tide\.out \* 1000 \+ sum\./)
  })
})
