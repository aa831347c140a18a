/** Sound that obeys: silence, first keys, stuck keys, devices that go, a context that is held back. */
import type { Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openPage, pause, serve, type Served } from './support/browser.ts'
import { choose, importPatch, pressCard, record, said } from './support/page.ts'

let server: Served
beforeAll(async () => {
  server = await serve()
})
afterAll(() => {
  server.stop()
})

const RATE = 48000
const largest = (samples: Float32Array, from = 0, to = samples.length): number => {
  let most = 0
  for (let i = from; i < to; i += 1) most = Math.max(most, Math.abs(samples[i]!))
  return most
}
const largestStep = (samples: Float32Array): number => {
  let most = 0
  for (let i = 1; i < samples.length; i += 1) most = Math.max(most, Math.abs(samples[i]! - samples[i - 1]!))
  return most
}
/** A patch that sounds for ever without anybody playing, with a long tail behind it. */
const DRONE = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'Drone',
  modules: [
    { id: 'osc', type: 'oscillator', x: 0, y: 0 },
    { id: 'comb', type: 'comb', x: 240, y: 0, params: { feedback: 0.995 } },
    { id: 'out', type: 'output', x: 480, y: 0 },
  ],
  cables: [
    { from: 'osc.saw', to: 'comb.in', amount: 0.2 },
    { from: 'comb.out', to: 'out.in', amount: 0.4 },
  ],
}
const silences = async (page: Page): Promise<void> => {
  await page.keyboard.press('Escape')
  await pause(60)
  await page.keyboard.press('Escape')
}
const isSilenced = async (page: Page): Promise<boolean> => (await page.$('::-p-text(Play on)')) !== null

describe('silence', () => {
  it('by two Escapes ends drones and tails within 30 ms, until somebody plays on', async () => {
    const { page, close } = await openPage(server.address)
    await page.mouse.click(600, 580)
    await importPatch(page, DRONE)
    await pause(400)
    const [left] = await record(page, async () => {
      await pause(300)
      await silences(page)
      await pause(500)
    })
    const loud = left!.findLastIndex((x) => Math.abs(x) > 0.05),
      last = left!.findLastIndex((x) => x !== 0)
    expect(loud).toBeGreaterThan(0.2 * RATE)
    expect((last - loud) / RATE).toBeLessThan(0.03)
    expect(await isSilenced(page)).toBe(true)
    // An edit does not end it; playing on does.
    await pressCard(page, 'comb')
    await page.keyboard.press('ArrowRight')
    await pause(200)
    expect(await isSilenced(page)).toBe(true)
    await (await page.$('::-p-text(Play on)'))!.click()
    const [again] = await record(page, () => pause(300))
    expect(largest(again!)).toBeGreaterThan(0.05)
    await close()
  })

  it('is not meant by an Escape that gave something up, but by three', async () => {
    const { page, close } = await openPage(server.address)
    await page.mouse.click(600, 580)
    await importPatch(page, DRONE)
    await page.keyboard.press('/')
    await page.waitForSelector('[role="dialog"] input')
    await silences(page)
    await pause(200)
    expect(await isSilenced(page)).toBe(false)
    await page.keyboard.press('/')
    await page.waitForSelector('[role="dialog"] input')
    await page.keyboard.press('Escape')
    await page.keyboard.press('Escape')
    await page.keyboard.press('Escape')
    await said(page, 'Play on')
    await close()
  })
})

describe('the first key', () => {
  it('sounds, and not for ever, though it is let go before there is sound', async () => {
    const { page, close } = await openPage(server.address)
    await page.keyboard.press('a')
    await page.waitForFunction(() => document.querySelector('[data-peak]')!.textContent !== '−∞', {
      timeout: 8000,
    })
    await pause(2500)
    const [left] = await record(page, () => pause(300))
    expect(largest(left!)).toBeLessThan(1e-4)
    await close()
  })

  it('if it is Space, starts the sound with the transport running', async () => {
    const { page, close } = await openPage(server.address)
    await page.keyboard.press('Space')
    await pause(600)
    expect(await page.$('button[aria-label="Stop the transport"]')).not.toBeNull()
    await page.keyboard.press('Space')
    await pause(200)
    expect(await page.$('button[aria-label="Start the transport"]')).not.toBeNull()
    await close()
  })
})

describe('keys', () => {
  const held = (page: Page): Promise<number> =>
    page.$$eval('[data-note][data-held="true"]', (keys) => keys.length)
  const keysTab = async (page: Page): Promise<void> => {
    await (await page.waitForSelector('::-p-xpath(//*[@role="tab"][.="Keys"])'))!.click()
    await page.waitForSelector('[data-note]')
  }

  it('are let go whatever happens to Shift, focus or window', async () => {
    const { page, close } = await openPage(server.address)
    await keysTab(page)
    await page.keyboard.down(';')
    expect(await held(page)).toBe(1)
    await page.keyboard.down('Shift')
    await page.keyboard.up(':')
    await page.keyboard.up('Shift')
    expect(await held(page)).toBe(0)
    await page.keyboard.down('a')
    await page.focus('input[aria-label="Tempo in beats per minute"]')
    await page.keyboard.up('a')
    expect(await held(page)).toBe(0)
    await page.click('[data-chart]', { offset: { x: 20, y: 20 } })
    await page.keyboard.down('d')
    await page.evaluate(() => {
      window.dispatchEvent(new Event('blur'))
    })
    expect(await held(page)).toBe(0)
    await close()
  })

  it('say their octave and velocity', async () => {
    const { page, close } = await openPage(server.address)
    await keysTab(page)
    const words = (name: string): Promise<string | null> =>
      page.$eval(`[data-${name}]`, (item) => item.textContent)
    expect(await words('octave')).toBe('A plays C4')
    await page.keyboard.press('z')
    await page.keyboard.press('n')
    expect(await words('octave')).toBe('A plays C3')
    expect(await words('velocity')).toBe('velocity 70 %')
    await close()
  })

  it('of MIDI are not asked for before somebody wants them', async () => {
    const { page, close } = await openPage('about:blank')
    await page.evaluateOnNewDocument(() => {
      const asked = { count: 0 }
      Object.assign(window, { asked })
      Object.defineProperty(navigator, 'requestMIDIAccess', {
        configurable: true,
        value: () => {
          asked.count += 1
          return Promise.reject(new Error('no'))
        },
      })
    })
    await page.goto(server.address, { waitUntil: 'networkidle0' })
    await page.keyboard.press('a')
    await pause(400)
    expect(await page.evaluate(() => (window as unknown as { asked: { count: number } }).asked.count)).toBe(0)
    await close()
  })

  it('of MIDI light up, end with their device, and obey 120 and 123', async () => {
    const { page, close } = await openPage(server.address)
    await page.evaluate(() => {
      const input = { id: 'in', name: 'Pier keys', state: 'connected', onmidimessage: null as unknown }
      const access = { inputs: new Map([['in', input]]), onstatechange: null as (() => void) | null }
      Object.assign(window, {
        send: (...bytes: number[]) => {
          ;(input.onmidimessage as (event: { data: Uint8Array }) => void)({ data: Uint8Array.from(bytes) })
        },
        unplug: () => {
          input.state = 'disconnected'
          access.inputs.clear()
          access.onstatechange!()
        },
      })
      Object.defineProperty(navigator, 'requestMIDIAccess', {
        configurable: true,
        value: () => Promise.resolve(access),
      })
    })
    await page.mouse.click(600, 580)
    await page.click('nav a[href="/devices"]')
    await (await page.waitForSelector('::-p-text(Ask for MIDI)'))!.click()
    await said(page, 'Pier keys')
    await page.click('nav a[href="/"]')
    await keysTab(page)
    const send = (...bytes: number[]): Promise<void> =>
      page.evaluate((data) => {
        ;(window as unknown as { send(...all: number[]): void }).send(...data)
      }, bytes)
    await send(0x90, 60, 100)
    await send(0x90, 64, 100)
    await page.waitForFunction(() => document.querySelectorAll('[data-held="true"]').length === 2)
    await send(0xb0, 123, 0)
    await page.waitForFunction(() => document.querySelectorAll('[data-held="true"]').length === 0)
    await send(0x90, 60, 100)
    await send(0xb0, 120, 0)
    await said(page, 'Play on')
    expect(await held(page)).toBe(0)
    await send(0x90, 62, 100)
    await pause(200)
    await page.evaluate(() => {
      ;(window as unknown as { unplug(): void }).unplug()
    })
    await pause(100)
    expect(await held(page)).toBe(0)
    // The note has been let go: its tail ends.
    await pause(2500)
    const [left] = await record(page, () => pause(250))
    expect(largest(left!)).toBeLessThan(1e-4)
    await close()
  })
})

describe('a context that is held back', () => {
  it('is said where the meter is, and any key starts it', async () => {
    const { page, close } = await openPage(server.address)
    await page.waitForSelector('[data-held]')
    await page.mouse.click(600, 580)
    await page.waitForFunction(() => !document.querySelector('.top-bar [data-held]'))
    await close()
  })

  it('is noticed when it is suspended later', async () => {
    const { page, close } = await openPage('about:blank')
    await page.evaluateOnNewDocument(() => {
      const Real = window.AudioContext
      window.AudioContext = class extends Real {
        constructor(options?: AudioContextOptions) {
          super(options)
          Object.assign(window, { theContext: this })
        }
      }
    })
    await page.goto(server.address, { waitUntil: 'networkidle0' })
    await page.mouse.click(600, 580)
    await page.waitForFunction(() => !document.querySelector('.top-bar [data-held]'))
    await page.evaluate(() => (window as unknown as { theContext: AudioContext }).theContext.suspend())
    await page.waitForSelector('.top-bar [data-held]')
    await page.keyboard.press('F9')
    await page.waitForFunction(() => !document.querySelector('.top-bar [data-held]'))
    await close()
  })
})

describe('a take', () => {
  it('cut in the middle of a sound begins and ends without a click', async () => {
    const { page, close } = await openPage(server.address)
    await choose(page, 'New patch')
    await importPatch(page, {
      ...DRONE,
      modules: [
        { id: 'osc', type: 'oscillator', x: 0, y: 0 },
        { id: 'out', type: 'output', x: 480, y: 0 },
      ],
      cables: [{ from: 'osc.sine', to: 'out.in' }],
    } as typeof DRONE)
    await page.mouse.click(600, 580)
    await pause(500)
    const [left] = await record(page, () => pause(400))
    const full = largest(left!)
    expect(full).toBeGreaterThan(0.2)
    expect(Math.abs(left![0]!)).toBeLessThan(0.01 * full)
    expect(Math.abs(left!.at(-1)!)).toBeLessThan(0.01 * full)
    expect(largestStep(left!)).toBeLessThan(2 * Math.PI * (262 / RATE) * full * 1.2)
    await close()
  })
})
