/** Clips in the dock: chords put by mouse, spread over octaves, moved by keys, read from MIDI and written to it. */
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle, Page } from 'puppeteer-core'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Clip } from '../packages/core/src/describe/clips.ts'
import { notesInBeats } from '../packages/core/src/formats/midi-beats.ts'
import { pause } from './support/browser.ts'
import {
  downloadBytes,
  exportedFrom,
  importPatch,
  type Point,
  pressCard,
  pressNamed,
  usePage,
} from './support/page.ts'
import { pickWord } from './support/words.ts'
import { undo, voice } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

const CLIP = {
  ...voice('Tide table', ['p', 'g']),
  modules: [
    ...voice('').modules,
    { id: 'pattern', type: 'pattern', params: { bars: 2 }, data: { notes: [] }, x: 264, y: 500 },
  ],
  cables: [
    ...voice('', ['p', 'g']).cables,
    { id: 'n', from: 'pattern.pitch', to: 'osc.pitch' },
    { id: 'g', from: 'pattern.gate', to: 'env.gate' },
  ],
}
const BEATS = 8

const clipNow = async (): Promise<Clip> =>
  (await exportedFrom(page)).modules.find(({ id }) => id === 'pattern')!.data?.['notes'] as Clip
const pitches = async (): Promise<number[]> => (await clipNow()).map(({ note }) => note)

/** Where a note would stand: its row by what is shown, its place by the beat. */
const placeOf = async (beat: number, note: number): Promise<Point> => {
  const field = await page.waitForSelector('[data-clip="pattern"]')
  const box = (await field!.boundingBox())!
  const [low, high] = await page.$eval('[data-clip="pattern"]', (element) => {
    const rows = element.querySelectorAll('.clip-row').length
    // The lowest C that is named tells where the rows are.
    const names = [...element.querySelectorAll('.clip-row')]
    const at = names.findIndex((row) => row.textContent === 'C4')
    const top = 60 + at
    return [top - rows + 1, top]
  })
  return {
    x: box.x + (box.width * beat) / BEATS,
    y: box.y + (box.height * (high! - note + 0.5)) / (high! - low! + 1),
  }
}
const put = async (beat: number, note: number, until?: number): Promise<void> => {
  const from = await placeOf(beat + 0.02, note)
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  if (until !== undefined) {
    const to = await placeOf(until, note)
    await page.mouse.move(to.x, to.y, { steps: 3 })
  }
  await page.mouse.up()
  await pause(60)
}
const change = async (word: string): Promise<void> => {
  await pickWord(page, 'Change ', word)
  await pause(80)
}
const within = async (act: () => Promise<void>): Promise<void> => {
  await page.focus('[data-clip="pattern"]')
  await act()
  await pause(120)
}
const chord = async (): Promise<void> => {
  await put(0, 60, 2)
  await put(0, 64, 2)
  await put(0, 67, 2)
  await put(0, 71, 2)
}

beforeEach(async () => {
  await importPatch(page, CLIP)
  await pause(400)
  await pressCard(page, 'pattern')
  await pressNamed(page, '[role="tab"]', 'Pattern')
  await page.waitForSelector('[data-editor="clip"]')
  await pause(300)
})

describe('a clip', () => {
  it('has a chord put by mouse, drawn out, spread over octaves and inverted', async () => {
    await chord()
    expect(await clipNow()).toEqual(
      [60, 64, 67, 71].map((note) => ({ start: 0, length: 2, note, velocity: 0.8 })),
    )
    await within(async () => {
      await page.keyboard.down('Control')
      await page.keyboard.press('a')
      await page.keyboard.up('Control')
    })
    await change('spread over octaves')
    expect(await pitches()).toEqual([60, 76, 67, 83])
    await change('invert up')
    expect(await pitches()).toEqual([72, 76, 67, 83])
    await undo(page)
    await undo(page)
    expect(await pitches()).toEqual([60, 64, 67, 71])
  })

  it('is moved, made longer and given up by hands, and a frame chooses', async () => {
    await put(1, 62)
    expect(await clipNow()).toEqual([{ start: 1, length: 0.25, note: 62, velocity: 0.8 }])
    // By its end.
    const note = (await (await page.$('[data-note-index="0"]'))!.boundingBox())!
    await page.mouse.move(note.x + note.width - 2, note.y + note.height / 2)
    await page.mouse.down()
    const far = await placeOf(2, 62)
    await page.mouse.move(far.x, far.y, { steps: 4 })
    await page.mouse.up()
    expect((await clipNow())[0]!.length).toBe(1)
    // By its middle, a fifth up and a beat on; another drag is given up.
    const from = await placeOf(1.3, 62),
      to = await placeOf(2.3, 69)
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move(to.x, to.y, { steps: 4 })
    await page.mouse.up()
    expect((await clipNow())[0]).toMatchObject({ start: 2, note: 69 })
    const again = await placeOf(2.3, 69)
    await page.mouse.move(again.x, again.y)
    await page.mouse.down()
    await page.mouse.move(again.x + 60, again.y + 30, { steps: 3 })
    await page.keyboard.press('Escape')
    await page.mouse.up()
    expect((await clipNow())[0]).toMatchObject({ start: 2, note: 69 })
    await put(5, 60)
    const [low, high] = [await placeOf(1.9, 72), await placeOf(3.5, 66)]
    await page.keyboard.down('Shift')
    await page.mouse.move(low.x, low.y)
    await page.mouse.down()
    await page.mouse.move(high.x, high.y, { steps: 3 })
    await page.mouse.up()
    await page.keyboard.up('Shift')
    expect(await page.$$eval('[data-note-index][aria-selected="true"]', (all) => all.length)).toBe(1)
  })

  it('is written by keys alone, and its velocities drawn', async () => {
    await within(() => page.keyboard.press('Insert'))
    await within(() => page.keyboard.press('Insert'))
    let [first, second] = await clipNow()
    expect(second!.start).toBe(first!.start + first!.length)
    await within(async () => {
      await page.keyboard.down('Shift')
      await page.keyboard.press('ArrowUp')
      await page.keyboard.up('Shift')
      await page.keyboard.press('ArrowDown')
      await page.keyboard.press('+')
      await page.keyboard.press('PageDown')
    })
    ;[first, second] = await clipNow()
    expect(second).toMatchObject({ note: first!.note + 11, length: 0.5, velocity: 0.75 })
    const box = (await (await page.$('.clip-velocities'))!.boundingBox())!
    await page.mouse.click(box.x + 1, box.y + 0.5 * box.height)
    expect((await clipNow())[0]!.velocity).toBeCloseTo(0.5, 1)
    await within(() => page.keyboard.press('ArrowLeft'))
    await within(() => page.keyboard.press('Delete'))
    expect(await clipNow()).toHaveLength(1)
  })

  it('goes out as MIDI and comes back in, in one step; a file that is none is said', async () => {
    await chord()
    const bytes = await downloadBytes(page, () => pressNamed(page, '.editor-head button', 'Save MIDI'))
    const notes = notesInBeats(new Uint8Array(bytes))
    if (!notes.ok) throw new Error(notes.faults[0]!.message)
    expect(notes.value.filter(({ type }) => type === 'on').map(({ note }) => note)).toEqual([60, 64, 67, 71])
    expect(notes.value.at(-1)!.t).toBeCloseTo(2, 2)
    const folder = mkdtempSync(join(tmpdir(), 'ypsilon-midi-'))
    writeFileSync(join(folder, 'tide.mid'), bytes)
    writeFileSync(join(folder, 'none.mid'), 'not one')
    await within(async () => {
      await page.keyboard.down('Control')
      await page.keyboard.press('a')
      await page.keyboard.up('Control')
    })
    await change('an octave down')
    expect((await pitches())[0]).toBe(48)
    const input = (await page.$(
      'input[aria-label="A MIDI file for the clip"]',
    )) as ElementHandle<HTMLInputElement>
    await input.uploadFile(join(folder, 'tide.mid'))
    await expect.poll(pitches, { timeout: 5000 }).toEqual([60, 64, 67, 71])
    expect((await exportedFrom(page)).modules.find(({ id }) => id === 'pattern')!.params?.['bars']).toBe(1)
    await undo(page)
    expect((await pitches())[0]).toBe(48)
    await input.uploadFile(join(folder, 'none.mid'))
    await page.waitForFunction(() => /none\.mid/.test(document.body.textContent ?? ''))
    expect((await pitches())[0]).toBe(48)
  })

  it('shows where it is while it plays', async () => {
    await put(0, 60)
    await page.waitForFunction(
      () => document.querySelector<HTMLElement>('[data-playhead]')?.style.visibility === 'visible',
    )
    const place = (): Promise<string> =>
      page.$eval('[data-playhead]', (element) => (element as HTMLElement).style.transform)
    const before = await place()
    await page.waitForFunction(
      (was) => document.querySelector<HTMLElement>('[data-playhead]')!.style.transform !== was,
      {},
      before,
    )
  })
})
