/** Moves of the moment on the page: recalled by keys, moved by MIDI, kept, taken back, undone, silenced. Heard, not read. */
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle, Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { hzBetween, largest } from '../packages/core/src/testing/measure.ts'
import { type Opened, openPage, pause, serve, type Served } from './support/browser.ts'
import { choose, downloadBytes, pressNamed, record } from './support/page.ts'

const folder = mkdtempSync(join(tmpdir(), 'ypsilon-moves-'))

/** A sine of 300 Hz that a macro, a control and two snapshots move. */
const tone = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'Harbour tone',
  modules: [
    { id: 'osc', type: 'oscillator', params: { tracking: false, frequency: 300 } },
    { id: 'filter', type: 'filter', params: { cutoff: 2000 } },
    { id: 'amp', type: 'amplifier', params: { level: -6 } },
    { id: 'out', type: 'output', params: { level: -12 } },
  ],
  cables: [
    { id: 'a', from: 'osc.sine', to: 'filter.in' },
    { id: 'b', from: 'filter.low', to: 'amp.in' },
    { id: 'c', from: 'amp.out', to: 'out.in' },
  ],
  macros: [
    { id: 'm', name: 'Height', value: 0.5, targets: [{ param: 'osc.frequency', from: 150, to: 600 }] },
  ],
  controllers: [{ target: 'macro:m', controller: 74 }],
  snapshots: [
    { id: 'high', name: 'High', key: '1', params: { 'macro:m': 1, 'filter.slope': '24' } },
    { id: 'low', name: 'Low', key: '2', params: { 'macro:m': 0 }, bypass: { amp: true } },
  ],
}

let server: Served, opened: Opened, page: Page
beforeAll(async () => {
  server = await serve()
  opened = await openPage(server.address)
  page = opened.page
  const path = join(folder, 'tone.ypatch.json')
  writeFileSync(path, JSON.stringify(tone))
  await page.mouse.click(640, 300)
  await ((await page.$('[data-import]')) as ElementHandle<HTMLInputElement>).uploadFile(path)
  await page.waitForSelector('[data-module="amp"]')
  await page.mouse.click(700, 560)
})
afterAll(async () => {
  expect(opened.problems).toEqual([])
  await opened.close()
  server.stop()
})

/** Frequency and level of what is heard over the last half of a stretch of time. */
const heard = async (act: () => Promise<void>): Promise<{ hz: number; level: number }> => {
  const [sound] = await record(page, async () => {
    await act()
    await pause(700)
  })
  const end = sound!.length / 48000
  return { hz: hzBetween(sound!, end - 0.4, end - 0.05), level: largest(sound!, sound!.length - 16000) }
}
const press =
  (key: string, ...held: string[]) =>
  async (): Promise<void> => {
    for (const modifier of held) await page.keyboard.down(modifier as 'Control')
    await page.keyboard.press(key as 'Enter')
    for (const modifier of held) await page.keyboard.up(modifier as 'Control')
  }
const nothing = async (): Promise<void> => undefined
const movedWords = (): Promise<string | undefined> =>
  page.evaluate(
    () =>
      [...document.querySelectorAll('button')]
        .find((button) => /^\d+ moved/.test(button.textContent ?? ''))
        ?.textContent?.trim() ?? undefined,
  )
const exported = async (): Promise<typeof tone> =>
  JSON.parse(
    (await downloadBytes(page, () => choose(page, 'Export as a file'))).toString('utf8'),
  ) as typeof tone

describe('moves of the moment', () => {
  it('begin where the macro stands, not where the field is set', async () => {
    expect((await heard(nothing)).hz).toBeCloseTo(300, 0)
    expect(await movedWords()).toBeUndefined()
  })

  it('are recalled by their key, shown on the rows, and are not in the patch', async () => {
    const low = await heard(press('2')),
      high = await heard(press('1'))
    expect(low.hz).toBeCloseTo(150, 0)
    expect(high.hz).toBeCloseTo(600, 0)
    // Bypassed by the first and left so by the second.
    expect(low.level).toBeGreaterThan(0.24)
    expect(await movedWords()).toMatch(/^4 moved/)
    const notch = await page.$eval(
      '[data-module="osc"] [data-param="frequency"] [data-moved]',
      (element) => ({
        left: Number.parseFloat((element as HTMLElement).style.left),
        seen: (element as HTMLElement).style.visibility,
      }),
    )
    expect(notch.seen).toBe('visible')
    expect(notch.left).toBeGreaterThan(50)
    const patch = await exported()
    expect(patch.macros[0]!.value).toBe(0.5)
    expect(patch.modules.map(({ params }) => params)).toEqual(tone.modules.map(({ params }) => params))
  })

  it('go back to what is set, come again by undo, and are kept by an edit that undo takes back', async () => {
    expect((await heard(press('Backspace', 'Control'))).hz).toBeCloseTo(300, 0)
    expect(await movedWords()).toBeUndefined()
    expect((await heard(press('z', 'Control'))).hz).toBeCloseTo(600, 0)
    expect(await movedWords()).toMatch(/^4 moved/)
    expect((await heard(press('Enter', 'Control'))).hz).toBeCloseTo(600, 0)
    expect(await movedWords()).toBeUndefined()
    expect((await exported()).macros[0]!.value).toBe(1)
    expect((await heard(press('z', 'Control'))).hz).toBeCloseTo(600, 0)
    expect(await movedWords()).toMatch(/^4 moved/)
    expect((await exported()).macros[0]!.value).toBe(0.5)
  })

  it('become one step once a hand has rested, which undo takes back', async () => {
    await press('Backspace', 'Control')()
    await page.evaluate(() => {
      const input = { name: 'Tide box', onmidimessage: null }
      Object.assign(window, { tideBox: input })
      Object.defineProperty(navigator, 'requestMIDIAccess', {
        configurable: true,
        value: () => Promise.resolve({ inputs: new Map([['a', input]]), onstatechange: null }),
      })
    })
    await visit('Devices')
    await pressNamed(page, 'main button', 'Ask for MIDI')
    await page.waitForFunction(() => document.body.textContent?.includes('Tide box'))
    await visit('Bench')
    await page.waitForSelector('[data-module="osc"]')
    const turn = async (): Promise<void> => {
      for (let value = 64; value <= 127; value += 3)
        await page.evaluate((to) => {
          const { tideBox } = window as unknown as {
            tideBox: { onmidimessage(event: { data: Uint8Array }): void }
          }
          tideBox.onmidimessage({ data: Uint8Array.from([0xb0, 74, to]) })
        }, value)
    }
    expect((await heard(turn)).hz).toBeCloseTo(600, 0)
    expect(await movedWords()).toMatch(/^2 moved/)
    await pause(1200)
    expect((await heard(press('z', 'Control'))).hz).toBeCloseTo(300, 0)
    expect((await heard(press('z', 'Control', 'Shift'))).hz).toBeCloseTo(600, 0)
  })

  it('are silenced until somebody plays on', async () => {
    const silent = await heard(async () => {
      await page.keyboard.press('Escape')
      await page.keyboard.press('Escape')
    })
    expect(silent.level).toBe(0)
    await page.waitForFunction(() =>
      [...document.querySelectorAll('button')].some((button) => button.textContent === 'Play on'),
    )
    // An edit does not end it.
    await press('Backspace', 'Control')()
    expect((await heard(nothing)).level).toBe(0)
    const again = await heard(() => pressNamed(page, 'button', 'Play on'))
    expect(again.hz).toBeCloseTo(300, 0)
  })
})

const visit = (label: string): Promise<void> => pressNamed(page, 'a.nav', label)
