/** What is drawn on recordings and transfers in the dock: zones on their map, marks on a wave, a curve drawn over. */
import type { Page } from 'puppeteer-core'
import { beforeAll, describe, expect, it } from 'vitest'
import { writeWav } from '../packages/core/src/formats/wav.ts'
import { pause } from './support/browser.ts'
import { exportedFrom, importPatch, pressCard, pressNamed, usePage } from './support/page.ts'
import { pickWord } from './support/words.ts'
import { TONE } from './support/probe-bench.ts'
import { undo } from './support/wiring-bench.ts'

let page: Page
usePage((opened) => {
  page = opened
})

const PATCH = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'Quay tape',
  modules: [
    { id: 'notes', type: 'notes', x: 0, y: 0 },
    { id: 'keys', type: 'sampler', data: { zones: [{ root: 60, lowKey: 48, highKey: 71 }] }, x: 264, y: 0 },
    { id: 'tape', type: 'player', x: 264, y: 420 },
    { id: 'bend', type: 'shaper', data: { curve: [-1, 1] }, x: 528, y: 420 },
    { id: 'out', type: 'output', params: { level: -20 }, x: 792, y: 0 },
  ],
  cables: [
    { id: 'p', from: 'notes.pitch', to: 'keys.pitch' },
    { id: 'g', from: 'notes.gate', to: 'keys.gate' },
    { id: 'k', from: 'keys.out', to: 'out.in' },
    { id: 't', from: 'tape.out', to: 'bend.in' },
    { id: 'b', from: 'bend.out', to: 'out.in' },
  ],
}
type Module = Awaited<ReturnType<typeof exportedFrom>>['modules'][number]
const moduleNow = async (id: string): Promise<Module> =>
  (await exportedFrom(page)).modules.find((module) => module.id === id)!
const zonesNow = async (): Promise<readonly Readonly<Record<string, unknown>>[]> =>
  (await moduleNow('keys')).data!['zones'] as readonly Readonly<Record<string, unknown>>[]
const edit = async (id: string, tab: string): Promise<void> => {
  await pressCard(page, id)
  await pressNamed(page, '[role="tab"]', tab)
  await page.waitForSelector('[data-editor]')
  await pause(250)
}
const drag = async (
  selector: string,
  from: readonly [number, number],
  by: readonly [number, number],
): Promise<void> => {
  const { x, y, width, height } = (await (await page.waitForSelector(selector))!.boundingBox())!
  const [left, top] = [x + from[0] * width, y + from[1] * height]
  await page.mouse.move(left, top)
  await page.mouse.down()
  await page.mouse.move(left + by[0] / 2, top + by[1] / 2)
  await page.mouse.move(left + by[0], top + by[1], { steps: 3 })
  await page.mouse.up()
  await pause(100)
}
/** Gives a module a recording by its file. */
const drop = async (id: string): Promise<void> => {
  await pressCard(page, id)
  await page.evaluate(
    (bytes) => {
      const input = document.querySelector<HTMLInputElement>('[data-import]')!
      const files = new DataTransfer()
      files.items.add(new File([new Uint8Array(bytes)], 'tone.wav'))
      input.files = files.files
      input.dispatchEvent(new Event('change', { bubbles: true }))
    },
    [...writeWav({ rate: 48000, channels: [TONE.subarray(0, 4800)] }, '16')],
  )
  await pause(700)
}

beforeAll(async () => {
  await importPatch(page, PATCH)
  await pause(500)
})

describe('zones', () => {
  it('are moved on the map, sized by their edges, and moved by keys, each in one step', async () => {
    await edit('keys', 'Sampler')
    const map = (await (await page.waitForSelector('[data-zone-map]'))!.boundingBox())!
    const key = map.width / 128
    await drag('[data-zone-box="0"]', [0.5, 0.5], [12 * key, 0])
    expect((await zonesNow())[0]).toMatchObject({ lowKey: 60, highKey: 83, root: 72 })
    await drag('[data-zone-box="0"]', [0.002, 0.5], [-12 * key, 0])
    expect((await zonesNow())[0]).toMatchObject({ lowKey: 48, highKey: 83, root: 72 })
    await drag('[data-zone-box="0"]', [0.5, 0.01], [0, 0.4 * map.height])
    expect((await zonesNow())[0]!['highVelocity']).toBeCloseTo(0.6, 1)
    await page.focus('[data-zone-box="0"]')
    await page.keyboard.press('ArrowRight')
    expect((await zonesNow())[0]).toMatchObject({ lowKey: 49, highKey: 84 })
    for (let n = 0; n < 4; n += 1) await undo(page)
    expect((await zonesNow())[0]).toEqual({ root: 60, lowKey: 48, highKey: 71 })
  })

  it('are added, laid out beside each other and as layers, and taken away', async () => {
    await edit('keys', 'Sampler')
    await pressNamed(page, '.editor-head button', 'Add one')
    await pressNamed(page, '.editor-head button', 'Add one')
    const layOut = async (word: string): Promise<void> => {
      await pickWord(page, 'Lay the zones out', word)
      await pause(120)
    }
    await layOut('beside each other')
    const spread = await zonesNow()
    expect(spread.map((zone) => [zone['lowKey'], zone['highKey']])).toEqual([
      [24, 51],
      [52, 79],
      [80, 107],
    ])
    await layOut('as layers of velocity')
    expect((await zonesNow()).map((zone) => zone['highVelocity'] ?? 1)).toEqual([0.33, 0.67, 1])
    await page.focus('[data-zone-box="2"]')
    await page.keyboard.press('Delete')
    expect(await zonesNow()).toHaveLength(2)
  })

  it('show their recording, whose begin, end and loop are dragged and never pass each other', async () => {
    await drop('keys')
    await edit('keys', 'Sampler')
    const last = (await zonesNow()).length - 1
    await page.focus(`[data-zone-box="${last}"]`)
    await pickWord(page, 'Loop of the zone', 'forward')
    const wave = (await (await page.waitForSelector('.wave-marks'))!.boundingBox())!
    await drag('[data-mark="start"]', [0.5, 0.5], [0.2 * wave.width, 0])
    // The loop begins where the sound begins at the earliest: it stands there now.
    const zone = (await zonesNow())[last]!
    expect(zone['start']).toBeCloseTo(0, 2)
    await drag('[data-mark="loopEnd"]', [0.5, 0.5], [-0.25 * wave.width, 0])
    await drag('[data-mark="loopStart"]', [0.5, 0.5], [0.3 * wave.width, 0])
    const looped = (await zonesNow())[last]!
    expect(looped['loopEnd']).toBeCloseTo(0.75, 1)
    expect(looped['loopStart']).toBeCloseTo(0.3, 1)
    await page.focus('[data-mark="start"]')
    await page.keyboard.press('PageUp')
    expect((await zonesNow())[last]!['start']).toBeCloseTo(0.1, 2)
  })
})

it('a player shows its recording, the part that plays, and its slices', async () => {
  await drop('tape')
  await edit('tape', 'Player')
  const wave = (await (await page.waitForSelector('.wave-marks'))!.boundingBox())!
  await drag('[data-mark="to"]', [0.5, 0.5], [-0.5 * wave.width, 0])
  await drag('[data-mark="from"]', [0.5, 0.5], [0.25 * wave.width, 0])
  const { params } = await moduleNow('tape')
  expect(params!['to']).toBeCloseTo(0.5, 1)
  expect(params!['from']).toBeCloseTo(0.25, 1)
  await page.click('[data-editor="recording"] input[aria-label="Slices"]', { count: 3 })
  await page.keyboard.type('4')
  await page.keyboard.press('Enter')
  await page.waitForFunction(() => document.querySelectorAll('.wave-line').length === 3)
})

describe('a transfer', () => {
  const curve = async (): Promise<readonly number[]> =>
    (await moduleNow('bend')).data!['curve'] as readonly number[]

  it('is drawn over, begun from a shape, held to a grid, and has a few values that keys move', async () => {
    await edit('bend', 'Shaper')
    await drag('[data-curve="bend"]', [0.5, 0.2], [60, 0])
    const drawn = await curve()
    expect(drawn).toHaveLength(257)
    expect(drawn[130]).toBeCloseTo(0.66, 1)
    const begin = async (label: string, word: string): Promise<void> => {
      await pickWord(page, label, word)
      await pause(120)
    }
    await begin('Begin from a shape', 'third harmonic')
    expect((await curve())[192]).toBeCloseTo(4 * 0.5 ** 3 - 3 * 0.5, 2)
    await page.click('[data-editor="transfer"] input[aria-label="Values"]', { count: 3 })
    await page.keyboard.type('5')
    await page.keyboard.press('Enter')
    await pause(120)
    await begin('Snap up', '4')
    await page.focus('[data-value="2"]')
    await page.keyboard.press('ArrowUp')
    expect((await curve())[2]).toBe(0.5)
    await undo(page)
    expect((await curve())[2]).toBeCloseTo(0, 5)
  })
})
