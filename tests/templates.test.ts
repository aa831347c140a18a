/** Patches to begin from: they play at once, digits choose what goes in, and they are documents from their first edit on. */
import type { Page } from 'puppeteer-core'
import { describe, expect, it } from 'vitest'
import { largest } from '../packages/core/src/testing/measure.ts'
import { pause, reloaded } from './support/browser.ts'
import {
  addModule,
  choose,
  exportedFrom,
  isUntouched,
  kept,
  named,
  nameOf,
  record,
  said,
  usePage,
} from './support/page.ts'

let page: Page
usePage((opened) => (page = opened))

/** Loudest sample of every twentieth of a second. */
const levels = (sound: Float32Array): number[] =>
  Array.from({ length: Math.floor(sound.length / 2400) }, (_, n) =>
    largest(sound.subarray(2400 * n, 2400 * (n + 1))),
  )
/** Both sides after a digit was pressed and what it changed has settled. */
const after = async (
  seconds: number,
  ...digits: ('2' | '3' | '4' | '5' | '6')[]
): Promise<Float32Array[]> => {
  for (const digit of digits) await page.keyboard.press(digit)
  await pause(1500)
  return record(page, () => pause(1000 * seconds))
}

describe('a new effect', () => {
  it('plays a loop at once', async () => {
    await choose(page, 'New effect')
    await named(page, 'Effect')
    const [left, right] = await record(page, () => pause(2500))
    expect(largest(left!)).toBeGreaterThan(0.05)
    expect(largest(right!)).toBeGreaterThan(0.05)
    expect(await isUntouched(page)).toBe(true)
  })

  it('lets one side be dry: clicks there, echoes and a room on the other', async () => {
    const [left, right] = await after(2.4, '2', '6')
    const dry = levels(left!),
      wet = levels(right!)
    // A click a second for as long as was recorded, and nothing between them.
    const clicks = dry.filter((level, n) => level > 0.1 && !(dry[n - 1]! > 0.1)).length,
      seconds = left!.length / 48000
    expect(clicks).toBeGreaterThanOrEqual(Math.floor(seconds))
    expect(clicks).toBeLessThanOrEqual(Math.ceil(seconds))
    // A click may begin at the end of a part, and rings on for four.
    const sounding = (level: number, n: number) =>
      level >= 1e-3 && ![-1, 0, 1, 2, 3, 4].some((back) => dry[n - back]! > 0.1)
    expect(dry.slice(2).some((level, n) => sounding(level, n + 2))).toBe(false)
    expect(wet.filter((level) => level > 3e-3).length).toBeGreaterThan(0.4 * wet.length)
    const again = levels((await after(2.4, '5'))[0]!)
    expect(again.filter((level) => level > 3e-3).length).toBeGreaterThan(0.4 * again.length)
  })

  it('has a sweep and a chord that never end', async () => {
    for (const digit of ['3', '4'] as const) {
      const [left] = await after(1.2, digit)
      // The lowest of a sweep's ten octaves are below what is heard of a level meter's first notes.
      const heard = levels(left!)
      expect(heard.filter((level) => level > 0.01).length).toBeGreaterThan(0.7 * heard.length)
    }
  })

  it('comes back on the same bench, and is a document from its first edit on', async () => {
    await reloaded(page)
    await named(page, 'Effect')
    expect(await isUntouched(page)).toBe(true)
    await addModule(page, 'comb', 880, 150)
    await kept(page)
    await choose(page, 'New effect')
    await said(page, 'not changed yet')
    expect(await isUntouched(page)).toBe(true)
    expect((await exportedFrom(page)).modules.some(({ type }) => type === 'comb')).toBe(false)
  })
})

describe('the other templates', () => {
  it.each(['Drone', 'Sequence'])('%s plays as soon as it is there', async (name) => {
    await choose(page, `New ${name.toLowerCase()}`)
    await named(page, name)
    await pause(1500)
    const [left] = await record(page, () => pause(1500))
    expect(largest(left!)).toBeGreaterThan(0.03)
    expect(await isUntouched(page)).toBe(true)
  })
  it.each(['Instrument', 'Drum hit'])('%s plays with the first key', async (name) => {
    await choose(page, `New ${name.toLowerCase()}`)
    await named(page, name)
    const [before] = await record(page, () => pause(900))
    const [left] = await record(page, async () => {
      await page.keyboard.down('a')
      await pause(600)
      await page.keyboard.up('a')
      await pause(600)
    })
    expect(largest(left!)).toBeGreaterThan(0.03)
    // Nothing plays by itself: silent before the key, once what was open before has faded out.
    expect(largest(before!, 24_000)).toBeLessThan(0.001)
  })
  it('an empty patch is silent and has no modules', async () => {
    await choose(page, 'New patch')
    await named(page, 'Untitled')
    expect((await exportedFrom(page)).modules).toEqual([])
  })
})

it('a patch that cannot be fetched is said, changes nothing, and opens once the server answers', async () => {
  const before = await nameOf(page)
  await page.setOfflineMode(true)
  await choose(page, 'Storm Wire')
  await page.waitForFunction(() => document.body.textContent.includes('Storm Wire could not be opened'))
  expect(await nameOf(page)).toBe(before)
  await page.setOfflineMode(false)
  await choose(page, 'Storm Wire')
  await named(page, 'Storm Wire')
})
