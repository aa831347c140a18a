/** Menus of words: one of several is chosen. */
import type { Page } from 'puppeteer-core'
import { pressNamed } from './page.ts'

/** Chooses a word from the menu of a button whose name begins so. */
export const pickWord = async (page: Page, label: string, word: string): Promise<void> => {
  await page.click(`button[aria-label^="${label}"]`)
  await page.waitForSelector('[role="menuitemradio"]')
  await pressNamed(page, '[role="menuitemradio"]', word)
  await page.waitForFunction(() => !document.querySelector('[role="menu"]'))
}
