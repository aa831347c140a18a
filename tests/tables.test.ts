/** Tables of waves in the dock: drawn as partials and as waves, computed, sorted, made smooth, read from a file. */
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import type { ElementHandle, Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import {
  brightnessOf,
  FRAME_SIZE,
  type Frames,
  framesOf,
  partialsOf,
} from '../packages/core/src/describe/waves.ts'
import { readWav, writeWav } from '../packages/core/src/formats/wav.ts'
import { pause } from './support/browser.ts'
import {
  choose,
  downloadBytes,
  exportedFrom,
  importPatch,
  pressCard,
  pressNamed,
  usePage,
} from './support/page.ts'
import { drawnIn } from './support/canvases.ts'
import { pickWord } from './support/words.ts'
import { undo, voice } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

const TABLE = {
  ...voice('Overtone mist', ['w']),
  modules: [...voice('').modules, { id: 'mist', type: 'wavetable', x: 264, y: 500 }],
  cables: [...voice('', ['w']).cables, { id: 't', from: 'mist.a', to: 'out.in' }],
}

const tableNow = async (): Promise<string> =>
  String((await exportedFrom(page)).modules.find(({ id }) => id === 'mist')!.data?.['table'] ?? 'sweep')
/** The frames as the patch brings them along. */
const framesNow = async (): Promise<Frames> => {
  const name = await tableNow()
  const files = unzipSync(new Uint8Array(await downloadBytes(page, () => choose(page, 'Export'))))
  const wav = readWav(files[`assets/${name}.wav`]!)
  if (!wav.ok) throw new Error(wav.fault.message)
  return framesOf(wav.sound.channels[0]!, FRAME_SIZE)
}
const frameCount = (): Promise<string> =>
  page.$eval('input[aria-label="of"]', (input) => (input as HTMLInputElement).value)
/** The module's picture in the inspector, as it is drawn. */
const pictureNow = (): Promise<string> => drawnIn(page, '[data-testid="module-picture"] canvas')
const change = async (word: string): Promise<void> => {
  const before = await tableNow()
  await pickWord(page, 'Change the table', word)
  await expect.poll(tableNow, { timeout: 5000 }).not.toBe(before)
}
const typed = async (label: string, text: string): Promise<void> => {
  await page.click(`input[aria-label="${label}"]`, { count: 3 })
  await page.keyboard.type(text)
  await page.keyboard.press('Enter')
  await pause(250)
}

beforeEach(async () => {
  await importPatch(page, TABLE)
  await pause(400)
  await pressCard(page, 'mist')
  await pressNamed(page, '[role="tab"]', 'Wavetable')
  await page.waitForSelector('[data-table-partials]')
  await pause(300)
})

describe('a table', () => {
  it('is computed from the partials that are drawn, in one step', async () => {
    const bars = (await (await page.$('[data-table-partials]'))!.boundingBox())!
    // The second partial at −20 dB, the fourth at −40: bars go over 60 dB.
    const place = (partial: number, db: number) =>
      [bars.x + (bars.width * (partial - 0.5)) / 64, bars.y + (-db / 60) * bars.height] as const
    await page.mouse.click(...place(2, -20))
    await expect.poll(tableNow, { timeout: 5000 }).toMatch(/^table-/)
    await page.mouse.click(...place(4, -40))
    await pause(400)
    const [first] = await framesNow()
    const partials = partialsOf(first!, 6).map((each) => Math.round(200 * Math.log10(each || 1e-9)) / 10)
    expect(partials[0]).toBeCloseTo(0, 0)
    expect(Math.abs(partials[1]! + 20)).toBeLessThan(1.5)
    expect(Math.abs(partials[3]! + 40)).toBeLessThan(1.5)
    expect(partials[2]).toBeLessThan(-80)
    await undo(page)
    await undo(page)
    expect(await tableNow()).toBe('sweep')
    // What nobody needs any more is not in the patch.
    expect(JSON.stringify(await exportedFrom(page))).not.toContain('table-')
  })

  it('is drawn as a wave, and given up by Escape', async () => {
    const wave = (await (await page.$('[data-table-wave]'))!.boundingBox())!
    const at = (x: number, y: number) =>
      [wave.x + x * wave.width, wave.y + (0.5 - 0.48 * y) * wave.height] as const
    await page.mouse.move(...at(0.1, 0.5))
    await page.mouse.down()
    await page.mouse.move(...at(0.4, 0.5), { steps: 3 })
    await page.keyboard.press('Escape')
    await page.mouse.up()
    expect(await tableNow()).toBe('sweep')
    const before = await pictureNow()
    await page.mouse.move(...at(0.1, 0.5))
    await page.mouse.down()
    await page.mouse.move(...at(0.4, 0.5), { steps: 3 })
    await page.mouse.up()
    await expect.poll(tableNow, { timeout: 5000 }).toMatch(/^table-/)
    // The inspector shows what was drawn, not the table that was there before.
    await expect.poll(pictureNow, { timeout: 5000 }).not.toBe(before)
    const [first] = await framesNow()
    for (const share of [0.12, 0.25, 0.38]) expect(first![Math.round(share * FRAME_SIZE)]).toBeCloseTo(0.5, 1)
  })

  it('is computed from a formula, whose faults are said in place', async () => {
    await pressNamed(page, '.editor-head button', 'Compute …')
    const text = 'textarea[aria-label="Formula of the table"]'
    await page.click(text, { count: 3 })
    await page.keyboard.type('x = sin(tau * a')
    await page.waitForFunction(() =>
      /column/.test(document.querySelector('[role="alert"]')?.textContent ?? ''),
    )
    await page.keyboard.type(') * (1 - b) + b * sin(2 * tau * a)')
    await page.click('input[aria-label="Frames of the table"]', { count: 3 })
    await page.keyboard.type('5')
    await pressNamed(page, '[role="dialog"] button', 'Compute')
    await expect.poll(tableNow, { timeout: 8000 }).toMatch(/^table-/)
    await expect.poll(frameCount, { timeout: 5000 }).toBe('5')
    const frames = await framesNow()
    expect(partialsOf(frames[0]!, 2).map((each) => Math.round(100 * each))).toEqual([100, 0])
    expect(partialsOf(frames[4]!, 2).map((each) => Math.round(100 * each))).toEqual([0, 100])
    expect(partialsOf(frames[2]!, 2).map((each) => Math.round(100 * each))).toEqual([50, 50])
  })

  it('comes from a file, is sorted, made smooth, and as long as wanted', async () => {
    const sine = (partial: number): Float32Array =>
      Float32Array.from({ length: FRAME_SIZE }, (_, i) => Math.sin((2 * Math.PI * partial * i) / FRAME_SIZE))
    const samples = new Float32Array(3 * FRAME_SIZE)
    ;[9, 1, 4].forEach((partial, n) => {
      samples.set(sine(partial), n * FRAME_SIZE)
    })
    const file = join(mkdtempSync(join(tmpdir(), 'ypsilon-table-')), 'mist.wav')
    writeFileSync(file, writeWav({ rate: 48000, channels: [samples] }, '32f'))
    const input = (await page.$(
      'input[aria-label="A WAV file for the table"]',
    )) as ElementHandle<HTMLInputElement>
    await input.uploadFile(file)
    await expect.poll(frameCount, { timeout: 5000 }).toBe('3')
    await change('sort, the dark ones first')
    expect((await framesNow()).map((frame) => Math.round(brightnessOf(frame)))).toEqual([1, 4, 9])
    await typed('of', '9')
    expect(await frameCount()).toBe('9')
    const frames = await framesNow()
    expect([0, 4, 8].map((n) => Math.round(brightnessOf(frames[n]!)))).toEqual([1, 4, 9])
    await change('smooth from end to end')
    const smooth = await framesNow()
    // Halfway there is half of either end, and nothing of what stood between.
    const partials = partialsOf(smooth[4]!, 9)
    expect([partials[0], partials[3], partials[8]].map((each) => Math.round(20 * each!) / 20)).toEqual([
      0.5, 0, 0.5,
    ])
  })
})
