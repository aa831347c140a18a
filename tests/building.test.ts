/**
 * A patch of twelve modules, such as one would play, built from an empty bench: once with the mouse and once with the
 * keyboard, every gesture as a hand makes it. Actions are counted as clicks, drags, and typed texts with their Enter.
 */
import type { Page } from 'puppeteer-core'
import { afterAll, expect, it } from 'vitest'
import { largest } from '../packages/core/src/testing/measure.ts'
import { pause } from './support/browser.ts'
import {
  centreOf,
  emptyChart,
  exportedFrom,
  type Point,
  pressNamed,
  record,
  usePage,
  withCtrl,
  zoomOut,
} from './support/page.ts'

let page: Page
usePage((opened) => {
  page = opened
})

/** Rain: notes that a random step lifts onto a scale, a table for each voice, panned by a fan, through a room. */
const PARTS = [
  ['notes', 'notes'],
  ['random', 'random'],
  ['fan', 'fan'],
  ['envelope', 'env'],
  ['mix', 'mix'],
  ['quantiser', 'quantize'],
  ['wavetable', 'wavetable'],
  ['pan', 'pan'],
  ['filter', 'filter'],
  ['amplifier', 'amp'],
  ['reverb', 'reverb'],
  ['output', 'out'],
] as const
const WIRES = [
  ['notes.pitch', 'mix.in1'],
  ['random.stepped', 'mix.in2'],
  ['mix.out', 'quantize.in'],
  ['quantize.out', 'wavetable.pitch'],
  ['wavetable.a', 'pan.in'],
  ['fan.out1', 'pan.pan'],
  ['fan.out2', 'wavetable.position'],
  ['pan.out', 'filter.in'],
  ['filter.low', 'amp.in'],
  ['notes.gate', 'env.gate'],
  ['env.env', 'amp.cv'],
  ['env.env', 'filter.cutoff'],
  ['amp.out', 'reverb.in'],
  ['reverb.out', 'out.in'],
] as const
/** What is asked of both. */
const MOST_ACTIONS = 60

const counts: string[] = []
afterAll(() => {
  process.stdout.write(`\n${counts.join('\n')}\n`)
})

const ids = new Map<string, string>()
/** The end of a cable by the ids that the modules have got. */
const end = (port: string): string => {
  const [module = '', name = ''] = port.split('.')
  return `${ids.get(module) ?? module}.${name}`
}
const noteIds = async (): Promise<void> => {
  const { modules } = await exportedFrom(page)
  expect(modules).toHaveLength(PARTS.length)
  PARTS.forEach(([, name], n) => ids.set(name, modules[n]!.id))
}

const isBuilt = async (): Promise<void> => {
  const { modules, cables } = await exportedFrom(page)
  expect(cables.map(({ from, to }) => `${from} > ${to}`).sort()).toEqual(
    WIRES.map(([from, to]) => `${end(from)} > ${end(to)}`).sort(),
  )
  const places = (modules as unknown as { x: number; y: number }[]).map(({ x, y }) => `${x} ${y}`)
  expect(new Set(places).size).toBe(PARTS.length)
  const [left] = await record(page, async () => {
    await page.keyboard.down('d')
    await pause(900)
    await page.keyboard.up('d')
  })
  expect(largest(left!)).toBeGreaterThan(0.02)
}

/** A port as it is under the hand now: in the loupe that opens under a cable, or on its card. */
const portPlace = async (port: string, side: 'source' | 'target'): Promise<Point | undefined> => {
  for (const within of [`[data-loupe="${port.split('.')[0]!}"] `, '']) {
    const found = await page.$(`${within}.${side}[data-port="${port}"]`)
    const box = await found?.boundingBox()
    if (box) return { x: box.x + box.width / 2, y: box.y + box.height / 2 }
  }
  return undefined
}

/** Lays a cable by a drag: over the card, whose loupe shows its ports, to the port; or over the card, and the port from the list. */
const drag = async (from: string, to: string): Promise<number> => {
  const start = await portPlace(from, 'source')
  if (!start) throw new Error(`${from} is not to be seen`)
  const card = await centreOf(page, `[data-module="${to.split('.')[0]!}"]`)
  await page.mouse.move(start.x, start.y)
  await page.mouse.down()
  await page.mouse.move(start.x + 8, start.y + 4)
  await page.mouse.move(card.x, card.y, { steps: 6 })
  await pause(250)
  const port = await portPlace(to, 'target')
  if (port) await page.mouse.move(port.x, port.y, { steps: 3 })
  await pause(60)
  await page.mouse.up()
  await pause(150)
  if (port) return 1
  await page.waitForSelector('[role="dialog"] [cmdk-item]')
  await (await page.waitForSelector(
    `[role="dialog"] [cmdk-item][data-value="${to.split('.')[1]!}"]`,
  ))!.click()
  await pause(150)
  return 2
}

it('by mouse', async () => {
  await emptyChart(page)
  await zoomOut(page, 0.62)
  let actions = 0
  const chart = (await (await page.$('[data-chart]'))!.boundingBox())!
  for (const [index, [part]] of PARTS.entries()) {
    const x = chart.x + 30 + 152 * (index % 6),
      y = chart.y + 60 + 250 * Math.floor(index / 6)
    await page.mouse.click(x, y, { count: 2 })
    await page.waitForSelector('[role="dialog"] input')
    await page.keyboard.type(part)
    await pause(100)
    await page.keyboard.press('Enter')
    await page.waitForFunction(() => !document.querySelector('[role="dialog"]'))
    actions += 2
  }
  await noteIds()
  for (const [from, to] of WIRES) actions += await drag(end(from), end(to))
  await page.mouse.click(chart.x + chart.width - 40, chart.y + chart.height - 40, { button: 'right' })
  await page.waitForSelector('[role="menu"]')
  await pressNamed(page, '[role="menuitem"]', 'Tidy', 'begins')
  actions += 2
  await pause(1500)
  await isBuilt()
  counts.push(`twelve modules and ${WIRES.length} cables by mouse: ${actions} actions`)
  expect(actions).toBeLessThanOrEqual(MOST_ACTIONS)
})

it('by keyboard', async () => {
  await emptyChart(page)
  let actions = 0
  for (const [part] of PARTS) {
    await page.keyboard.press('/')
    await page.waitForSelector('[role="dialog"] input')
    await page.keyboard.type(part)
    await pause(100)
    await page.keyboard.press('Enter')
    await page.waitForFunction(() => !document.querySelector('[role="dialog"]'))
    actions += 2
  }
  await noteIds()
  for (const [from, to] of WIRES) {
    await withCtrl(page, 'k')
    await page.waitForSelector('[aria-label="Connect by typing"] input')
    await page.keyboard.type(`${end(from)} > ${end(to)}`.replaceAll('.', ' '))
    await pause(100)
    await page.keyboard.press('Enter')
    await page.waitForFunction(() => !document.querySelector('[role="dialog"]'))
    actions += 2
  }
  await withCtrl(page, 'l')
  actions += 1
  await pause(1500)
  await isBuilt()
  counts.push(
    `twelve modules and ${WIRES.length} cables by keyboard: ${actions} actions, keys counted as clicks`,
  )
  expect(actions).toBeLessThanOrEqual(MOST_ACTIONS)
})
