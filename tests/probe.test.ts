/** The probe: signals are pinned, measured, held against each other and saved, as the core measures them. */
import { analyze } from '../packages/core/src/analysis/analyze.ts'
import { writeWav } from '../packages/core/src/formats/wav.ts'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle, Page } from 'puppeteer-core'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { pause } from './support/browser.ts'
import {
  button,
  centreOf,
  downloadBytes,
  importPatch,
  pressCard,
  pressNamed,
  record,
  usePage,
} from './support/page.ts'
import { pickWord } from './support/words.ts'
import { drawnIn } from './support/canvases.ts'
import { CARRIER, closeSlot, MODULATOR, PATCH, TONE } from './support/probe-bench.ts'
import { withCtrlAlt } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

const shows = (slot: string, word: string): Promise<void> => pickWord(page, `What slot ${slot} shows`, word)
/** Opens a slot's sheet, does something in it, and closes it. */
const within = async (slot: string, act: () => Promise<void>): Promise<void> => {
  await page.click(`button[aria-label="More of slot ${slot}"]`)
  await page.waitForSelector(`[aria-label="More of slot ${slot}"][role="dialog"]`)
  await act()
  await page.keyboard.press('Escape')
  await page.waitForFunction(() => !document.querySelector('[role="dialog"]'))
}
const typed = async (label: string, text: string): Promise<void> => {
  await page.click(`input[aria-label="${label}"]`, { count: 3 })
  await page.keyboard.type(text)
  await page.keyboard.press('Enter')
}
/** A reading of a slot, as it is written there. */
const reading = async (slot: string, name: string): Promise<string> => {
  const [names, values] = await page.$$eval(`[data-readings="${slot}"] pre`, (all) =>
    all.map((each) => (each.textContent ?? '').split('\n')),
  )
  return values![names!.indexOf(name)] ?? ''
}
const readingLike = (slot: string, name: string, like: RegExp): Promise<unknown> =>
  expect.poll(() => reading(slot, name), { timeout: 8000 }).toMatch(like)

type Table = readonly (readonly string[])[]
/** What a slot saves as numbers. */
const csvOf = async (slot: string): Promise<string> => {
  let text = ''
  await within(slot, async () => {
    text = (await downloadBytes(page, () => pressNamed(page, '[role="dialog"] button', 'CSV'))).toString()
  })
  return text
}
/** The tables of that, by their first word. */
const saved = async (slot: string): Promise<ReadonlyMap<string, Table>> => {
  const text = await csvOf(slot)
  return new Map(
    text.split('\n\n').map((table): [string, Table] => {
      const rows = table
        .trim()
        .split('\n')
        .map((row) => row.split(','))
      return [rows[0]![0]!, rows.slice(1)]
    }),
  )
}
const pinOutput = async (port: string): Promise<void> => {
  const { x, y } = await centreOf(page, `[data-port="${port}"]`)
  await page.keyboard.down('Shift')
  await page.mouse.click(x, y)
  await page.keyboard.up('Shift')
}
const slotName = (slot: string): Promise<string> =>
  page.$eval(`[data-slot="${slot}"]`, (element) => element.getAttribute('aria-label') ?? '')

beforeAll(async () => {
  await importPatch(page, PATCH)
  await pressNamed(page, '[role="tab"]', 'Probe')
})
beforeEach(async () => {
  await page.waitForSelector('[data-slot="A"]')
})

describe('a slot', () => {
  it('looks at the output until a signal is pinned or dragged to it, at a cable, and at a value', async () => {
    expect(await slotName('A')).toBe('Slot A: Scope of Output')
    await pinOutput('low.low')
    expect(await slotName('A')).toBe('Slot A: Scope of Fog low')
    // Dragged onto a slot, whichever is free.
    const from = await centreOf(page, '[data-port="car.sine"]'),
      to = await centreOf(page, '[data-slot="B"] canvas')
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(from.x + 30, from.y + 40, { steps: 4 })
    await page.mouse.move(to.x, to.y, { steps: 8 })
    await page.mouse.up()
    expect(await slotName('B')).toBe('Slot B: Spectrum of Lamp sine')
    // What moves a value, by the row's menu.
    const row = await centreOf(page, '[data-module="low"] [data-param="cutoff"]')
    await page.mouse.click(row.x, row.y, { button: 'right' })
    await page.waitForSelector('[role="menuitem"]')
    await pressNamed(page, '[role="menuitem"]', 'Look at it in the probe')
    expect(await slotName('C')).toBe('Slot C: Tuner of Fog cutoff')
    await closeSlot(page, 'C')
  })

  it('tells the pitch and the loudness that are measured of what is recorded', async () => {
    await pressNamed(page, '.probe-tools button', 'Slot C')
    await pressNamed(page, '.probe-tools button', 'Slot D')
    await shows('C', 'Level')
    await shows('D', 'Tuner')
    await pause(2500)
    const sound = await record(page, () => pause(2500))
    const { lufs, pitchHz } = analyze({ rate: 48000, channels: sound.map((x) => x.subarray(9600, 110400)) })
    const [integrated, pitch] = [await reading('C', 'integrated'), await reading('D', 'pitch')].map((words) =>
      Number.parseFloat(words.replace('−', '-')),
    )
    expect(Math.abs(integrated! - lufs!)).toBeLessThan(0.15)
    expect(Math.abs(1200 * Math.log2(pitch! / pitchHz!))).toBeLessThan(1)
    await closeSlot(page, 'D')
    await closeSlot(page, 'C')
  })

  it('marks the sidebands of a carrier: sums, differences, and those that come back from 0 Hz', async () => {
    await within('B', async () => {
      // What is no frequency is refused beside the field, and put right there.
      await typed('Carrier', 'nonsense')
      await page.waitForFunction(() =>
        /auto/.test(document.querySelector('[role="alert"]')?.textContent ?? ''),
      )
      await typed('Carrier', String(CARRIER))
      await typed('Modulator', `${MODULATOR} Hz`)
    })
    await readingLike('B', 'carrier', /700/)
    await pause(400)
    const marks = (await saved('B')).get('mark')!
    const kinds = new Map(marks.map(([kind, hz]) => [Math.round(Number(hz)), kind]))
    expect([700, 910, 490, 280, 140].map((hz) => kinds.get(hz))).toEqual([
      'carrier',
      'sum',
      'difference',
      'difference',
      'folded',
    ])
    // J₁(3) = 0.339, J₀(3) = −0.260: the first sidebands are louder than the carrier by 2.3 dB.
    const level = (hz: number): number => Number(marks.find((row) => Math.round(Number(row[1])) === hz)![2])
    expect(level(910) - level(700)).toBeCloseTo(2.3, 0)
  })

  it('stands still while it is frozen, and holds what it heard as a curve behind', async () => {
    const asScope = await drawnIn(page, '[data-slot="A"] canvas')
    await shows('A', 'Spectrum')
    await expect.poll(() => drawnIn(page, '[data-slot="A"] canvas')).not.toBe(asScope)
    await within('A', () => pressNamed(page, '[role="dialog"] button', 'What is heard now'))
    await page.waitForSelector('[data-slot="A"] .probe-legend li')
    await page.click('button[aria-label="Freeze slot A"]')
    const before = (await saved('A')).get('at (Hz)')
    await pause(300)
    expect((await saved('A')).get('at (Hz)')).toEqual(before)
    // A snapshot of the patch and a file are laid over it as well.
    await within('A', async () => {
      await pickWord(page, 'A snapshot over slot A', 'Thick fog')
      await page.waitForFunction(
        () => document.querySelectorAll('[data-slot="A"] .probe-legend li').length === 2,
      )
    })
    const folder = mkdtempSync(join(tmpdir(), 'ypsilon-over-')),
      file = join(folder, 'beacon.wav')
    await within('A', async () => {
      const input = (await page.$(
        'input[aria-label="A file over slot A"]',
      )) as ElementHandle<HTMLInputElement>
      writeFileSync(file, writeWav({ rate: 48000, channels: [TONE] }, '16'))
      await input.uploadFile(file)
      await page.waitForFunction(
        () => document.querySelectorAll('[data-slot="A"] .probe-legend li').length === 3,
      )
    })
    expect(
      await page.$$eval('[data-slot="A"] .probe-legend li', (all) => all.map((li) => li.textContent)),
    ).toEqual(['held 1', 'Thick fog', 'beacon.wav'])
    await page.click('button[aria-label="Let slot A go on"]')
    await within('A', async () => {
      for (let n = 0; n < 3; n += 1) await pressNamed(page, '[role="dialog"] button', 'Take off')
    })
    expect(await page.$('[data-slot="A"] .probe-legend')).toBeNull()
  })

  it('measures a path: what the filter does to a click and to a sweep', async () => {
    await shows('A', 'Magnitude')
    await readingLike('A', 'highest', /dB/)
    const levels = async (): Promise<readonly number[]> => {
      const rows = (await saved('A')).get('at (Hz)')!
      return [100, 4000, 8000].map((hz) =>
        Number(
          rows.reduce((best, row) =>
            Math.abs(Number(row[0]) - hz) < Math.abs(Number(best[0]) - hz) ? row : best,
          )[1],
        ),
      )
    }
    const byClick = await levels()
    expect(byClick[0]).toBeCloseTo(0, 0)
    expect(byClick[1]! - byClick[2]!).toBeGreaterThan(11)
    await within('A', () => pickWord(page, 'Excitation of slot A', 'a sweep'))
    await pause(600)
    await page.waitForFunction(() => !document.querySelector('[data-slot="A"] .probe-said'))
    const bySweep = await levels()
    bySweep.forEach((level, n) => {
      expect(Math.abs(level - byClick[n]!)).toBeLessThan(0.5)
    })
    // What was measured is shown in another way at once, and of two paths the difference is drawn.
    for (const [kind, headed] of [
      ['Phase', 'phase (°)'],
      ['Group delay', 'group delay (s)'],
      ['Impulse', 'at (s),left'],
    ] as const) {
      await shows('A', kind)
      await pause(400)
      await expect.poll(() => csvOf('A'), { timeout: 8000 }).toContain(headed)
    }
    await shows('A', 'Magnitude')
    await button(page, 'Compare')
    await page.waitForSelector('[data-compare="AB"]')
    await expect
      .poll(() => page.$eval('.probe-numbers tbody', (body) => body.textContent ?? ''), { timeout: 8000 })
      .toMatch(/at most.*dB/)
    await button(page, 'Compare')
  })

  it('has its sheet on a patch without snapshots too', async () => {
    await importPatch(page, { ...PATCH, name: 'Marsh Beacon bare', snapshots: undefined } as never)
    await within('A', () => page.waitForSelector('[role="dialog"] button').then(() => undefined))
    await importPatch(page, PATCH)
  })

  it('says that what it looked at is gone, and comes back with undo', async () => {
    await pinOutput('mod.sine')
    await pressCard(page, 'mod')
    await page.keyboard.press('Delete')
    await page.waitForFunction(() =>
      /is gone/.test(document.querySelector('[data-probe]')!.textContent ?? ''),
    )
    await page.keyboard.down('Control')
    await page.keyboard.press('z')
    await page.keyboard.up('Control')
    await page.waitForFunction(
      () => !/is gone/.test(document.querySelector('[data-probe]')!.textContent ?? ''),
    )
  })
})

describe('comparing', () => {
  it('is before and after the selected module in one gesture, with the difference and its numbers', async () => {
    await pressCard(page, 'low')
    await withCtrlAlt(page, 'b')
    await page.waitForSelector('[data-compare="AB"]')
    expect(await page.$eval('[data-compare]', (element) => element.getAttribute('aria-label'))).toBe(
      'Lamp sine → Fog in against Fog low',
    )
    await pickWord(page, 'What is compared', 'Level')
    // The cable brings half of a sine: −9 dB; the filter takes some of it.
    const cells = async (): Promise<string[]> =>
      page.$$eval('.probe-numbers tbody tr', (rows) =>
        [...(rows.find((row) => row.cells[0]?.textContent === 'mean')?.cells ?? [])].map(
          (cell) => cell.textContent ?? '',
        ),
      )
    await expect.poll(async () => (await cells())[1], { timeout: 8000 }).toMatch(/^−9(\.\d+)? dB/)
    const [, , , more] = await cells()
    expect(more).toMatch(/^−\d/)
    await pickWord(page, 'What is compared', 'Spectrum')
    const csv = (await downloadBytes(page, () => pressNamed(page, '[data-compare] button', 'CSV'))).toString()
    expect(csv).toContain('difference')
    const png = await downloadBytes(page, () => pressNamed(page, '[data-compare] button', 'PNG'))
    expect(png.subarray(1, 4).toString()).toBe('PNG')
    await page.click('button[aria-label="End comparing"]')
    await page.waitForSelector('[data-slot="B"]')
  })

  it('is of the first two slots by a button, and ends by it', async () => {
    await button(page, 'Compare')
    await page.waitForSelector('[data-compare="AB"]')
    await button(page, 'Compare')
    await page.waitForSelector('[data-slot="A"]')
  })
})
