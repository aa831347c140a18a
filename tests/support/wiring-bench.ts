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
