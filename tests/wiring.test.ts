/** Hands on cables: branches, bundles, one to many, all of a port, a module put into one. */
import type { Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import {
  centreOf,
  dragOn,
  exportedFrom,
  gripOf,
  importPatch,
  isUntouched,
  type Point,
  usePage,
  withCtrl,
} from './support/page.ts'
import { BENCH, selectCards, undo } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

const ways = async (): Promise<string[]> =>
  (await exportedFrom(page)).cables.map(({ from, to }) => `${from} > ${to}`)
/** A place on a cable's line, as a share of its length. */
const onCable = (id: string, share: number): Promise<Point> =>
  page.$eval(
    `path[data-cable="${id}"]`,
    (path, at) => {
      const line = path as SVGPathElement,
        { x, y } = line.getPointAtLength(line.getTotalLength() * at),
        { a, d, e, f } = line.getScreenCTM()!
      return { x: x * a + e, y: y * d + f }
    },
    share,
  )
const portAt = (port: string): Promise<Point> => centreOf(page, `[data-port="${port}"]`)
beforeEach(async () => {
  await importPatch(page, BENCH)
  await pause(500)
})

describe('a cable', () => {
  it('branches off anywhere on its line, and is selected by a mere click there', async () => {
    const from = await onCable('pitch', 0.5)
    await page.mouse.click(from.x, from.y)
    await page.waitForSelector('[data-cable-end]')
    expect(await isUntouched(page)).toBe(true)
    await page.keyboard.press('Escape')
    await dragOn(page, from, await portAt('b.pitch'))
    expect(await ways()).toEqual(['notes.pitch > a.pitch', 'mix.out > out.in', 'notes.pitch > b.pitch'])
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
  })

  it('drawn off and given up leaves all as it was; over nothing the finder asks what it is for', async () => {
    const from = await onCable('pitch', 0.5)
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(from.x + 60, from.y + 200, { steps: 4 })
    await page.keyboard.press('Escape')
    await page.mouse.up()
    expect(await isUntouched(page)).toBe(true)
    const chart = (await (await page.$('[data-chart]'))!.boundingBox())!
    await dragOn(page, from, { x: chart.x + 60, y: chart.y + chart.height - 60 })
    await page.waitForSelector('[role="dialog"] input')
    await page.keyboard.press('Escape')
    expect(await isUntouched(page)).toBe(true)
  })

  it('takes a module that is dropped on it, by hand and by key, and keeps its amount', async () => {
    const middle = await onCable('sound', 0.5)
    const box = (await (await page.$('[data-module="filter"]'))!.boundingBox())!,
      grip = await gripOf(page, 'filter')
    // So that its middle comes to lie on the line.
    const to = {
      x: grip.x + middle.x - (box.x + box.width / 2),
      y: grip.y + middle.y - (box.y + box.height / 2),
    }
    await dragOn(page, grip, to)
    expect((await ways()).sort()).toEqual([
      'filter.low > out.in',
      'mix.out > filter.in',
      'notes.pitch > a.pitch',
    ])
    expect((await exportedFrom(page)).cables.find(({ to: end }) => end === 'out.in')).toMatchObject({
      amount: 0.5,
    })
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
    const again = await onCable('sound', 0.5)
    await page.mouse.click(again.x, again.y)
    await page.waitForSelector('[data-cable-end]')
    await withCtrl(page, 'i')
    await page.waitForSelector('[role="dialog"] input')
    await page.keyboard.type('delay')
    await pause(100)
    await page.keyboard.press('Enter')
    await pause(100)
    const cables = (await exportedFrom(page)).cables
    expect(cables.find(({ to: end }) => end === 'out.in')).toMatchObject({ from: 'delay.out', amount: 0.5 })
    expect(cables.some(({ from, to: end }) => from === 'mix.out' && end.startsWith('delay.'))).toBe(true)
  })

  it('that is pointed at says in the margin where it goes and what flows', async () => {
    const at = await onCable('sound', 0.5)
    await page.mouse.move(at.x, at.y)
    const words = await page.waitForSelector('[data-margin]')
    expect(await words!.evaluate((node) => node.textContent)).toMatch(/Mix out → Output in× 0\.5(silent|–)/)
    await page.mouse.move(at.x, at.y + 160)
    await page.waitForFunction(() => document.querySelector('[data-margin]') === null)
  })
})

describe('several', () => {
  it('selected outputs go as a bundle to an input and those after it', async () => {
    await selectCards(page, ['c', 'a', 'b'])
    await dragOn(page, await portAt('b.saw'), await portAt('mix.in1'))
    expect((await ways()).slice(2)).toEqual(['a.saw > mix.in1', 'b.saw > mix.in2', 'c.saw > mix.in3'])
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
  })
  it('selected modules take one output each at the same port', async () => {
    await selectCards(page, ['a', 'b', 'c'])
    await dragOn(page, await portAt('notes.pitch'), await portAt('b.pitch'))
    expect((await ways()).sort()).toEqual([
      'mix.out > out.in',
      'notes.pitch > a.pitch',
      'notes.pitch > b.pitch',
      'notes.pitch > c.pitch',
    ])
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
  })
  it('cables of a port move together: with Shift of an input, with Alt of an output', async () => {
    await selectCards(page, ['a', 'b'])
    await dragOn(page, await portAt('a.saw'), await portAt('filter.in'))
    await page.mouse.click((await portAt('out.in')).x + 120, (await portAt('out.in')).y + 160)
    await page.keyboard.down('Shift')
    await dragOn(page, await portAt('filter.in'), await portAt('mix.in2'))
    await page.keyboard.up('Shift')
    expect((await ways()).filter((way) => way.includes('saw')).sort()).toEqual([
      'a.saw > mix.in2',
      'b.saw > mix.in2',
    ])
    await undo(page)
    expect((await ways()).filter((way) => way.endsWith('filter.in'))).toHaveLength(2)
    await page.keyboard.down('Alt')
    await dragOn(page, await portAt('notes.pitch'), await portAt('notes.gate'))
    await page.keyboard.up('Alt')
    expect(await ways()).toContain('notes.gate > a.pitch')
  })

  it('go together by key as well: a bundle to an input and those after it, all cables of a port to another', async () => {
    const line = async (text: string): Promise<void> => {
      await page.waitForSelector('[aria-label="Connect by typing"] input')
      await page.keyboard.type(text)
      await pause(120)
      await page.keyboard.press('Enter')
      await page.waitForFunction(() => document.querySelector('[aria-label="Connect by typing"]') === null)
      await pause(100)
    }
    await selectCards(page, ['a', 'b', 'c'])
    await page.keyboard.down('Shift')
    await withCtrl(page, 'k')
    await page.keyboard.up('Shift')
    await line('mix in1')
    const bundle = (await ways()).filter((way) => way.includes('> mix.in')).sort()
    expect(bundle.map((way) => way.replace(/\.\w+ /, ' '))).toEqual([
      'a > mix.in1',
      'b > mix.in2',
      'c > mix.in3',
    ])
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
    // From further off the ports are in the loupe.
    await page.focus('[data-module="notes"]')
    await page.keyboard.press('Enter')
    await (await page.waitForSelector('[data-loupe="notes"] .source[data-port="notes.pitch"]'))!.focus()
    await page.keyboard.down('Shift')
    await page.keyboard.press('Enter')
    await page.keyboard.up('Shift')
    await line('notes gate')
    expect(await ways()).toEqual(['notes.gate > a.pitch', 'mix.out > out.in'])
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
  })
})
