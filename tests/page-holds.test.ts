/* eslint max-lines: ["error", 500] -- one page, held */
/** What the page holds against: a sound thread that hangs, a store that fails, files of every kind, drawing that breaks. */
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strToU8, unzipSync, zipSync } from 'fflate'
import type { CDPSession, ElementHandle, Page } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeWav } from '../packages/core/src/formats/wav.ts'
import * as hard from '../packages/core/src/testing/hard.ts'
import { ROOT, openPage, pause, reloaded, serve, type Opened, type Served } from './support/browser.ts'
import { choose, downloadBytes, named, nameOf, said } from './support/page.ts'

const folder = mkdtempSync(join(tmpdir(), 'ypsilon-page-'))
const file = (name: string, content: string | Uint8Array): string => {
  writeFileSync(join(folder, name), content)
  return join(folder, name)
}
const demo = (name: string): Record<string, unknown> =>
  JSON.parse(readFileSync(join(ROOT, `demo/patches/${name}.ypatch.json`), 'utf8')) as Record<string, unknown>

let server: Served
beforeAll(async () => {
  server = await serve()
})
afterAll(() => {
  server.stop()
})

const give = async (page: Page, ...paths: string[]): Promise<void> => {
  await ((await page.$('[data-import]')) as ElementHandle<HTMLInputElement>).uploadFile(...paths)
}
describe('the sound thread', () => {
  it('is noticed when it hangs and replaced, with the patch as it stands', async () => {
    const { page, close } = await openPage(server.address)
    const cdp = await page.createCDPSession()
    const worklets: CDPSession[] = []
    cdp.on('Target.attachedToTarget', ({ sessionId, targetInfo }) => {
      if (targetInfo.type === 'worklet') worklets.push(cdp.connection()!.session(sessionId)!)
    })
    await cdp.send('Target.setAutoAttach', { autoAttach: true, waitForDebuggerOnStart: false, flatten: true })
    const hears = async (): Promise<boolean> => {
      for (let n = 0; n < 60; n += 1) {
        await page.keyboard.down('a')
        await pause(120)
        const lit = await page.evaluate(() => document.querySelector('[data-peak]')!.textContent !== '−∞')
        await page.keyboard.up('a')
        if (lit) return true
      }
      return false
    }
    await page.mouse.click(600, 300)
    expect(await hears()).toBe(true)
    const name = await nameOf(page)
    expect(worklets).toHaveLength(1)
    void worklets[0]!.send('Runtime.evaluate', { expression: 'for (;;);' }).catch(() => undefined)
    await said(page, 'The sound stopped answering and was begun anew')
    expect(await nameOf(page)).toBe(name)
    expect(await hears()).toBe(true)
    // Another patch is heard as well.
    await give(page, file('siren.ypatch.json', JSON.stringify(demo('fault-siren'))))
    await named(page, String(demo('fault-siren')['name']))
    expect(await hears()).toBe(true)
    await close()
  })
})

describe('the store', () => {
  it('is told of when it fails, tried again, and the bench works without it', async () => {
    const { page, close } = await openPage(server.address)
    await page.evaluate(() => {
      const put = IDBObjectStore.prototype.put
      Object.assign(window, { letKeep: () => (IDBObjectStore.prototype.put = put) })
      IDBObjectStore.prototype.put = () => {
        throw new DOMException('no room', 'QuotaExceededError')
      }
    })
    await page.mouse.click(600, 300)
    await page.keyboard.down('Control')
    await page.keyboard.press('a')
    await page.keyboard.press('d')
    await page.keyboard.up('Control')
    await said(page, 'not kept: no room left in the browser')
    await page.waitForSelector('::-p-text(Export now)')
    expect(await page.$$eval('[data-module]', (cards) => cards.length)).toBeGreaterThan(2)
    await page.evaluate(() => {
      ;(window as unknown as { letKeep(): void }).letKeep()
    })
    await said(page, 'kept just now')
    expect(await page.$('::-p-text(Export now)')).toBeNull()
    await close()
  })

  it('may be missing altogether', async () => {
    const { page, close } = await openPage('about:blank')
    await page.evaluateOnNewDocument(() => {
      for (const name of ['indexedDB', 'localStorage', 'sessionStorage'])
        Object.defineProperty(window, name, {
          get: () => {
            throw new DOMException('denied', 'SecurityError')
          },
        })
    })
    await page.goto(server.address, { waitUntil: 'networkidle0' })
    await page.waitForSelector('[data-module]')
    await give(page, file('bell.ypatch.json', JSON.stringify(demo('harbour-bell'))))
    await named(page, 'Harbour Bell')
    await said(page, 'not kept')
    await close()
  })
})

describe('drawing that breaks', () => {
  it('offers to put the patch aside, to export it, to reload; the next visit is whole', async () => {
    const { page, close } = await openPage(server.address)
    await give(
      page,
      file('bell2.ypatch.json', JSON.stringify({ ...demo('harbour-bell'), name: 'Broken bell' })),
    )
    await named(page, 'Broken bell')
    await said(page, 'kept just now')
    await page.click('nav a[href="/guide"]')
    await page.waitForFunction(() => !document.querySelector('.react-flow'))
    await page.evaluate(() => {
      const broken = (): never => {
        throw new Error('drawn badly')
      }
      window.ResizeObserver = class {
        constructor() {
          broken()
        }
      } as never
    })
    await page.evaluate(() => {
      document.querySelector<HTMLElement>('nav a[href="/"]')!.click()
    })
    await said(page, 'cannot be shown')
    for (const text of ['Put this patch aside', 'Export it', 'Reload'])
      expect(await page.$(`::-p-text(${text})`), text).not.toBeNull()
    expect(await nameOf(page)).toBe('Broken bell')
    await page.evaluate(() => {
      ;[...document.querySelectorAll('button')]
        .find((item) => item.textContent === 'Put this patch aside')!
        .click()
    })
    await named(page, 'Untitled')
    await reloaded(page)
    await page.waitForSelector('.react-flow')
    expect(await nameOf(page)).not.toBe('Broken bell')
    // It is put aside, not gone.
    await page.click('nav a[href="/devices"]')
    await page.waitForSelector('button[aria-label="Take Broken bell back"]')
    await close()
  })

  it('never comes from a name that every object has, nor from what is unknown', async () => {
    const { page, problems, close } = await openPage(server.address)
    for (const name of ['constructor', '__proto__', 'toString', 'hasOwnProperty']) {
      const text = JSON.stringify({
        ...demo('harbour-bell'),
        name: `Called ${name}`,
        modules: [
          ...(demo('harbour-bell')['modules'] as object[]),
          { id: 'w', type: 'wavetable', data: { table: name }, x: 0, y: 0 },
          { id: 'z', type: name, params: { [`p${name}`]: 1 }, x: 300, y: 0 },
        ],
        assets: { NAME: { kind: 'table', file: 'assets/none.wav' } },
      }).replace('"NAME"', `"${name}"`)
      await give(page, file(`${name}.ypatch.json`, text))
      await named(page, `Called ${name}`)
      await said(page, 'kept just now')
      await page.evaluate(() => {
        document.querySelector<HTMLElement>('[data-module="w"] .head')?.click()
      })
      await reloaded(page)
      await named(page, `Called ${name}`)
    }
    expect(problems).toEqual([])
    await close()
  })
})

describe('files', () => {
  let opened: Opened
  beforeAll(async () => {
    opened = await openPage(server.address)
  })
  afterAll(() => opened.close())
  const wav = writeWav(
    { rate: 48000, channels: [Float32Array.from({ length: 4096 }, (_, i) => Math.sin((i * Math.PI) / 128))] },
    '16',
  )

  it('come in as archives with their audio, and go out so', async () => {
    const { page } = opened
    const patch = {
      ...demo('harbour-bell'),
      name: 'Archived',
      modules: [
        ...(demo('harbour-bell')['modules'] as object[]),
        { id: 'w', type: 'wavetable', data: { table: 'hum' }, x: 0, y: 0 },
      ],
      assets: { hum: { kind: 'table', file: 'assets/hum.wav' } },
    }
    await give(
      page,
      file('a.ypatch.zip', zipSync({ 'patch.json': strToU8(JSON.stringify(patch)), 'assets/hum.wav': wav })),
    )
    await named(page, 'Archived')
    const downloads = mkdtempSync(join(tmpdir(), 'ypsilon-out-'))
    const cdp = await page.createCDPSession()
    await cdp.send('Browser.setDownloadBehavior', {
      behavior: 'allow',
      downloadPath: downloads,
      eventsEnabled: true,
    })
    const complete = new Promise<void>((resolve) => {
      cdp.on('Browser.downloadProgress', ({ state }) => {
        if (state === 'completed') resolve()
      })
    })
    await page.click('button[aria-label^="Patch "]')
    await page.waitForSelector('[role="menuitem"]')
    await page.evaluate(() => {
      const item = [...document.querySelectorAll<HTMLElement>('[role="menuitem"]')].find((entry) =>
        entry.textContent!.startsWith('Export'),
      )!
      item.focus()
    })
    await page.keyboard.press('Enter')
    await complete
    const entries = unzipSync(new Uint8Array(readFileSync(join(downloads, 'archived.ypatch.zip'))))
    expect(Object.keys(entries).sort()).toEqual(['assets/hum.wav', 'patch.json'])
    expect(Buffer.from(entries['assets/hum.wav']!).equals(Buffer.from(wav))).toBe(true)
  })

  it('that are broken or empty are said, leave the rest to play, and go out as they came in', async () => {
    const { page } = opened
    const broken = wav.subarray(0, 30),
      empty = writeWav({ rate: 48000, channels: [new Float32Array(0)] }, '16')
    const bell = demo('harbour-bell')
    const patch = {
      ...bell,
      name: 'Half there',
      modules: [
        ...(bell['modules'] as object[]),
        { id: 'p', type: 'player', params: { asset: 'torn' }, x: 0, y: 0 },
      ],
      assets: {
        torn: { kind: 'audio', file: 'assets/torn.wav' },
        none: { kind: 'audio', file: 'assets/none.wav' },
      },
    }
    const inside = {
      'patch.json': strToU8(JSON.stringify(patch)),
      'assets/torn.wav': broken,
      'assets/none.wav': empty,
    }
    await give(page, file('b.ypatch.zip', zipSync(inside)))
    await named(page, 'Half there')
    await page.waitForFunction(
      () =>
        document.body.textContent.includes('assets.torn (assets/torn.wav): ') &&
        document.body.textContent.includes(
          'assets.none (assets/none.wav): it holds no samples; what needs it is silent',
        ),
    )
    const zip = unzipSync(new Uint8Array(await downloadBytes(page, () => choose(page, 'Export'))))
    expect(Buffer.from(zip['assets/torn.wav']!).equals(Buffer.from(broken))).toBe(true)
    expect(Buffer.from(zip['assets/none.wav']!).equals(Buffer.from(empty))).toBe(true)
  })

  it('dropped anywhere come in, and the browser opens none', async () => {
    const { page } = opened
    const drop = (selector: string, name: string, content: number[]): Promise<boolean> =>
      page.evaluate(
        (where, title, bytes) => {
          const transfer = new DataTransfer()
          transfer.items.add(new File([new Uint8Array(bytes)], title))
          const target = document.querySelector(where)!
          const over = new DragEvent('dragover', { bubbles: true, cancelable: true, dataTransfer: transfer })
          const down = new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: transfer })
          target.dispatchEvent(over)
          target.dispatchEvent(down)
          return over.defaultPrevented && down.defaultPrevented
        },
        selector,
        name,
        content,
      )
    const bytes = (value: unknown): number[] => [...strToU8(JSON.stringify(value))]
    for (const [at, selector] of ['header', '.react-flow', 'body'].entries()) {
      expect(
        await drop(selector, 'd.ypatch.json', bytes({ ...demo('harbour-bell'), name: `Dropped ${at}` })),
      ).toBe(true)
      await named(page, `Dropped ${at}`)
    }
    expect(await drop('header', 'picture.png', [0x89, 0x50, 0x4e, 0x47])).toBe(true)
    await said(page, 'picture.png was not opened; your patch is unchanged')
    expect(page.url()).toBe(`${server.address}/`)
    expect(await nameOf(page)).toBe('Dropped 2')
  })

  it('of audio, notes and scales come into the patch, each as one step that can be undone', async () => {
    const { page } = opened
    const count = (): Promise<number> => page.$$eval('[data-module]', (cards) => cards.length)
    await give(page, file('new.ypatch.json', JSON.stringify({ ...demo('harbour-bell'), name: 'Taking in' })))
    await named(page, 'Taking in')
    const before = await count()
    await give(page, file('quay hum.wav', wav))
    await said(page, 'quay hum.wav is in player now')
    const midi = Uint8Array.from([
      0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 0, 0, 1, 0, 96, 0x4d, 0x54, 0x72, 0x6b, 0, 0, 0, 12, 0, 0x90, 60,
      100, 96, 0x80, 60, 0, 0, 0xff, 0x2f, 0,
    ])
    await give(page, file('tide.mid', midi))
    await said(page, '1 notes of tide.mid stand in pattern now: 1 bars, 1 voices')
    await give(page, file('five.scl', '! five.scl\n!\nFive\n 5\n!\n240.\n480.\n720.\n960.\n2/1\n'))
    await said(page, 'The patch is tuned to five.scl')
    expect(await count()).toBe(before + 2)
    await page.mouse.click(700, 560)
    await page.keyboard.down('Control')
    for (let n = 0; n < 3; n += 1) await page.keyboard.press('z')
    await page.keyboard.up('Control')
    await pause(300)
    expect(await count()).toBe(before)
  })

  it('that cannot be read leave everything as it is, and say why', async () => {
    const { page } = opened
    const name = await nameOf(page)
    const bad: [string, string | Uint8Array, string][] = [
      ['a.zip', zipSync({ 'other.txt': strToU8('x') }), 'no patch.json'],
      ['b.mid', Uint8Array.from([0x4d, 0x54, 0x68, 0x64, 0, 0]), 'byte 0'],
      ['c.wav', strToU8('RIFF....WAVE'), 'c.wav was not opened'],
      ['d.scl', 'nothing of a scale', 'd.scl was not opened'],
      ['e.json', '{', 'this is not JSON'],
      ['f.ypatch.json', JSON.stringify({ ...demo('harbour-bell'), assets: { a: null } }), 'assets.a'],
      [
        'g.ypatch.json',
        JSON.stringify({
          format: 'ypsilon/patch',
          version: 1,
          name: 'Greedy',
          modules: Array.from({ length: 40 }, (_, n) => ({
            id: `d${n}`,
            type: 'delayline',
            params: { max: 300 },
          })),
          cables: [],
        }),
        'was not opened; your patch is unchanged',
      ],
    ]
    for (const [title, content, words] of bad) {
      await give(page, file(title, content))
      await said(page, words)
      expect(await nameOf(page)).toBe(name)
    }
  })

  it('that are hard to walk open like any other', async () => {
    const { page } = opened
    const patches = {
      'Ring of buses': hard.ringOfBuses(22),
      'Row of buses': hard.rowOfBuses(22),
      'Group in itself': hard.circularGroup(),
      'Bypassed ring': hard.bypassedRing(4),
      'Layers of formulas': hard.layeredFormulas(25),
      'Chain of formulas': hard.chainedFormulas(1500),
      'Layers of macros': hard.layeredMacros(30),
    }
    for (const [name, patch] of Object.entries(patches)) {
      await give(page, file('h.ypatch.json', JSON.stringify({ ...patch, name })))
      await named(page, name)
    }
  })

  it('of much memory say how much, before they are there', async () => {
    const { page } = opened
    await page.evaluate(() => {
      const seen: string[] = []
      Object.assign(window, { seenMemory: seen })
      new MutationObserver(() => {
        const words = document.querySelector('[data-testid="opening"]')?.textContent
        if (words) seen.push(words)
      }).observe(document.body, { childList: true, subtree: true, characterData: true })
    })
    const modules = Array.from({ length: 6 }, (_, n) => ({
      id: `d${n}`,
      type: 'delayline',
      params: { max: 60 },
    }))
    await give(
      page,
      file(
        'm.ypatch.json',
        JSON.stringify({ format: 'ypsilon/patch', version: 1, name: 'Wide', modules, cables: [] }),
      ),
    )
    await named(page, 'Wide')
    const seen = await page.evaluate(() =>
      (window as unknown as { seenMemory: string[] }).seenMemory.join(' '),
    )
    expect(seen).toMatch(/6 modules, \d+ MiB of memory/)
  })

  it('of the largest kind open with words on the screen, drawn as far as they are seen', async () => {
    const { page } = opened
    await page.evaluate(() => {
      const seen: string[] = []
      Object.assign(window, { seen })
      new MutationObserver(() => {
        const words = document.querySelector('[data-testid="opening"]')?.textContent
        if (words && seen.at(-1) !== words) seen.push(words)
      }).observe(document.body, { childList: true, subtree: true, characterData: true })
    })
    await give(
      page,
      file(
        'big.ypatch.json',
        JSON.stringify({ ...hard.large(1500, 3000), name: 'Big harbour', view: { note: 'x'.repeat(1e6) } }),
      ),
    )
    await named(page, 'Big harbour')
    await page.waitForFunction(() => !document.querySelector('[data-testid="opening"]'))
    expect(await page.evaluate(() => (window as unknown as { seen: string[] }).seen.join(' '))).toContain(
      '1500 modules',
    )
    const drawn = await page.$$eval('[data-module]', (cards) => cards.length)
    expect(drawn).toBeGreaterThan(3)
    expect(drawn).toBeLessThan(400)
  })
})
