/** Hands on the chart: drags, cable ends, menus, places, and a first voice counted by mouse and by keyboard. */
import type { Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import {
  centreOf,
  dragOn,
  emptyChart,
  exportedFrom,
  freshDemo,
  gripOf,
  isUntouched,
  pressCard,
  pressNamed,
  record,
  usePage,
  withCtrl,
} from './support/page.ts'

let page: Page
usePage((opened) => {
  page = opened
})
beforeEach(async () => {
  await freshDemo(page, 'Reed Lamp', 'filter')
  await pause(250)
})

const cables = async (): Promise<string[]> =>
  (await exportedFrom(page)).cables.map(({ from, to }) => `${from} > ${to}`)
const largest = (samples: Float32Array): number => samples.reduce((most, x) => Math.max(most, Math.abs(x)), 0)

describe('drags', () => {
  it('with Shift over a card change its field and draw no box', async () => {
    const field = await centreOf(page, '[data-module="filter"] [data-param="cutoff"]')
    await page.keyboard.down('Shift')
    await dragOn(page, field, { x: field.x + 80, y: field.y + 40 })
    await page.keyboard.up('Shift')
    expect(await page.$('.react-flow__nodesselection-rect')).toBeNull()
    expect(await page.$('.react-flow__selection')).toBeNull()
    const { modules } = await exportedFrom(page)
    expect(Number(modules.find(({ id }) => id === 'filter')!.params!['cutoff'])).toBeGreaterThan(420)
    // The card works as before.
    await pressCard(page, 'filter')
    await page.waitForSelector('[data-module="filter"][data-selected="true"]')
  })

  it('of a card, a cable or its end are given up with Escape', async () => {
    const head = await gripOf(page, 'filter')
    const before = await exportedFrom(page)
    await page.mouse.move(head.x, head.y)
    await page.mouse.down()
    await page.mouse.move(head.x + 10, head.y + 40, { steps: 3 })
    await page.keyboard.press('Escape')
    await page.mouse.move(head.x + 30, head.y + 90, { steps: 3 })
    await page.mouse.up()
    await pause(100)
    const from = await centreOf(page, '.source[data-port="tide.out"]'),
      to = await centreOf(page, '[data-row="filter.cutoff"]')
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(from.x + 8, from.y + 3)
    await page.mouse.move(to.x, to.y, { steps: 4 })
    await page.keyboard.press('Escape')
    await page.mouse.up()
    await pause(100)
    expect(await page.$('[role="dialog"]')).toBeNull()
    expect(await exportedFrom(page)).toEqual(before)
    expect(await isUntouched(page)).toBe(true)
  })

  it('move a cable to another input by its end, and from port to port', async () => {
    const click = await page.$('[data-cable="c13"]')
    await page.evaluate((line) => {
      line!.dispatchEvent(new MouseEvent('click', { bubbles: true }))
    }, click)
    const end = await centreOf(page, '[data-cable-end="from"]')
    await dragOn(page, end, await centreOf(page, '.source[data-port="filter.band"]'))
    expect(await cables()).toContain('filter.band > room.in')
    expect(await cables()).not.toContain('amp.out > room.in')
    await withCtrl(page, 'z')
    expect(await cables()).toContain('amp.out > room.in')
    // An input's cable is picked up at the port.
    await dragOn(
      page,
      await centreOf(page, '.target[data-port="breath.velocity"]'),
      await centreOf(page, '[data-row="filter.resonance"]'),
    )
    expect(await cables()).toContain('notes.velocity > filter.resonance')
    expect(await cables()).not.toContain('notes.velocity > breath.velocity')
  })
})

describe('menus of the chart', () => {
  const menuAt = async (selector: string): Promise<string[]> => {
    const at = await centreOf(page, selector)
    await page.mouse.click(at.x, at.y, { button: 'right' })
    await page.waitForSelector('[role="menuitem"]')
    return page.$$eval('[role="menuitem"]', (all) => all.map((item) => item.textContent ?? ''))
  }
  const take = async (words: string): Promise<void> => {
    await pressNamed(page, '[role="menuitem"]', words, 'begins')
    await page.waitForFunction(() => !document.querySelector('[role="menu"]'))
  }

  it('hold what applies to a card, a port, a row, a cable and the chart', async () => {
    expect(await menuAt('[data-module="filter"] .head')).toEqual(
      expect.arrayContaining([expect.stringMatching(/^Duplicate/), expect.stringMatching(/^Delete/)]),
    )
    await take('Bypass')
    await page.waitForSelector('[data-module="filter"][data-bypassed="true"]')
    expect(await menuAt('[data-row="filter.cutoff"]')).toEqual(
      expect.arrayContaining(['Reset cutoff', 'Disconnect Breath env']),
    )
    await take('Disconnect Breath env')
    expect(await cables()).not.toContain('breath.env > filter.cutoff')
    expect(await menuAt('.source[data-port="notes.pitch"]')).toEqual(
      expect.arrayContaining(['Disconnect all 3']),
    )
    await take('Disconnect all 3')
    expect((await cables()).filter((cable) => cable.startsWith('notes.pitch'))).toEqual([])
    const chart = (await (await page.$('[data-chart]'))!.boundingBox())!
    await page.mouse.click(chart.x + 20, chart.y + chart.height - 20, { button: 'right' })
    await page.waitForSelector('[role="menuitem"]')
    await take('Select all')
    expect(await page.$$eval('[data-selected="true"]', (all) => all.length)).toBe(9)
    await page.keyboard.press('Escape')
  })

  it('mute and colour a cable', async () => {
    await page.$eval('[data-cable="c12"]', (line) => {
      const path = line as unknown as SVGGeometryElement
      const at = path.getPointAtLength(path.getTotalLength() / 2).matrixTransform(path.getScreenCTM()!)
      path.dispatchEvent(
        new MouseEvent('contextmenu', { bubbles: true, clientX: at.x, clientY: at.y, button: 2 }),
      )
    })
    await page.waitForSelector('[role="menuitem"]')
    await take('Mute')
    const cable = async () =>
      (await exportedFrom(page)).cables.find(({ id }) => id === 'c12') as { muted?: boolean; color?: string }
    expect((await cable()).muted).toBe(true)
    await page.$eval('[data-cable="c12"]', (line) => {
      line.dispatchEvent(
        new MouseEvent('contextmenu', { bubbles: true, clientX: 500, clientY: 300, button: 2 }),
      )
    })
    await page.waitForSelector('[role="menuitem"]')
    await take('moss')
    expect((await cable()).color).toMatch(/^#/)
  })
})

describe('resting the pointer', () => {
  it('on a port or a cable says what it is, and goes with the next move', async () => {
    const port = await centreOf(page, '.source[data-port="notes.pitch"]')
    await page.mouse.move(port.x, port.y)
    await page.waitForSelector('[role="tooltip"]')
    expect(await page.$eval('[role="tooltip"]', (tip) => tip.textContent)).toMatch(
      /^Notes pitch, pitch, (now .*, )?3 cables$/,
    )
    await page.mouse.move(port.x + 60, port.y + 60)
    await page.waitForFunction(() => !document.querySelector('[role="tooltip"]'))
    const input = await centreOf(page, '.target[data-port="filter.cutoff"]')
    await page.mouse.move(input.x, input.y)
    await page.waitForSelector('[role="tooltip"]')
    expect(await page.$eval('[role="tooltip"]', (tip) => tip.textContent)).toBe(
      'Filter cutoff, from Breath env',
    )
  })
})

describe('a first voice from an empty bench', () => {
  const wires = [
    'notes.pitch > osc.pitch',
    'notes.gate > env.gate',
    'osc.saw > amp.in',
    'env.env > amp.cv',
    'amp.out > out.in',
  ]
  const sounds = async (): Promise<void> => {
    expect((await cables()).sort()).toEqual([...wires].sort())
    const [left] = await record(page, async () => {
      await page.keyboard.down('a')
      await pause(400)
      await page.keyboard.up('a')
    })
    expect(largest(left!)).toBeGreaterThan(0.1)
  }
  const parts = ['notes', 'oscillator', 'envelope', 'amplifier', 'output']

  it('takes 25 actions at most by mouse', async () => {
    await emptyChart(page)
    let actions = 0
    const places = [
      [150, 120],
      [390, 110],
      [390, 330],
      [640, 120],
      [840, 330],
    ] as const
    for (const [index, part] of parts.entries()) {
      const [x, y] = places[index]!
      await page.mouse.click(x, y, { count: 2 })
      await page.waitForSelector('[role="dialog"] input')
      await page.keyboard.type(part)
      await pause(80)
      await page.keyboard.press('Enter')
      await page.waitForFunction(() => !document.querySelector('[role="dialog"]'))
      actions += 2
    }
    for (const wire of wires) {
      const [from, to] = wire.split(' > ') as [string, string]
      await dragOn(
        page,
        await centreOf(page, `.source[data-port="${from}"]`),
        await centreOf(page, `.target[data-port="${to}"]`),
      )
      actions += 1
    }
    expect(actions).toBeLessThanOrEqual(25)
    await sounds()
  })

  it('takes 25 actions at most by keyboard, and no card lands on another', async () => {
    await emptyChart(page)
    let actions = 0
    for (const part of parts) {
      await page.keyboard.press('/')
      await page.waitForSelector('[role="dialog"] input')
      await page.keyboard.type(part)
      await pause(80)
      await page.keyboard.press('Enter')
      await page.waitForFunction(() => !document.querySelector('[role="dialog"]'))
      actions += 2
    }
    for (const wire of wires) {
      await withCtrl(page, 'k')
      await page.waitForSelector('[aria-label="Connect by typing"] input')
      await page.keyboard.type(wire.replaceAll('.', ' '))
      await pause(80)
      await page.keyboard.press('Enter')
      await page.waitForFunction(() => !document.querySelector('[role="dialog"]'))
      actions += 2
    }
    expect(actions).toBeLessThanOrEqual(25)
    const places = (await exportedFrom(page)).modules.map((module) => {
      const { x, y } = module as unknown as { x: number; y: number }
      return `${x} ${y}`
    })
    expect(new Set(places).size).toBe(5)
    await sounds()
  })
})
