/** Ways to look at a patch and to listen into it: handles of pictures, one signal alone, focus, what differs from a version. */
import type { Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import { largest } from '../packages/core/src/testing/measure.ts'
import { pause } from './support/browser.ts'
import {
  centreOf,
  choose,
  dragOn,
  exportedFrom,
  freshDemo,
  importPatch,
  isUntouched,
  paramsOf,
  pressCard,
  pressNamed,
  record,
  said,
  usePage,
  withCtrl,
} from './support/page.ts'
import { undo, withCtrlAlt } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

/** A loud tone that the filter holds back. */
const TONE = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'Muffled tone',
  modules: [
    { id: 'osc', type: 'oscillator', params: { tracking: false, frequency: 2000 }, x: 0, y: 0 },
    { id: 'filter', type: 'filter', params: { cutoff: 50, slope: '24' }, x: 264, y: 0 },
    { id: 'out', type: 'output', params: { level: -12 }, x: 528, y: 0 },
  ],
  cables: [
    { id: 'in', from: 'osc.sine', to: 'filter.in' },
    { id: 'low', from: 'filter.low', to: 'out.in' },
  ],
}
const filterNow = (): Promise<Readonly<Record<string, unknown>>> => paramsOf(page, 'filter')
const loudness = async (): Promise<number> => {
  await pause(400)
  const [left] = await record(page, () => pause(500))
  return largest(left!)
}

beforeEach(async () => {
  await importPatch(page, TONE)
  await pause(600)
})

describe('the handle of a picture', () => {
  it('is dragged in one step, given up by Escape, and moved by arrows', async () => {
    await pressCard(page, 'filter')
    const at = await centreOf(page, '[data-handle="Cutoff and resonance"]')
    await dragOn(page, at, { x: at.x + 90, y: at.y - 12 })
    const { cutoff, resonance } = await filterNow()
    expect(Number(cutoff)).toBeGreaterThan(200)
    expect(Number(resonance)).toBeGreaterThan(0.2)
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
    const again = await centreOf(page, '[data-handle="Cutoff and resonance"]')
    await page.mouse.move(again.x, again.y)
    await page.mouse.down()
    await page.mouse.move(again.x + 60, again.y, { steps: 4 })
    await page.keyboard.press('Escape')
    await page.mouse.up()
    expect(await isUntouched(page)).toBe(true)
    await page.focus('[data-handle="Cutoff and resonance"]')
    for (let n = 0; n < 10; n += 1) await page.keyboard.press('ArrowRight')
    expect(Number((await filterNow())['cutoff'])).toBeCloseTo(50 * 1000 ** 0.1, 0)
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
  })
})

describe('one signal alone', () => {
  it('is heard before and after a module, and while an output is pressed with Alt; the patch stays as it is', async () => {
    await pressCard(page, 'filter')
    expect(await loudness()).toBeLessThan(0.01)
    await withCtrlAlt(page, 'ArrowLeft')
    await page.waitForSelector('[data-listening]')
    const before = await loudness()
    expect(before).toBeGreaterThan(0.1)
    expect(before).toBeLessThan(0.3)
    await withCtrlAlt(page, 'ArrowRight')
    expect(await loudness()).toBeLessThan(0.01)
    await withCtrlAlt(page, 'ArrowRight')
    await page.waitForFunction(() => document.querySelector('[data-listening]') === null)
    const { x, y } = await centreOf(page, '.source[data-port="osc.sine"]')
    await page.mouse.move(x, y)
    await page.keyboard.down('Alt')
    await page.mouse.down()
    await page.waitForSelector('[data-listening]')
    await page.mouse.up()
    await page.keyboard.up('Alt')
    await page.waitForFunction(() => document.querySelector('[data-listening]') === null)
    expect(await isUntouched(page)).toBe(true)
  })

  it('goes on with Shift while the patch is edited, and ends with Escape', async () => {
    const { x, y } = await centreOf(page, '.source[data-port="osc.sine"]')
    await page.mouse.move(x, y)
    await page.keyboard.down('Alt')
    await page.keyboard.down('Shift')
    await page.mouse.down()
    await page.mouse.up()
    await page.keyboard.up('Shift')
    await page.keyboard.up('Alt')
    await page.waitForSelector('[data-listening]')
    await pressCard(page, 'out')
    await page.keyboard.press('Delete')
    expect(await loudness()).toBeGreaterThan(0.1)
    await page.keyboard.press('Escape')
    await page.waitForFunction(() => document.querySelector('[data-listening]') === null)
    expect(await loudness()).toBeLessThan(1e-4)
  })
})

describe('focus', () => {
  it('brings what a module is connected to near it, changes nothing, and ends with Escape', async () => {
    await freshDemo(page, 'Rain on Glass', 'filter')
    await pause(700)
    const before = await exportedFrom(page)
    await pressCard(page, 'filter')
    await page.keyboard.down('Shift')
    await withCtrl(page, 'f')
    await page.keyboard.up('Shift')
    await pause(700)
    const near = await page.$$eval('[data-module][data-beside="false"]', (all) =>
      all.map((card) => (card as HTMLElement).dataset['module']!).sort(),
    )
    const wanted = new Set(
      before.cables.flatMap(({ from, to }) => {
        const ids = [from, to].map((end) => end.split('.')[0]!)
        return ids.includes('filter') ? ids : []
      }),
    )
    expect(near).toEqual([...wanted].sort())
    // Nothing is dragged by it.
    const grip = await centreOf(page, '[data-module="filter"] .panel-title')
    await dragOn(page, grip, { x: grip.x + 60, y: grip.y + 60 })
    await page.keyboard.press('Escape')
    await page.waitForFunction(() => document.querySelector('[data-beside="true"]') === null)
    expect(await exportedFrom(page)).toEqual(before)
  })
})

describe('a version', () => {
  it('is compared on the chart: what is new, what is other, what is gone', async () => {
    await pressCard(page, 'osc')
    await withCtrl(page, 'd')
    await choose(page, 'Versions')
    await (await page.waitForSelector('input[aria-label="Name of the version"]'))!.type('Two tones')
    await page.keyboard.press('Enter')
    await said(page, 'Two tones')
    await page.keyboard.press('Escape')
    await page.waitForFunction(() => document.querySelector('[role="dialog"]') === null)
    await pressCard(page, 'osc2')
    await page.keyboard.press('Delete')
    await pressCard(page, 'out')
    await withCtrl(page, 'd')
    await pressCard(page, 'filter')
    await page.waitForSelector('aside [data-param="cutoff"]')
    await page.focus('aside [data-param="cutoff"]')
    await page.keyboard.press('ArrowRight')
    await choose(page, 'Versions')
    await pressNamed(page, '[role="dialog"] button', 'On the chart')
    await page.waitForSelector('[data-compared]')
    const marks = await page.$$eval('[data-version]', (all) =>
      all
        .map((mark) =>
          [(mark as HTMLElement).dataset['version'], (mark as HTMLElement).dataset['of']].join(' '),
        )
        .sort(),
    )
    expect(marks).toEqual(['added out2', 'changed filter', 'removed osc2'])
    expect(await page.$eval('[data-version="changed"]', (mark) => mark.textContent)).toMatch(
      /cutoff 50 Hz → /,
    )
    await pressNamed(page, '[data-compared] button', 'Restore')
    await page.waitForFunction(() => document.querySelector('[data-compared]') === null)
    expect((await exportedFrom(page)).modules.map(({ id }) => id).sort()).toEqual([
      'filter',
      'osc',
      'osc2',
      'out',
    ])
  })
})
