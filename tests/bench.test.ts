/* eslint max-lines: ["error", 500] -- one page, and how it is worked */
/** The bench in a real Chromium: real mouse, keys and files, sound captured from the running worklet. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { Page } from 'puppeteer-core'
import { centsBetween, frequencyOf, largest, largestStep } from '../packages/core/src/testing/measure.ts'
import { readWav } from '../packages/core/src/formats/wav.ts'
import {
  addModule,
  centreOf,
  choose as choosePatch,
  connectPorts,
  dragOn,
  emptyChart,
  type Exported,
  exportedFrom,
  type Point,
  pressCard,
  pressNamed,
  record as recordPage,
} from './support/page.ts'
import { ROOT, openPage, pause, reloaded, serve, type Opened, type Served } from './support/browser.ts'

let server: Served, opened: Opened, page: Page

beforeAll(async () => {
  server = await serve()
  opened = await openPage(server.address)
  ;({ page } = opened)
})
afterAll(async () => {
  await opened?.close()
  server?.stop()
})

it('loads no more than it needs until the first note', async () => {
  await page.keyboard.down('a')
  await pause(600)
  await page.keyboard.up('a')
  // On a slow machine the page may be quiet before: what it loads then is in nobody's way.
  const loaded = await page.evaluate(() =>
    performance
      .getEntriesByType('resource')
      .filter(
        ({ startTime }) => startTime < (performance.getEntriesByName('quiet')[0]?.startTime ?? Infinity),
      )
      .map(({ name }) => name.split('/').pop()!)
      .filter((name) => name.endsWith('.js')),
  )
  // Not every browser tells of what an audio thread loads.
  const worklet = readdirSync(join(ROOT, 'packages/web/dist/assets')).find((name) =>
    name.startsWith('worklet'),
  )!
  const names = [...new Set([...loaded, worklet])]
  const size = (name: string): number =>
    gzipSync(readFileSync(join(ROOT, 'packages/web/dist/assets', name))).length
  expect(loaded.length).toBeGreaterThan(5)
  expect(names.some((name) => name.startsWith('elk'))).toBe(false)
  expect(names.reduce((sum, name) => sum + size(name), 0)).toBeLessThan(450 * 1024)
})

const choose = (item: string): Promise<void> => choosePatch(page, item)
const emptyBench = (): Promise<void> => emptyChart(page)

const add = (text: string, x: number, y: number): Promise<void> => addModule(page, text, x, y)
const centre = (selector: string): Promise<Point> => centreOf(page, selector)
const drag = (from: Point, to: Point): Promise<void> => dragOn(page, from, to)

const connect = (from: string, to: string): Promise<void> => connectPorts(page, from, to)

const exported = (): Promise<Exported> => exportedFrom(page)

const downloads = mkdtempSync(join(tmpdir(), 'ypsilon-files-'))
const record = (act: () => Promise<void>): Promise<Float32Array[]> => recordPage(page, act)

const buildVoice = async (): Promise<void> => {
  await emptyBench()
  await add('notes', 300, 120)
  await add('oscillator', 520, 120)
  await add('envelope', 300, 380)
  await add('amplifier', 740, 120)
  await add('output', 740, 380)
  await connect('notes.pitch', 'osc.pitch')
  await connect('notes.gate', 'env.gate')
  await connect('osc.sine', 'amp.in')
  await connect('env.env', 'amp.cv')
  await connect('amp.out', 'out.in')
}

describe('the bench', () => {
  beforeEach(() => {
    opened.problems.length = 0
  })

  it('opens with a demo voice that sounds from the first key', async () => {
    expect((await exported()).name).toBe('Reed Lamp')
    const sound = await record(async () => {
      await page.keyboard.down('a')
      await pause(700)
      await page.keyboard.up('a')
    })
    expect(largest(sound[0]!)).toBeGreaterThan(0.02)
    expect(largest(sound[0]!)).toBeLessThan(0.9)
    expect(opened.problems).toEqual([])
  })

  it('builds a first voice with the mouse, in tune, and silent before and after', async () => {
    await buildVoice()
    const { cables } = await exported()
    expect(cables.map(({ from, to }) => `${from} > ${to}`).sort()).toEqual(
      [
        'amp.out > out.in',
        'env.env > amp.cv',
        'notes.gate > env.gate',
        'notes.pitch > osc.pitch',
        'osc.sine > amp.in',
      ].sort(),
    )
    const silence = await record(async () => {
      await pause(300)
    })
    expect(largest(silence[0]!)).toBe(0)
    const [left, right] = await record(async () => {
      await page.keyboard.down('h')
      await pause(1200)
      await page.keyboard.up('h')
      await pause(900)
    })
    const start = left!.findIndex((x) => x !== 0)
    const hz = frequencyOf(left!, 440, 48000, start + 12000, 36000)
    expect(Math.abs(centsBetween(hz, 440))).toBeLessThan(0.5)
    for (let i = 0; i < left!.length; i += 1) expect(Math.abs(left![i]! - right![i]!)).toBeLessThan(4e-7) // equal but for the dither of 24 bits
    expect(largest(left!, left!.length - 2000)).toBeLessThan(5e-7) // what the DC blocker still has to say, at the depth of the file
    expect(largestStep(left!)).toBeLessThan(0.06) // a sine of 440 Hz at −6 dB moves 0.029 a sample at most
    expect(opened.problems).toEqual([])
  })

  it('drops a cable on nothing and offers what fits', async () => {
    await emptyBench()
    await add('notes', 300, 120)
    await drag(await centre('.source[data-port="notes.pitch"]'), { x: 620, y: 200 })
    await page.waitForSelector('[role="dialog"] input')
    await page.keyboard.type('osc')
    await pause(80)
    await page.keyboard.press('Enter')
    await pause(150)
    const { cables, modules } = await exported()
    expect(modules.map((module) => module.type)).toEqual(['notes', 'oscillator'])
    expect(cables).toEqual([{ id: 'c1', from: 'notes.pitch', to: 'osc.pitch' }])
  })

  it('connects to a parameter row with an amount in its unit, typed values included', async () => {
    await buildVoice()
    await add('lfo', 590, 440)
    const row = await centre('[data-row="osc.fine"]')
    await drag(await centre('.source[data-port="lfo.out"]'), row)
    expect((await exported()).cables.at(-1)).toMatchObject({ from: 'lfo.out', to: 'osc.fine', amount: 10 })
    const field = await centre('[data-module="osc"] [data-param="octave"]')
    await page.mouse.click(field.x, field.y, { count: 2 })
    await page.waitForSelector('[data-module="osc"] [aria-label="Octave, type a value"]')
    await page.keyboard.type('-12 st')
    await page.keyboard.press('Enter')
    await pause(100)
    expect((await exported()).modules.find((module) => module.id === 'osc')?.params).toEqual({ octave: -1 })
    await page.mouse.click(field.x, field.y, { count: 2 })
    await page.keyboard.type('99 oct')
    await page.keyboard.press('Enter')
    await pause(100)
    expect((await exported()).modules.find((module) => module.id === 'osc')?.params).toEqual({ octave: -1 })
    await page.keyboard.press('Escape')
    // The arrows move a field, dragging too; one drag is one step to undo.
    await page.mouse.click(10, 790)
    const level = await centre('[data-module="out"] [data-param="level"]')
    await drag(level, { x: level.x - 30, y: level.y })
    const dragged = Number(
      (await exported()).modules.find((module) => module.id === 'out')?.params?.['level'],
    )
    expect(dragged).toBeLessThan(-8)
    await undo()
    expect((await exported()).modules.find((module) => module.id === 'out')?.params).toBeUndefined()
  })

  const undo = async (): Promise<void> => {
    await page.keyboard.down('Control')
    await page.keyboard.press('z')
    await page.keyboard.up('Control')
    await pause(120)
  }

  it('deletes, duplicates, undoes and redoes', async () => {
    await buildVoice()
    const before = await exported()
    const head = await centre('[data-module="osc"] .head')
    await page.mouse.click(head.x, head.y)
    await page.keyboard.down('Control')
    await page.keyboard.press('d')
    await page.keyboard.up('Control')
    await pause(150)
    expect((await exported()).modules).toHaveLength(6)
    await page.keyboard.press('Backspace')
    await pause(150)
    expect((await exported()).modules).toHaveLength(5)
    await page.mouse.click(head.x, head.y)
    await page.keyboard.press('Backspace')
    await pause(150)
    const after = await exported()
    expect(after.modules.map((module) => module.id)).not.toContain('osc')
    expect(after.cables).toHaveLength(3)
    for (let n = 0; n < 3; n += 1) await undo()
    expect(await exported()).toEqual(before)
    await page.keyboard.down('Control')
    await page.keyboard.down('Shift')
    for (let n = 0; n < 3; n += 1) await page.keyboard.press('z')
    await page.keyboard.up('Shift')
    await page.keyboard.up('Control')
    await pause(150)
    expect(await exported()).toEqual(after)
  })

  it('re-patches while it plays without a click', async () => {
    await buildVoice()
    const sound = await record(async () => {
      await page.keyboard.down('a')
      await pause(500)
      await add('filter', 590, 440)
      await connect('osc.sine', 'filter.in')
      await connect('filter.low', 'out.in')
      const head = await centre('[data-module="filter"] .head')
      await page.mouse.click(head.x, head.y)
      await page.keyboard.press('Backspace')
      await pause(300)
      await page.keyboard.up('a')
      await pause(500)
    })
    // Two sines of 262 Hz at −6 dB move at most 0.035 a sample; a click would be a step of the wave's own size.
    expect(largestStep(sound[0]!)).toBeLessThan(0.05)
    expect(largest(sound[0]!)).toBeGreaterThan(0.4)
  })

  it('restores the bench after a reload', async () => {
    await buildVoice()
    const before = await exported()
    await pause(900)
    await reloaded(page)
    await page.waitForSelector('[data-module="osc"]')
    expect(await exported()).toEqual(before)
  })

  it('refuses a bad file by its place and keeps the patch', async () => {
    await buildVoice()
    const before = await exported()
    const file = join(downloads, 'bad.ypatch.json')
    writeFileSync(
      file,
      JSON.stringify({
        format: 'ypsilon/patch',
        version: 1,
        modules: [{ id: 'f', type: 'filter', params: { cutoff: 90000 } }],
        cables: [],
      }),
    )
    await (
      (await page.$('[data-import]')) as never as { uploadFile(path: string): Promise<void> }
    ).uploadFile(file)
    await page.waitForFunction(() =>
      document.body.textContent?.includes('modules[0].params.cutoff: 90000 is above 20000 Hz'),
    )
    expect(await exported()).toEqual(before)
    const good = join(ROOT, 'demo/patches/gull-tape.ypatch.json')
    await (
      (await page.$('[data-import]')) as never as { uploadFile(path: string): Promise<void> }
    ).uploadFile(good)
    await page.waitForSelector('[data-module="tape"]')
    expect((await exported()).name).toBe('Gull Tape')
  })

  it('renders in the page exactly what the command line renders', async () => {
    const file = join(ROOT, 'demo/patches/reed-lamp.ypatch.json'),
      out = join(downloads, 'cli.wav')
    execFileSync(
      process.execPath,
      [
        join(ROOT, 'ypsilon'),
        'render',
        file,
        '--out',
        out,
        '--bits',
        '32f',
        '--seconds',
        '1.5',
        '--play',
        '57@0.1+0.8:0.9 64@0.2+0.6',
      ],
      { stdio: 'pipe' },
    )
    const fromPage = await page.evaluate(
      async (text) => {
        const tools = (
          window as unknown as {
            ypsilon: { renderOffline(text: string, play: string, seconds: number): Promise<number[][]> }
          }
        ).ypsilon
        return tools.renderOffline(text, '57@0.1+0.8:0.9 64@0.2+0.6', 1.5)
      },
      readFileSync(file, 'utf8'),
    )
    const wav = readWav(new Uint8Array(readFileSync(out)))
    if (!wav.ok) throw new Error(wav.fault.message)
    expect(fromPage[0]!.length).toBe(72000)
    expect(Float32Array.from(fromPage[0]!)).toEqual(wav.sound.channels[0])
    expect(Float32Array.from(fromPage[1]!)).toEqual(wav.sound.channels[1])
    expect(largest(wav.sound.channels[0]!)).toBeGreaterThan(0.02)
  })

  it('builds a voice with the keyboard alone', async () => {
    await emptyBench()
    const find = async (text: string): Promise<void> => {
      await page.keyboard.press('/')
      await page.waitForSelector('[role="dialog"] input')
      await page.keyboard.type(text)
      await pause(80)
      await page.keyboard.press('Enter')
      await page.waitForFunction(() => document.querySelector('[role="dialog"]') === null)
    }
    for (const part of ['notes', 'oscillator', 'amplifier', 'output']) await find(part)
    const wire = async (line: string): Promise<void> => {
      await page.keyboard.down('Control')
      await page.keyboard.press('k')
      await page.keyboard.up('Control')
      await page.waitForSelector('[aria-label="Connect by typing"] input')
      await page.keyboard.type(line)
      await pause(80)
      await page.keyboard.press('Enter')
      await page.waitForFunction(() => document.querySelector('[role="dialog"]') === null)
    }
    for (const line of [
      'notes pitch > osc pitch',
      'osc triangle > amp in * 0.5',
      'notes gate > amp cv',
      'amp out > out in',
    ])
      await wire(line)
    expect((await exported()).cables).toEqual([
      { id: 'c1', from: 'notes.pitch', to: 'osc.pitch' },
      { id: 'c2', from: 'osc.triangle', to: 'amp.in', amount: 0.5 },
      { id: 'c3', from: 'notes.gate', to: 'amp.cv' },
      { id: 'c4', from: 'amp.out', to: 'out.in' },
    ])
    const sound = await record(async () => {
      await page.keyboard.down('a')
      await pause(400)
      await page.keyboard.up('a')
    })
    expect(largest(sound[0]!)).toBeGreaterThan(0.2)
  })

  it('takes MIDI when the browser grants it, and says so in words when not', async () => {
    await buildVoice()
    const go = (label: string): Promise<void> => pressNamed(page, 'a.nav', label)
    const ask = (): Promise<void> => pressNamed(page, 'main button', 'Ask for MIDI')
    await page.evaluate(() => {
      Object.defineProperty(navigator, 'requestMIDIAccess', {
        configurable: true,
        value: () => Promise.reject(new Error('no')),
      })
    })
    await go('Devices')
    await ask()
    await page.waitForFunction(() => document.body.textContent?.includes('The browser did not allow MIDI'))
    await page.evaluate(() => {
      const input = {
        name: 'Test keys',
        onmidimessage: null as ((event: { data: Uint8Array }) => void) | null,
      }
      Object.assign(window, { testKeys: input })
      Object.defineProperty(navigator, 'requestMIDIAccess', {
        configurable: true,
        value: () => Promise.resolve({ inputs: new Map([['a', input]]), onstatechange: null }),
      })
    })
    await ask()
    await page.waitForFunction(() => document.body.textContent?.includes('Test keys'))
    await go('Bench')
    await page.waitForSelector('[data-module="osc"]')
    const send = (...bytes: number[]): Promise<void> =>
      page.evaluate((data) => {
        ;(
          window as unknown as { testKeys: { onmidimessage(event: { data: Uint8Array }): void } }
        ).testKeys.onmidimessage({ data: Uint8Array.from(data) })
      }, bytes)
    const sound = await record(async () => {
      await send(0x90, 81, 100)
      await pause(800)
      await send(0x80, 81, 0)
      await pause(300)
    })
    const start = sound[0]!.findIndex((x) => x !== 0)
    expect(Math.abs(centsBetween(frequencyOf(sound[0]!, 880, 48000, start + 9600, 24000), 880))).toBeLessThan(
      0.5,
    )
  })

  it('plays from the keys on screen and pins a probe', async () => {
    await buildVoice()
    await pressNamed(page, '[role="tab"]', 'Keys')
    const key = await centre('[data-note="69"]')
    const sound = await record(async () => {
      await page.mouse.move(key.x, key.y + 40)
      await page.mouse.down()
      await pause(900)
      await page.mouse.up()
      await pause(300)
    })
    const start = sound[0]!.findIndex((x) => x !== 0)
    expect(Math.abs(centsBetween(frequencyOf(sound[0]!, 440, 48000, start + 9600, 28800), 440))).toBeLessThan(
      0.5,
    )
    await page.keyboard.down('Shift')
    const out = await centre('[data-module="osc"] .row.out')
    await page.mouse.click(out.x, out.y)
    await page.keyboard.up('Shift')
    await page.waitForSelector('[data-slot="A"] canvas[aria-label^="Scope of "]:not([aria-label$="Output"])')
  })

  it('plays every demo patch from its first key, without the guard lighting up', async () => {
    for (const name of [
      'Engine Room',
      'Fault Siren',
      'Fog Signal',
      'Harbour Bell',
      'Keeper',
      'Mooring Line',
      'Overtone Lantern',
      'Rain on Glass',
      'Slate Drum',
      'Storm Wire',
    ]) {
      await choose(name)
      const sound = await record(async () => {
        await page.keyboard.down('a')
        await pause(900)
        await page.keyboard.up('a')
      })
      expect(largest(sound[0]!), name).toBeGreaterThan(0.01)
      expect(largest(sound[0]!), name).toBeLessThan(0.9)
      await page.keyboard.press('Escape')
    }
    expect(opened.problems).toEqual([])
  })

  it('takes a formula in a field, says what is wrong with another, and edits a sequence', async () => {
    await choose('Keeper')
    await pressCard(page, 'filter')
    const field = 'aside [data-param="resonance"]'
    await page.waitForSelector(field)
    const type = async (text: string): Promise<void> => {
      await page.focus(field)
      await page.keyboard.press('Enter')
      await page.waitForSelector('aside [aria-label="Resonance, type a value"]')
      await page.keyboard.type(text)
      await page.keyboard.press('Enter')
      await pause(150)
    }
    await type('= 0.2 +')
    await page.waitForFunction(() => document.body.textContent?.includes('found the end; expected a number'))
    await page.keyboard.press('Escape')
    await type('= 0.1 + 0.5 * notes.velocity')
    expect((await exported()).modules.find((module) => module.id === 'filter')!.params!['resonance']).toBe(
      '= 0.1 + 0.5 * notes.velocity',
    )
    await pressCard(page, 'five')
    await page.waitForSelector('[data-testid="module-picture"]')
    await page.click('button[aria-label="on 2"]')
    await pause(150)
    const five = (await exported()).modules.find((module) => module.id === 'five') as unknown as {
      data: { on: boolean[] }
    }
    expect(five.data.on.slice(0, 3)).toEqual([true, false, true])
    await page.keyboard.press('Escape')
    await page.keyboard.down('Control')
    await page.keyboard.press('z')
    await page.keyboard.press('z')
    await page.keyboard.up('Control')
    await pause(150)
    expect((await exported()).modules.find((module) => module.id === 'filter')!.params!['resonance']).toBe(
      0.35,
    )
  })
})
