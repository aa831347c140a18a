/** What is drawn in the dock: curves by mouse and by key, every gesture one step. */
import type { Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import {
  dragOn,
  exportedFrom,
  importPatch,
  isUntouched,
  type Point,
  pressCard,
  pressNamed,
  usePage,
} from './support/page.ts'
import { typeInto, undo, voice } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

/** A voice whose level is drawn. */
const DRAWN = {
  ...voice('Drawn lamp', ['g', 'e']),
  modules: [
    ...voice('').modules.filter(({ id }) => id !== 'env'),
    { id: 'con', type: 'contour', params: { length: 2, mode: 'sustain' }, x: 264, y: 300 },
    { id: 'crv', type: 'curve', x: 0, y: 300 },
  ],
  cables: [
    ...voice('', ['g', 'e']).cables,
    { id: 'g', from: 'notes.gate', to: 'con.gate' },
    { id: 'e', from: 'con.out', to: 'amp.cv' },
  ],
}
/** A voice that plays the notes of a scale. */
const IN_KEY = {
  ...voice('In key', ['p']),
  modules: [...voice('').modules, { id: 'q', type: 'quantize', x: 0, y: 300 }],
  cables: [
    ...voice('', ['p']).cables,
    { id: 'p', from: 'notes.pitch', to: 'q.in' },
    { id: 'q', from: 'q.out', to: 'osc.pitch' },
  ],
}
interface Timed {
  readonly t: number
  readonly v: number
  readonly curve?: number
  readonly sustain?: boolean
}
const pointsNow = async (id = 'con'): Promise<readonly Timed[]> =>
  (await exportedFrom(page)).modules.find((module) => module.id === id)!.data?.['points'] as readonly Timed[]

const openEditor = async (id: string, label: string): Promise<void> => {
  await pressCard(page, id)
  await pressNamed(page, '[role="tab"]', label)
  await page.waitForSelector('[data-editor="curve"]')
  // The dock grows for it.
  await pause(400)
}
/** A place in the drawing, by shares from the left and the foot. */
const at = async (x: number, y: number): Promise<Point> => {
  const { x: left, y: top, width, height } = (await (await page.$('.curve-field'))!.boundingBox())!
  return { x: left + x * width, y: top + (1 - y) * height }
}
beforeEach(async () => {
  await importPatch(page, DRAWN)
  await pause(400)
})

describe('a curve in the dock', () => {
  it('is there for the module that has one, in a dock that grows and is as it was without', async () => {
    const height = async (): Promise<number> =>
      (await (await page.$('section[aria-label="Dock"]'))!.boundingBox())!.height
    const usual = await height()
    await openEditor('con', 'Contour')
    expect(await height()).toBeGreaterThan(usual + 60)
    await pressCard(page, 'amp')
    await page.waitForFunction(() => document.querySelector('[data-editor]') === null)
    await pause(400)
    expect(Math.abs((await height()) - usual)).toBeLessThan(3)
    await pressCard(page, 'con')
    await page.waitForSelector('[data-editor="curve"]')
    await pressNamed(page, '[role="tab"]', 'Probe')
  })

  it('takes points, drags and bends by mouse, each one step, and a drag is given up by Escape', async () => {
    await openEditor('con', 'Contour')
    const spot = await at(0.3, 0.25)
    await page.mouse.click(spot.x, spot.y, { count: 2 })
    await pause(150)
    const more = await pointsNow()
    expect(more).toHaveLength(5)
    expect(more[2]!.t).toBeCloseTo(0.3, 2)
    expect(more[2]!.v).toBeCloseTo(-0.5, 1)
    await dragOn(page, await at(more[2]!.t, (more[2]!.v + 1) / 2), await at(0.45, 0.9))
    const moved = await pointsNow()
    expect(moved[2]!.t).toBeCloseTo(0.45, 2)
    expect(moved[2]!.v).toBeCloseTo(0.8, 1)
    // Not beyond its neighbour.
    await dragOn(page, await at(moved[2]!.t, (moved[2]!.v + 1) / 2), await at(0.9, 0.5))
    expect((await pointsNow())[2]!.t).toBeCloseTo(0.6, 6)
    await undo(page)
    // The line of the last stretch is pulled up: it falls late.
    const straight = moved[3]!.curve ?? 0
    const half = await page.evaluate(() => {
      const line = document.querySelector<SVGPathElement>('.curve-line')!
      const [, y] = line
        .getAttribute('d')!
        .slice(1)
        .split('L')
        .map((pair) => pair.split(' ').map(Number))
        .find(([x]) => x! >= 80)!
      return 1 - y! / 100
    })
    const from = await at(0.8, half)
    await dragOn(page, from, { x: from.x, y: from.y - 40 })
    expect((await pointsNow())[3]!.curve ?? 0).toBeLessThan(straight - 0.1)
    await undo(page)
    expect(await pointsNow()).toEqual(moved)
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(from.x, from.y - 30, { steps: 4 })
    await page.keyboard.press('Escape')
    await page.mouse.up()
    expect(await pointsNow()).toEqual(moved)
    await undo(page)
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
  })

  it('takes exact values with their units, refuses what is none, and says where it waits', async () => {
    await openEditor('con', 'Contour')
    await page.focus('[data-point="2"]')
    await typeInto(page, 'At', '700 ms')
    await typeInto(page, 'Value', '0.25')
    await typeInto(page, 'Bend', '-0.5')
    const points = await pointsNow()
    expect(points[2]!.t).toBeCloseTo(0.35, 9)
    expect(points[2]).toMatchObject({ v: 0.25, curve: -0.5 })
    await page.click('[data-editor] input[aria-label="At"]', { count: 3 })
    await page.keyboard.type('5 s')
    await page.keyboard.press('Enter')
    await page.waitForSelector('[data-editor] [role="alert"]')
    await page.keyboard.press('Escape')
    expect((await pointsNow())[2]!.t).toBeCloseTo(0.35, 9)
    await pressNamed(page, '[data-editor] button', 'Waits here')
    expect((await pointsNow()).map(({ sustain }) => sustain === true)).toEqual([false, false, true, false])
  })

  it('is drawn by keys alone: from point to point, moved, bent, added, taken away', async () => {
    await openEditor('con', 'Contour')
    await page.focus('[data-point="1"]')
    const press = async (...keys: readonly string[]): Promise<void> => {
      for (const key of keys) {
        await page.keyboard.press(key as 'a')
        await pause(40)
      }
    }
    await press('ArrowRight', 'ArrowRight', 'ArrowDown')
    const moved = (await pointsNow())[1]!
    expect(moved.t).toBeCloseTo(0.12, 6)
    expect(moved.v).toBeCloseTo(0.98, 6)
    // Looking at the file took the focus away.
    await page.focus('[data-point="1"]')
    await page.keyboard.down('Alt')
    await press('ArrowUp')
    await page.keyboard.up('Alt')
    expect((await pointsNow())[1]!.curve).toBeCloseTo(0.45, 6)
    await page.focus('[data-point="1"]')
    await press('Insert')
    expect(await pointsNow()).toHaveLength(5)
    await page.focus('[data-point="2"]')
    await press('Delete')
    expect(await pointsNow()).toHaveLength(4)
    // An end stays.
    await page.focus('[data-point="0"]')
    await press('Delete')
    expect(await pointsNow()).toHaveLength(4)
  })

  it('snaps to its grid, begins from shapes, and draws transfers from corner to corner', async () => {
    await openEditor('crv', 'Curve')
    const choose = async (label: string, word: string): Promise<void> => {
      await page.click(`[data-editor] button[aria-label^="${label}"]`)
      await page.waitForSelector('[role="menu"]')
      await pressNamed(page, '[role="menuitemradio"]', word)
      await page.waitForFunction(() => document.querySelector('[role="menu"]') === null)
      await pause(120)
    }
    await choose('Begin from a shape', 'bend in the middle')
    type Plain = { x: number; y: number }
    const plain = async (): Promise<readonly Plain[]> =>
      (await pointsNow('crv')) as unknown as readonly Plain[]
    expect((await plain()).map(({ x }) => x)).toEqual([-1, 0, 1])
    await choose('Snap across', '8')
    await choose('Snap up', '4')
    await dragOn(page, await at(0.5, ((await plain())[1]!.y + 1) / 2), await at(0.64, 0.28))
    expect((await plain())[1]).toMatchObject({ x: 0.25, y: -0.5 })
    await choose('Begin from a shape', 'rise')
    expect(await plain()).toEqual([
      { x: -1, y: -1 },
      { x: 1, y: 1 },
    ])
  })
})

describe('a scale in the dock', () => {
  const scaleNow = async (): Promise<{ root: unknown; notes: number[] }> => {
    const { params = {}, data = {} } = (await exportedFrom(page)).modules.find(({ id }) => id === 'q')!
    const switches = (data['scale'] ?? []) as boolean[]
    return { root: params['root'] ?? 0, notes: switches.flatMap((is, n) => (is ? [n] : [])) }
  }
  const pick = async (label: string, word: string): Promise<void> => {
    await page.click(`[data-editor] button[aria-label^="${label}"]`)
    await page.waitForSelector('[role="menu"]')
    await pressNamed(page, '[role="menuitemradio"]', word)
    await page.waitForFunction(() => document.querySelector('[role="menu"]') === null)
    await pause(120)
  }
  it('is chosen by name, changed key by key, counted from another root, and shows the note that sounds', async () => {
    await importPatch(page, IN_KEY)
    await pause(400)
    await pressCard(page, 'q')
    await pressNamed(page, '[role="tab"]', 'Quantiser')
    await pick('Scale', 'major')
    expect(await scaleNow()).toEqual({ root: 0, notes: [0, 2, 4, 5, 7, 9, 11] })
    await pick('Same notes from', 'D')
    expect(await scaleNow()).toEqual({ root: 2, notes: [0, 2, 3, 5, 7, 9, 10] })
    await page.waitForSelector('[data-editor] button[aria-label="Scale: dorian"]')
    // F sharp for F, by its keys: from the root that is D, F is three semitones up.
    await page.click('.scale-key[data-note="5"]')
    // A press by mouse leaves the keyboard to the chart.
    await page.focus('.scale-key[data-note="5"]')
    await page.keyboard.press('ArrowRight')
    await page.keyboard.press('Enter')
    await pause(120)
    expect((await scaleNow()).notes).toEqual([0, 2, 4, 5, 7, 9, 10])
    await page.keyboard.down('a')
    await page.waitForSelector('.scale-key[data-note="0"][data-sounding]')
    await page.keyboard.up('a')
    await undo(page)
    await undo(page)
    await undo(page)
    expect(await scaleNow()).toEqual({ root: 0, notes: [0, 2, 4, 5, 7, 9, 11] })
  })
})
