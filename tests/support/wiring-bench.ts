/** A patch to lay hands on: three voices beside one another, a mixer, and some that nothing goes to. */
import type { Page } from 'puppeteer-core'
import { pause } from './browser.ts'
import { pressCard, withCtrl } from './page.ts'

export const BENCH = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'Wiring bench',
  modules: [
    { id: 'notes', type: 'notes', x: 0, y: 0 },
    { id: 'a', type: 'oscillator', x: 264, y: 0 },
    { id: 'b', type: 'oscillator', x: 264, y: 240 },
    { id: 'c', type: 'oscillator', x: 264, y: 480 },
    { id: 'mix', type: 'mix', x: 600, y: 60 },
    { id: 'filter', type: 'filter', x: 600, y: 420 },
    { id: 'out', type: 'output', x: 900, y: 60 },
  ],
  cables: [
    { id: 'pitch', from: 'notes.pitch', to: 'a.pitch' },
    { id: 'sound', from: 'mix.out', to: 'out.in', amount: 0.5 },
  ],
}

/** One voice from note to output, without some of its cables. */
export const voice = (name: string, without: readonly string[] = []) => ({
  format: 'ypsilon/patch',
  version: 1,
  name,
  modules: [
    { id: 'notes', type: 'notes', x: 0, y: 0 },
    { id: 'osc', type: 'oscillator', x: 264, y: 0 },
    { id: 'env', type: 'envelope', x: 264, y: 252 },
    { id: 'amp', type: 'amplifier', x: 528, y: 0 },
    { id: 'out', type: 'output', params: { level: -12 }, x: 792, y: 0 },
  ],
  cables: [
    { id: 'p', from: 'notes.pitch', to: 'osc.pitch' },
    { id: 'g', from: 'notes.gate', to: 'env.gate' },
    { id: 's', from: 'osc.saw', to: 'amp.in' },
    { id: 'e', from: 'env.env', to: 'amp.cv' },
    { id: 'o', from: 'amp.out', to: 'out.in' },
  ].filter(({ id }) => !without.includes(id)),
})

export const undo = async (page: Page): Promise<void> => {
  await withCtrl(page, 'z')
  await pause(60)
}

/** Selects several cards by hand. */
export const selectCards = async (page: Page, ids: readonly string[]): Promise<void> => {
  await pressCard(page, ids[0]!)
  await page.keyboard.down('Control')
  for (const id of ids.slice(1)) await pressCard(page, id)
  await page.keyboard.up('Control')
}

/** A key with Ctrl and Alt. */
export const withCtrlAlt = async (page: Page, key: string): Promise<void> => {
  await page.keyboard.down('Alt')
  await withCtrl(page, key)
  await page.keyboard.up('Alt')
}

/** Types over what stands in a field of the editor in the dock. */
export const typeInto = async (page: Page, label: string, text: string): Promise<void> => {
  await page.click(`[data-editor] input[aria-label="${label}"]`, { count: 3 })
  await page.keyboard.type(text)
  await page.keyboard.press('Enter')
  await pause(120)
}
