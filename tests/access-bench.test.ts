/** A checker of accessibility on the parts of the bench that come on demand, by day and by night. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { violations } from './support/axe.ts'
import { openPage, pause, serve, type Served } from './support/browser.ts'
import { choose, importPatch, pressCard, pressNamed, withCtrl } from './support/page.ts'
import { selectCards, withCtrlAlt } from './support/wiring-bench.ts'

const DOCK = 'section[aria-label="Dock"]'

let server: Served
beforeAll(async () => {
  server = await serve()
})
afterAll(() => {
  server.stop()
})

describe.each(['light', 'dark'])('a checker finds nothing, %s', (scheme) => {
  it('on a group, its inside, the outline, several modules, what is kept, and a version on the chart', async () => {
    const { page, close } = await openPage(server.address)
    await page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: scheme }])
    await pause(300)
    const found: Record<string, string[]> = {}
    const look = async (what: string): Promise<void> => {
      await pause(250)
      found[what] = await violations(page, scheme === 'dark' ? ['color-contrast'] : undefined)
    }
    await selectCards(page, ['filter', 'amp'])
    await page.waitForSelector('aside h2')
    await look('several')
    await withCtrl(page, 'g')
    await page.waitForSelector('[data-module="group"] input')
    await page.keyboard.type('Tone')
    await page.keyboard.press('Enter')
    await page.waitForSelector('ul[aria-label="inputs of the group"]')
    await look('group')
    await withCtrl(page, 'ArrowDown')
    await page.waitForSelector('nav[aria-label="Open group"]')
    await look('in a group')
    await withCtrl(page, 'ArrowUp')
    await withCtrlAlt(page, 'o')
    await page.waitForSelector('[role="treeitem"][tabindex="0"]')
    await page.focus('[role="treeitem"][tabindex="0"]')
    await page.keyboard.press('ArrowRight')
    await look('outline')
    await withCtrlAlt(page, 'o')
    await page.click('.rail-button[aria-label="Kept sections and modules"]')
    await page.waitForSelector('.drawer h3')
    await look('kept')
    await page.keyboard.press('Escape')
    await choose(page, 'Versions')
    await (await page.waitForSelector('input[aria-label="Name of the version"]'))!.type('Grouped')
    await page.keyboard.press('Enter')
    await pressNamed(page, '[role="dialog"] button', 'On the chart')
    await page.waitForSelector('[data-compared]')
    await pressCard(page, 'out')
    await page.keyboard.press('Delete')
    await withCtrlAlt(page, 'k')
    await page.waitForSelector('[data-load]')
    await look('version and loads')
    await page.keyboard.press('Escape')
    await page.keyboard.press('Escape')
    await page.waitForSelector('ol[aria-label="Steps, the latest first"]')
    await look('history')
    expect(Object.fromEntries(Object.entries(found).filter(([, all]) => all.length > 0))).toEqual({})
    await close()
  })

  it('on what is drawn in the dock', async () => {
    const { page, close } = await openPage(server.address)
    await page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: scheme }])
    await choose(page, 'Engine Room')
    const found: Record<string, string[]> = {},
      rules = scheme === 'dark' ? ['color-contrast'] : undefined
    const look = async (id: string, tab: string): Promise<void> => {
      await pressCard(page, id)
      await pressNamed(page, '[role="tab"]', tab)
      await page.waitForSelector('[data-editor]')
      await pause(400)
      found[id] = await violations(page, rules, DOCK)
    }
    await look('steps', 'Steps')
    await importPatch(page, {
      format: 'ypsilon/patch',
      version: 1,
      name: 'Drawn',
      modules: [
        { id: 'con', type: 'contour', x: 0, y: 0 },
        { id: 'clip', type: 'pattern', data: { notes: [{ start: 0, length: 1, note: 60 }] }, x: 240, y: 0 },
        { id: 'mist', type: 'wavetable', x: 480, y: 0 },
        { id: 'sum', type: 'formula', x: 0, y: 420 },
        { id: 'keys', type: 'sampler', data: { zones: [{ lowKey: 40 }, { highKey: 39 }] }, x: 240, y: 420 },
        { id: 'bend', type: 'shaper', x: 480, y: 420 },
        { id: 'out', type: 'output', x: 720, y: 0 },
      ],
      cables: [{ id: 'o', from: 'mist.a', to: 'out.in' }],
    } as { name: string })
    await look('con', 'Contour')
    await page.focus('[data-point="1"]')
    const drawn = [
      ['con', 'Contour'],
      ['clip', 'Pattern'],
      ['sum', 'Formula'],
      ['keys', 'Sampler'],
      ['mist', 'Wavetable'],
      ['bend', 'Shaper'],
    ] as const
    // The last two have no words of their own: by night nothing of them can be too faint.
    for (const [id, tab] of scheme === 'dark' ? drawn.slice(0, 4) : drawn) await look(id, tab)
    // The probe, comparing, and what a slot's sheet offers; the editor stands in the inspector meanwhile.
    await pressNamed(page, '[role="tab"]', 'Probe')
    await pressNamed(page, '.probe-tools button', 'Compare')
    await page.waitForSelector('[data-compare]')
    found['comparing'] = await violations(page, rules, DOCK)
    await pressNamed(page, '.probe-tools button', 'Compare')
    await page.click('button[aria-label="More of slot B"]')
    await pause(300)
    found['slots'] = await violations(page, rules)
    expect(Object.fromEntries(Object.entries(found).filter(([, all]) => all.length > 0))).toEqual({})
    await close()
  })
})
