/** Sequences in the dock: drawn by mouse, typed exactly, changed as a whole, and all of it by keys. */
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle, Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import { writeWav } from '../packages/core/src/formats/wav.ts'
import { pause } from './support/browser.ts'
import { exportedFrom, importPatch, type Point, pressCard, pressNamed, usePage } from './support/page.ts'
import { pickWord } from './support/words.ts'
import { typeInto, undo, voice } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

/** A sequence that plays a voice. */
const SEQUENCES = {
  ...voice('Keeper’s round', ['g', 'e']),
  modules: [
    ...voice('').modules,
    { id: 'clock', type: 'clock', x: 0, y: 300 },
    { id: 'steps', type: 'steps', x: 264, y: 500 },
  ],
  cables: [
    ...voice('', ['p', 'g']).cables,
    { id: 'c', from: 'clock.div1', to: 'steps.clock' },
    { id: 'n', from: 'steps.a', to: 'osc.pitch' },
    { id: 'g', from: 'steps.gate', to: 'env.gate' },
  ],
}

describe('a sequence in the dock', () => {
  type Row = readonly (number | boolean)[] | undefined
  const rowNow = async (name: string): Promise<Row> =>
    (await exportedFrom(page)).modules.find(({ id }) => id === 'steps')!.data?.[name] as Row
  /** A place in a row: the middle of a step, so high. */
  const cell = async (row: string, step: number, height = 0.5): Promise<Point> => {
    const element = await page.waitForSelector(`[data-step="${row} ${step}"]`)
    await element!.scrollIntoView()
    const { x, y, width, height: high } = (await element!.boundingBox())!
    return { x: x + width / 2, y: y + (1 - height) * high }
  }
  beforeEach(async () => {
    await importPatch(page, SEQUENCES)
    await pause(400)
    await pressCard(page, 'steps')
    await pressNamed(page, '[role="tab"]', 'Steps')
    await page.waitForSelector('[data-editor="rows"]')
    await pause(400)
  })

  it('is drawn with the mouse over several steps, in one step of the history, and given up by Escape', async () => {
    const from = await cell('a', 0, 0.5),
      to = await cell('a', 4, 31 / 48)
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(to.x, to.y, { steps: 3 })
    await page.mouse.up()
    await pause(100)
    const row = (await rowNow('a')) as readonly number[]
    expect(row).toHaveLength(5)
    // Whole semitones, up to a fifth, every step in between among them.
    expect(row.at(-1)).toBe(7)
    expect(row.every((value, n) => Number.isInteger(value) && value >= (row[n - 1] ?? -1))).toBe(true)
    await undo(page)
    expect((await rowNow('a')) ?? []).toEqual([])
    const [x, y] = [from.x, from.y - 20]
    await page.mouse.move(x, y)
    await page.mouse.down()
    await page.mouse.move(to.x, y, { steps: 3 })
    await page.keyboard.press('Escape')
    await page.mouse.up()
    expect((await rowNow('a')) ?? []).toEqual([])
  })

  it('takes exact fifths by ratio, other units, and refuses what is none', async () => {
    const typed = async (row: string, step: number, text: string): Promise<void> => {
      const { x, y } = await cell(row, step)
      await page.mouse.click(x, y, { count: 2 })
      await page.waitForSelector('.step-typing input')
      await page.keyboard.down('Control')
      await page.keyboard.press('a')
      await page.keyboard.up('Control')
      await page.keyboard.type(text)
      await page.keyboard.press('Enter')
      await pause(120)
    }
    await typed('a', 1, '3/2')
    await typed('a', 2, '30 st')
    await typed('chance', 3, '40 %')
    const row = (await rowNow('a')) as readonly number[]
    expect(row[1]).toBeCloseTo(12 * Math.log2(1.5), 9)
    expect(row[2]).toBe(30)
    expect((await rowNow('chance'))![3]).toBeCloseTo(0.4, 9)
    const { x, y } = await cell('a', 5)
    await page.mouse.click(x, y, { count: 2 })
    await page.waitForSelector('.step-typing input')
    await page.keyboard.type('loud')
    await page.keyboard.press('Enter')
    await page.waitForSelector('.step-typing [role="alert"]')
    await page.keyboard.press('Escape')
  })

  it('switches steps by a drag as the first one, has another length, and changes a row as a whole', async () => {
    const from = await cell('on', 1),
      to = await cell('on', 3)
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(to.x, to.y, { steps: 4 })
    await page.mouse.up()
    await pause(100)
    expect(await rowNow('on')).toEqual([true, false, false, false])
    await typeInto(page, 'Length', '5')
    expect((await exportedFrom(page)).modules.find(({ id }) => id === 'steps')!.params!['length']).toBe(5)
    await page.waitForSelector('[data-step="a 5"][data-off="true"]')
    const pick = async (label: string, word: string): Promise<void> => {
      await page.click(`[data-editor] button[aria-label^="${label}"]`)
      await page.waitForSelector('[role="menu"]')
      await pressNamed(page, '[role="menuitemradio"]', word)
      await page.waitForFunction(() => document.querySelector('[role="menu"]') === null)
      await pause(120)
    }
    await pick('Row', 'on')
    await pick('Change the row', 'rotate right')
    expect(await rowNow('on')).toEqual([true, true, false, false, false])
    await undo(page)
    expect(await rowNow('on')).toEqual([true, false, false, false])
  })

  it('has rows with lengths of their own, and shows the step that sounds', async () => {
    await typeInto(page, 'Length of row a', '5')
    await pickWord(page, 'Row: ', 'chance')
    await typeInto(page, 'Length of row chance', '3')
    expect(await rowNow('lengths')).toEqual([5, 0, 0, 3])
    // Beyond its own length a row has nothing to say.
    expect(await page.$eval('[data-step="a 5"]', (cell) => cell.getAttribute('data-off'))).toBe('true')
    expect(await page.$eval('[data-step="b 5"]', (cell) => cell.getAttribute('data-off'))).toBe('false')
    await typeInto(page, 'Length of row chance', 'all')
    expect(await rowNow('lengths')).toEqual([5, 0, 0, 0])
    const now = (): Promise<string | undefined> =>
      page.$eval('[data-step-now]', (band) => (band as HTMLElement).dataset['now'])
    await page.mouse.click(620, 120)
    await pressCard(page, 'steps')
    await page.waitForSelector('[data-step-now]')
    await page.waitForFunction(
      () => document.querySelector<HTMLElement>('[data-step-now]')?.dataset['now'] !== undefined,
    )
    const before = await now()
    await page.waitForFunction(
      (was) => document.querySelector<HTMLElement>('[data-step-now]')!.dataset['now'] !== was,
      {},
      before,
    )
  })

  it('goes by keys alone: along the steps, up and down, typed, to rest, from row to row', async () => {
    await page.focus('[data-step="a 0"]')
    const press = async (...keys: readonly string[]): Promise<void> => {
      for (const key of keys) {
        await page.keyboard.press(key as 'a')
        await pause(40)
      }
    }
    await press('ArrowRight', 'ArrowUp', 'ArrowUp', 'ArrowRight', 'PageUp', 'ArrowRight', 'Enter')
    await page.waitForSelector('.step-typing input')
    await page.keyboard.type('-5')
    await press('Enter')
    await press('ArrowLeft', 'ArrowLeft', 'Delete', 'Tab', 'Tab', 'Enter')
    expect(await rowNow('a')).toEqual([0, 0, 12, -5])
    expect(await rowNow('on')).toEqual([false])
  })
})

const OVERTONES = {
  ...voice('Overtones', ['s', 'p']),
  modules: [
    ...voice('').modules.filter(({ id }) => id !== 'osc'),
    { id: 'osc', type: 'partials', params: { count: 12, series: 'own' }, x: 264, y: 0 },
  ],
  cables: [
    ...voice('', ['s', 'p']).cables,
    { id: 'p', from: 'notes.pitch', to: 'osc.pitch' },
    { id: 's', from: 'osc.out', to: 'amp.in' },
  ],
}

it('partials are drawn as rows as well: levels over several, one switched off, a ratio between the harmonics', async () => {
  await importPatch(page, OVERTONES)
  await pause(400)
  await pressCard(page, 'osc')
  await pressNamed(page, '[role="tab"]', 'Partials')
  const boxOf = async (row: string, entry: number) => {
    const cell = await page.waitForSelector(`[data-step="${row} ${entry}"]`)
    await cell!.scrollIntoView()
    return (await cell!.boundingBox())!
  }
  const first = await boxOf('levels', 0),
    last = await boxOf('levels', 11)
  await page.mouse.move(first.x + 8, first.y + 2)
  await page.mouse.down()
  await page.mouse.move(last.x + 8, last.y + last.height - 2, { steps: 6 })
  await page.mouse.up()
  const on = await boxOf('on', 2)
  await page.mouse.click(on.x + 8, on.y + on.height / 2)
  await page.focus('[data-step="ratios 3"]')
  await page.keyboard.press('Enter')
  await page.waitForSelector('.step-typing input')
  await page.keyboard.type('4.25')
  await page.keyboard.press('Enter')
  await pause(120)
  const { data = {} } = (await exportedFrom(page)).modules.find(({ id }) => id === 'osc')!,
    levels = data['levels'] as readonly number[]
  expect(levels).toHaveLength(12)
  expect(levels.every((level, n) => level <= (levels[n - 1] ?? 1))).toBe(true)
  expect(levels[0]).toBeGreaterThan(0.9)
  expect(levels[11]).toBeLessThan(0.15)
  expect(data['on']).toEqual([true, true, false])
  expect(data['ratios']).toEqual([1, 2, 3, 4.25])
})

it('partials are taken from the spectrum of a file, and stand in the inspector while the dock shows something else', async () => {
  const patch = {
    ...voice('Overtone lantern 2', ['w']),
    modules: [...voice('').modules, { id: 'bank', type: 'partials', x: 264, y: 500 }],
    cables: [...voice('', ['w']).cables, { id: 'b', from: 'bank.out', to: 'out.in' }],
  }
  await importPatch(page, patch)
  await pause(400)
  await pressCard(page, 'bank')
  await pressNamed(page, '[role="tab"]', 'Probe')
  const input = (await page.waitForSelector(
    '.inspector-editor input[aria-label="A WAV file whose partials are taken"]',
  )) as ElementHandle<HTMLInputElement>
  const tone = Float32Array.from(
    { length: 24000 },
    (_, i) => 0.5 * Math.sin((2 * Math.PI * i) / 200) + 0.125 * Math.sin((2 * Math.PI * 3 * i) / 200),
  )
  const file = join(mkdtempSync(join(tmpdir(), 'ypsilon-partials-')), 'lantern.wav')
  writeFileSync(file, writeWav({ rate: 48000, channels: [tone] }, '16'))
  await input.uploadFile(file)
  const bank = async () => (await exportedFrom(page)).modules.find(({ id }) => id === 'bank')!
  await expect.poll(async () => (await bank()).data?.['levels'], { timeout: 5000 }).toBeDefined()
  const { data, params } = await bank()
  expect((data!['levels'] as number[]).slice(0, 4).map((level) => Math.round(100 * level))).toEqual([
    100, 0, 25, 0,
  ])
  expect(params!['tilt']).toBe(0)
  // In the dock it is not in the inspector as well.
  await pressNamed(page, '[role="tab"]', 'Partials')
  await page.waitForFunction(() => document.querySelectorAll('[data-editor="rows"]').length === 1)
  expect(await page.$('.inspector-editor')).toBeNull()
})
