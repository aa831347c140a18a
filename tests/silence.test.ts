/** Why silent? by its key: the place is found, the way is lit, what is offered makes it sound; checks help as well. */
import type { Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import { largest } from '../packages/core/src/testing/measure.ts'
import { pause } from './support/browser.ts'
import {
  exportedFrom,
  freshly,
  importPatch,
  isUntouched,
  pressCard,
  pressNamed,
  record,
  usePage,
  withCtrl,
} from './support/page.ts'
import { undo, voice } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

/** Nothing opens its envelope. */
const LAMP = voice('Dark lamp', ['g'])

/** Asks, and gives what is said once it has listened. */
const asked = async (): Promise<string> => {
  await withCtrl(page, '.')
  return answer(/^(?!.*listening)/s)
}
const answer = async (words: RegExp): Promise<string> => {
  const found = await page.waitForFunction(
    (pattern) => {
      const text = document.querySelector('[data-silence]')?.textContent ?? ''
      return text !== '' && new RegExp(pattern, 's').test(text) ? text : false
    },
    {},
    words.source,
  )
  return String(await found.jsonValue())
}
const heardWith = async (key: 'a'): Promise<number> => {
  const [left] = await record(page, async () => {
    await page.keyboard.down(key)
    await pause(500)
    await page.keyboard.up(key)
    await pause(100)
  })
  return largest(left!)
}

beforeEach(async () => {
  await importPatch(page, LAMP)
  await pause(500)
})

describe('Why silent?', () => {
  it('stops at the envelope that never opens, lights the way to it, and connects it', async () => {
    expect(await heardWith('a')).toBeLessThan(1e-4)
    expect(await asked()).toMatch(/Envelope: never opens: nothing is connected to its gate\./)
    // What is not on the way is put back.
    const beside = await page.$$eval('[data-beside="true"]', (all) =>
      all.map((card) => (card as HTMLElement).dataset['module']),
    )
    expect(beside.sort()).toEqual(['notes', 'osc'])
    const box = (await (await page.$('[data-silence]'))!.boundingBox())!,
      card = (await (await page.$('[data-module="env"]'))!.boundingBox())!
    // It stands beside it.
    expect(Math.min(Math.abs(box.x - card.x), Math.abs(box.x - card.x - card.width))).toBeLessThan(40)
    await pressNamed(page, '[data-silence] button', 'Connect Notes gate')
    expect(await answer(/It sounds/)).toMatch(/reaches −?\d+\.\d dB/)
    expect((await exportedFrom(page)).cables.map(({ from, to }) => `${from} > ${to}`)).toContain(
      'notes.gate > env.gate',
    )
    await page.keyboard.press('Escape')
    await page.waitForFunction(() => document.querySelector('[data-silence]') === null)
    expect(await page.$('[data-beside="true"]')).toBeNull()
    expect(await heardWith('a')).toBeGreaterThan(0.01)
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
  })

  it('says so where it sounds, with the level, and that it was silenced', async () => {
    await freshly(page, 'Reed Lamp')
    expect(await asked()).toMatch(/It sounds: with a test note the output reaches −?\d+\.\d dB/)
    await page.keyboard.press('Escape')
    await pause(500)
    for (let n = 0; n < 3; n += 1) await page.keyboard.press('Escape')
    await pause(200)
    expect(await asked()).toMatch(/It was silenced\.Play on/)
    await pressNamed(page, '[data-silence] button', 'Play on')
    await answer(/Play a note/)
  })

  it('asks for the other end where it cannot know it, by keyboard alone', async () => {
    await asked()
    await page.keyboard.press('Tab')
    await page.keyboard.press('Tab')
    await page.keyboard.press('Tab')
    await page.keyboard.press('Enter')
    await page.waitForSelector('[role="dialog"][aria-label="Connect by typing"] input')
    await page.keyboard.type('notes gate')
    await page.keyboard.press('Enter')
    expect(await answer(/It sounds/)).toContain('dB')
  })
})

describe('Checks', () => {
  it('offer what helps beside each finding, of the patch and of a module', async () => {
    await page.waitForFunction(() => document.querySelector('aside')?.textContent.includes('env.gate'))
    await pressCard(page, 'env')
    await page.waitForSelector('section[aria-label="Checks"] button')
    await pressNamed(page, 'section[aria-label="Checks"] button', 'Connect Notes gate')
    await page.waitForFunction(() => document.querySelector('section[aria-label="Checks"]') === null)
    expect((await exportedFrom(page)).cables.some(({ to }) => to === 'env.gate')).toBe(true)
    await undo(page)
    expect(await isUntouched(page)).toBe(true)
  })
})
