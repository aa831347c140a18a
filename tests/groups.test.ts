/** Groups by hand and by key: made, opened, named, shown outside, taken apart; kept, put into other patches, made alike. */
import type { Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import { largest } from '../packages/core/src/testing/measure.ts'
import { pause, reloaded } from './support/browser.ts'
import {
  addModule,
  cards,
  emptyChart,
  exportedFrom,
  freshDemo,
  gripOf,
  importPatch,
  isUntouched,
  named,
  pressCard,
  pressNamed,
  record,
  said,
  usePage,
  withCtrl,
} from './support/page.ts'
import { selectCards, undo, voice } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

const VOICE = voice('Grouped lamp')

interface Inside {
  readonly id: string
  readonly type: string
  readonly label?: string
  readonly params?: Readonly<Record<string, unknown>>
  readonly face?: readonly unknown[]
  readonly own?: string
  readonly inside?: {
    readonly modules: readonly Inside[]
    readonly cables: readonly { from: string; to: string }[]
  }
}
const modulesNow = async (): Promise<readonly Inside[]> =>
  (await exportedFrom(page)).modules as unknown as readonly Inside[]
const groupNow = async (): Promise<Inside> => (await modulesNow()).find(({ type }) => type === 'group')!

/** Groups some cards by their key and gives the group a name. */
const group = async (ids: readonly string[], name: string): Promise<void> => {
  await selectCards(page, ids)
  await page.waitForFunction(
    (count) => document.querySelectorAll('[data-selected="true"]').length === count,
    {},
    ids.length,
  )
  await withCtrl(page, 'g')
  await page.waitForSelector('[data-module="group"] input, [data-loupe="group"] input')
  await page.keyboard.type(name)
  await page.keyboard.press('Enter')
  await page.waitForFunction(() => !document.querySelector('input[aria-label="Name"]'))
}
const shown = (): Promise<string[]> =>
  page.$$eval('[data-module]', (all) => all.map((card) => (card as HTMLElement).dataset['module']!).sort())
const openGroup = async (): Promise<void> => {
  const { x, y } = await gripOf(page, 'group')
  await page.mouse.click(x, y, { count: 2 })
  await page.waitForSelector('nav[aria-label="Open group"]')
  await pause(700)
}
const leave = async (): Promise<void> => {
  await withCtrl(page, 'ArrowUp')
  await page.waitForSelector('[data-module="group"]')
  await pause(300)
}
const play = (): Promise<Float32Array[]> =>
  record(page, async () => {
    await page.keyboard.down('a')
    await pause(400)
    await page.keyboard.up('a')
    await pause(200)
  })
/** Keeps what is selected under a name, by the name of its command. */
const keep = async (command: string, name: string): Promise<void> => {
  await withCtrl(page, 'p')
  await page.waitForSelector('[role="dialog"] input')
  await page.keyboard.type(command)
  await pause(120)
  await page.keyboard.press('Enter')
  await page.waitForSelector('input[aria-label="Name to keep it under"]')
  await page.focus('input[aria-label="Name to keep it under"]')
  await page.keyboard.type(name)
  await page.keyboard.press('Enter')
  await said(page, `${name} is kept`)
  await page.waitForFunction(() => document.querySelector('[role="dialog"]') === null)
}

beforeEach(async () => {
  await importPatch(page, VOICE)
  await pause(400)
})

describe('a group', () => {
  it('is made by its key, opened by a double-click, changed inside, left, and taken apart; undo gives all back', async () => {
    const before = await exportedFrom(page)
    await group(['osc', 'env', 'amp'], 'Lamp')
    expect(await shown()).toEqual(['group', 'notes', 'out'])
    await pause(800)
    expect(largest((await play())[0]!)).toBeGreaterThan(0.01)
    await openGroup()
    expect(await page.$eval('nav[aria-label="Open group"]', (nav) => nav.textContent)).toContain('Lamp')
    expect((await shown()).filter((id) => !id.startsWith('port'))).toEqual(['amp', 'env', 'osc'])
    // What is added and connected here is in the group.
    await addModule(page, 'lfo', 500, 560)
    await page.waitForSelector('[data-module="lfo"]')
    await withCtrl(page, 'k')
    await page.waitForSelector('[role="dialog"] input')
    await page.keyboard.type('lfo out > osc fine')
    await page.keyboard.press('Enter')
    await pause(300)
    const inside = (await groupNow()).inside!
    expect(inside.modules.map(({ id }) => id)).toContain('lfo')
    expect(inside.cables).toContainEqual(expect.objectContaining({ from: 'lfo.out', to: 'osc.fine' }))
    await leave()
    expect(await shown()).toEqual(['group', 'notes', 'out'])
    await pressCard(page, 'group')
    await page.keyboard.down('Shift')
    await withCtrl(page, 'g')
    await page.keyboard.up('Shift')
    await page.waitForSelector('[data-module="lfo"]')
    expect(await shown()).toEqual(['amp', 'env', 'lfo', 'notes', 'osc', 'out'])
    for (let n = 0; n < 8 && !(await isUntouched(page)); n += 1) await undo(page)
    expect(await exportedFrom(page)).toEqual(before)
  })

  it('is left when undo takes it away while it is open', async () => {
    await group(['osc', 'env', 'amp'], 'Lamp')
    await openGroup()
    await undo(page)
    await undo(page)
    await page.waitForFunction(() => !document.querySelector('nav[aria-label="Open group"]'))
    expect(await shown()).toEqual(['amp', 'env', 'notes', 'osc', 'out'])
  })

  it('has its ports named and its rows shown on its own card, which set and take cables', async () => {
    await group(['osc', 'env', 'amp'], 'Lamp')
    await page.waitForSelector('input[aria-label="Name of the port gate"]')
    await page.focus('input[aria-label="Name of the port gate"]')
    await page.keyboard.type('strike')
    await page.keyboard.press('Enter')
    await pause(200)
    expect((await exportedFrom(page)).cables).toContainEqual(
      expect.objectContaining({ from: 'notes.gate', to: 'group.strike' }),
    )
    await openGroup()
    await pressCard(page, 'osc')
    await page.keyboard.press('Enter')
    await page.waitForSelector('[data-row="osc.fine"]')
    await page.click('[data-row="osc.fine"]', { button: 'right' })
    await page.waitForSelector('[role="menu"]')
    await pressNamed(page, '[role="menuitem"]', 'Show it outside', 'begins')
    await pause(300)
    await page.keyboard.press('Escape')
    await leave()
    expect((await groupNow()).face).toMatchObject([{ param: 'osc.fine' }])
    await page.waitForSelector('[data-row="osc.fine"], [data-port="osc.fine"]')
    await withCtrl(page, 'k')
    await page.waitForSelector('[role="dialog"] input')
    await page.keyboard.type('notes velocity > osc fine')
    await page.keyboard.press('Enter')
    await pause(300)
    expect((await exportedFrom(page)).cables).toContainEqual(
      expect.objectContaining({ from: 'notes.velocity', to: 'osc.fine' }),
    )
    // It is drawn to the group's card.
    expect(await page.$$eval('[data-cable]', (all) => all.length)).toBeGreaterThan(0)
  })

  it('is opened where silence is found in it', async () => {
    const dark = { ...VOICE, name: 'Dark inside', cables: VOICE.cables.filter(({ id }) => id !== 'g') }
    await importPatch(page, dark)
    await pause(900)
    await group(['osc', 'env', 'amp'], 'Lamp')
    await withCtrl(page, '.')
    await page.waitForSelector('[data-silence]')
    await page.waitForFunction(
      () => !document.querySelector('[data-silence]')!.textContent!.includes('listening'),
    )
    await page.waitForSelector('nav[aria-label="Open group"]', { timeout: 15000 })
    expect(await shown()).toContain('amp')
    await page.keyboard.press('Escape')
  })
})

describe('what is kept', () => {
  it('as a module of one’s own is put into another patch, plays there, and its copies are made alike', async () => {
    await group(['osc', 'env', 'amp'], 'Lamp')
    await pressCard(page, 'group')
    await keep('Keep as a module', 'Lamp voice')
    expect((await groupNow()).label).toBe('Lamp voice')
    await emptyChart(page)
    for (let n = 0; n < 2; n += 1) {
      await page.click('.rail-button[aria-label="Kept sections and modules"]')
      const part = await page.waitForSelector('::-p-xpath(//*[@draggable="true"][contains(., "Lamp voice")])')
      await part!.focus()
      await page.keyboard.press('Enter')
      await page.waitForFunction(
        (count) => document.querySelectorAll('[data-module]').length === count,
        {},
        n + 1,
      )
      await page.keyboard.press('Escape')
    }
    const [first, second] = await modulesNow()
    expect(first!.own).toBe(second!.own)
    const ids = [first, second].flatMap((one) => one!.inside!.modules.map(({ id }) => id))
    expect(new Set(ids).size).toBe(ids.length)
    // A value of the first is set; the second becomes like it.
    await pressCard(page, first!.id)
    await withCtrl(page, 'ArrowDown')
    await page.waitForSelector('[data-module="osc"]')
    await pressCard(page, 'osc')
    await page.waitForSelector('aside [data-param="fine"]')
    await page.focus('aside [data-param="fine"]')
    await page.keyboard.press('ArrowRight')
    await withCtrl(page, 'ArrowUp')
    await pause(300)
    await pressNamed(page, 'button', 'Make copies alike')
    await said(page, 'One copy is like this one now')
    const fine = ({ inside }: Inside): unknown =>
      inside!.modules.find(({ type }) => type === 'oscillator')!.params?.['fine']
    const [a, b] = await modulesNow()
    expect(fine(a!)).toBeGreaterThan(0)
    expect(fine(b!)).toBe(fine(a!))
  })

  it('as a section comes back through the finder, after a reload as well, and is put aside and taken back', async () => {
    await selectCards(page, ['osc', 'env', 'amp'])
    await keep('Keep as a section', 'Reed section')
    await reloaded(page)
    await page.waitForSelector('[data-chart]')
    await named(page, 'Grouped lamp')
    await emptyChart(page)
    await page.mouse.click(500, 300, { count: 2 })
    await page.waitForSelector('[role="dialog"] input')
    await page.keyboard.type('reed sec')
    await page.waitForSelector('[cmdk-item][data-value^="kept"]')
    await page.keyboard.press('Enter')
    await page.waitForFunction(() => document.querySelectorAll('[data-module]').length === 3)
    expect((await exportedFrom(page)).cables).toHaveLength(2)
    await undo(page)
    expect(await cards(page)).toBe(0)
    await page.click('.rail-button[aria-label="Kept sections and modules"]')
    await (await page.waitForSelector('button[aria-label="Put Reed section aside"]'))!.click()
    await page.waitForFunction(() => !document.querySelector('button[aria-label="Put Reed section aside"]'))
    await pressNamed(page, 'button', 'Take it back')
    await page.click('.rail-button[aria-label="Kept sections and modules"]')
    await page.waitForSelector('button[aria-label="Put Reed section aside"]')
    await page.keyboard.press('Escape')
  })

  it('of a module’s settings is offered to others of its type', async () => {
    await freshDemo(page, 'Harbour Bell', 'out')
    const modules = [
      { id: 'f1', type: 'filter', params: { cutoff: 432, resonance: 0.7 }, x: 0, y: 0 },
      { id: 'f2', type: 'filter', params: { drive: 12 }, x: 264, y: 0 },
    ]
    const filters = { ...VOICE, name: 'Two filters', modules, cables: [] }
    await importPatch(page, filters)
    await pause(400)
    await pressCard(page, 'f1')
    await keep('Keep these settings', 'Muffled pane')
    await pressCard(page, 'f2')
    await page.waitForSelector('aside [data-param="preset"]')
    await page.click('aside [data-param="preset"]')
    await pressNamed(page, '[role="menuitemradio"]', 'Muffled pane')
    await pause(300)
    expect((await exportedFrom(page)).modules[1]!.params).toEqual({ cutoff: 432, resonance: 0.7 })
    await undo(page)
    expect((await exportedFrom(page)).modules[1]!.params).toEqual({ drive: 12 })
  })
})
