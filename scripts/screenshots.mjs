// Takes the pictures of docs/screenshots from the built application and its demo data (1280 × 800).
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { openBrowser, pause } from './browser.mjs'
import { root } from './ready.mjs'

const folder = join(root, 'docs/screenshots')
mkdirSync(folder, { recursive: true })
const { address, browser, close } = await openBrowser(4890)
const page = await browser.newPage()
const shot = (name) => page.screenshot({ path: join(folder, `${name}.png`) })
const choose = async (item, isShipped = false) => {
  await page.click('button[aria-label^="Patch "]')
  await page.waitForSelector('[role="menuitem"]')
  const items = await page.$$('[role="menuitem"]')
  for (const element of isShipped ? items.reverse() : items)
    if ((await element.evaluate((node) => node.textContent)).startsWith(item)) {
      await element.click()
      break
    }
  await pause(500)
}
/** Presses the top of a card, which selects it at every distance. */
const press = async (id) => {
  const { x, y, width } = await (await page.waitForSelector(`[data-module="${id}"]`)).boundingBox()
  await page.mouse.click(x + Math.min(40, width / 2), y + 6)
}
const tab = async (name) => {
  for (const element of await page.$$('[role="tab"]'))
    if ((await element.evaluate((node) => node.textContent)) === name) await element.click()
}

try {
  await page.goto(address, { waitUntil: 'networkidle0' })
  await pause(400)
  for (const key of ['a', 'd', 'g']) await page.keyboard.down(key)
  await pause(900)
  await press('filter')
  await pause(900)
  await shot('bench')
  for (const key of ['a', 'd', 'g']) await page.keyboard.up(key)
  await page.click('button[aria-label="Night"]')
  await choose('Gull Tape')
  await tab('Keys')
  await page.keyboard.press('h')
  await pause(250)
  await page.keyboard.down('k')
  await pause(120)
  await shot('bench-night')
  await page.keyboard.up('k')
  await page.click('button[aria-label="Day"]')
  await choose('Keeper')
  await page.keyboard.down('a')
  await page.keyboard.press('3')
  await pause(1200)
  await press('eight')
  await pause(600)
  await tab('Steps')
  await pause(1200)
  await shot('bench-steps')
  await tab('Keys')
  await pause(900)
  await page.keyboard.up('a')
  await choose('Fault')
  await press('mouth')
  await pause(400)
  await shot('bench-siren')
  await choose('Rain')
  for (const key of ['a', 'g']) await page.keyboard.down(key)
  await pause(1200)
  const { x, y, width, height } = await (await page.$('[data-module="filter"]')).boundingBox()
  await page.mouse.move(x + width / 2, y + height / 2)
  await pause(700)
  await page.mouse.move(x + width / 2 + 6, y + height / 2)
  await pause(300)
  await shot('bench-distance')
  for (const key of ['a', 'g']) await page.keyboard.up(key)
  await choose('Reed Lamp')
  await pause(600)
  // Its envelope loses its gate.
  const gate = await page.$eval('path[data-cable="c3"]', (path) => {
    const { x, y } = path.getPointAtLength(path.getTotalLength() / 2),
      { a, d, e, f } = path.getScreenCTM()
    return { x: x * a + e, y: y * d + f }
  })
  await page.mouse.click(gate.x, gate.y)
  await page.keyboard.press('Delete')
  await page.keyboard.down('Control')
  await page.keyboard.press('.')
  await page.keyboard.up('Control')
  await pause(3000)
  await shot('bench-silent')
  await page.keyboard.press('Escape')
  await choose('Rain')
  await pause(900)
  const holding = async (keys, act) => {
    for (const key of keys) await page.keyboard.down(key)
    await act()
    for (const key of [...keys].reverse()) await page.keyboard.up(key)
    await pause(300)
  }
  const several = (ids) =>
    holding(['Control'], async () => {
      for (const id of ids) await press(id)
    })
  const pressed = (keys, key) => holding(keys, () => page.keyboard.press(key))
  /** A module that is found by its name, and added. */
  const added = async (name) => {
    await page.keyboard.press('/')
    await (await page.waitForSelector('[role="dialog"] input')).type(name)
    await pause(200)
    await page.keyboard.press('Enter')
    await pause(600)
  }
  /** One of the words of the menu that is open. */
  const word = async (wanted) => {
    await page.waitForSelector('[role="menuitemradio"]')
    for (const item of await page.$$('[role="menuitemradio"]'))
      if ((await item.evaluate((node) => node.textContent)) === wanted) await item.click()
  }
  /** All of it laid out anew, and a module of it selected. */
  const tidied = async (id) => {
    await page.keyboard.press('Escape')
    await pressed(['Control'], 'l')
    await pause(1500)
    await press(id)
    await pause(400)
  }
  await several(['step1', 'scale1', 'pane1', 'place1', 'step2', 'scale2', 'pane2', 'place2'])
  await pressed(['Control'], 'g')
  await pause(600)
  await page.keyboard.type('Two panes')
  await page.keyboard.press('Enter')
  await pause(300)
  await pressed(['Control'], 'ArrowDown')
  await page.keyboard.down('a')
  await pause(1200)
  await shot('bench-group')
  await page.keyboard.up('a')
  await pressed(['Control'], 'z')
  await pressed(['Control'], 'z')
  await choose('Versions')
  await (await page.waitForSelector('input[aria-label="Name of the version"]')).type('Before the storm')
  await page.keyboard.press('Enter')
  await pause(600)
  await page.keyboard.press('Escape')
  await pause(300)
  await press('step3')
  await page.keyboard.press('Delete')
  await press('filter')
  await (await page.waitForSelector('aside [data-param="resonance"]')).focus()
  for (let n = 0; n < 20; n += 1) await page.keyboard.press('ArrowRight')
  await press('panes')
  await pressed(['Control'], 'd')
  await choose('Versions')
  await pause(500)
  await page.$$eval('[role="dialog"] button', (all) => {
    all.find(({ textContent }) => textContent === 'On the chart').click()
  })
  await pause(900)
  await shot('bench-version')
  await page.keyboard.press('Escape')
  await choose('Reed Lamp', true)
  await pause(900)
  await pressed(['Control', 'Alt'], 'o')
  await (await page.waitForSelector('[role="treeitem"][tabindex="0"]')).focus()
  while (!(await page.evaluate(() => document.activeElement.textContent)).includes('Filter'))
    await page.keyboard.press('ArrowDown')
  await page.keyboard.press('ArrowRight')
  for (let n = 0; n < 5; n += 1) await page.keyboard.press('ArrowDown')
  await pause(600)
  await shot('bench-outline')
  await pressed(['Control', 'Alt'], 'o')
  await several(['low', 'high'])
  await pressed(['Control', 'Alt'], 'k')
  await pause(4000)
  await shot('bench-several')
  await pressed(['Control', 'Alt'], 'k')
  await choose('Reed Lamp', true)
  await pause(900)
  await added('contour')
  await tidied('contour')
  await tab('Contour')
  await pause(900)
  await shot('editor-contour')
  await choose('Overtone', true)
  await pause(900)
  await added('pattern')
  await tidied('pattern')
  await tab('Pattern')
  await page.waitForSelector('[data-clip]')
  await pause(600)
  const field = await (await page.$('[data-clip]')).boundingBox()
  const rows = await page.$$eval('.clip-row', (all) => [
    all.length,
    all.findIndex((row) => row.textContent === 'C4'),
  ])
  const [count, ofC] = rows
  for (const [bar, chord] of [
    [53, 57, 60, 64],
    [50, 57, 60, 65],
    [55, 59, 62, 65],
    [48, 55, 60, 64],
  ].entries())
    for (const [n, note] of chord.entries()) {
      const at = (beat) => field.x + (field.width * (4 * bar + beat)) / 16
      const y = field.y + (field.height * (60 + ofC - note + 0.5)) / count
      await page.mouse.move(at(n * 0.25 + 0.03), y)
      await page.mouse.down()
      await page.mouse.move(at(3.5), y, { steps: 3 })
      await page.mouse.up()
    }
  await pause(900)
  await shot('editor-pattern')
  await choose('New patch')
  await added('wavetable')
  await page.waitForSelector('aside button[aria-label^="table of"]')
  await page.click('aside button[aria-label^="table of"]')
  await word('formant')
  await tab('Wavetable')
  await page.waitForSelector('[data-table-stack]')
  await pause(900)
  await shot('editor-table')
  await choose('Harbour', true)
  await pause(900)
  const look = async (port, slot, carrier, modulator) => {
    const { x, y } = await (await page.$(`[data-port="${port}"]`)).boundingBox()
    await holding(['Shift'], () => page.mouse.click(x + 4, y + 4))
    await page.click(`button[aria-label^="What slot ${slot} shows"]`)
    await word('Spectrum')
    await pause(300)
    await page.click(`button[aria-label="More of slot ${slot}"]`)
    for (const [label, text] of [
      ['Carrier', carrier],
      ['Modulator', modulator],
    ]) {
      await page.click(`[role="dialog"] input[aria-label="${label}"]`, { count: 3 })
      await page.keyboard.type(text)
      await page.keyboard.press('Enter')
    }
    await page.keyboard.press('Escape')
    await pause(200)
  }
  await tab('Probe')
  // A4: the bell is at its pitch, its colour at 3.5 times that; the clang stands beside it.
  await look('low.out', 'A', '440 Hz', '1540 Hz')
  await look('high.out', 'B', 'off', 'auto')
  for (const button of await page.$$('.probe-tools button'))
    if ((await button.evaluate((node) => node.textContent)) === 'Compare') await button.click()
  await page.mouse.move(700, 400)
  await pause(900)
  await page.keyboard.down('h')
  await pause(650)
  await shot('probe-compare')
  await page.keyboard.up('h')
  await choose('New patch')
  await tab('Probe')
  await page.mouse.move(700, 700)
  await pause(4500)
  await shot('bench-empty')
  await choose('New effect')
  await pause(1500)
  await press('loop')
  await pause(1200)
  await shot('bench-effect')
  await choose('Tape Loft')
  await pause(1200)
  await press('echo')
  await pause(900)
  await shot('bench-outboard')
  await choose('Reed Lamp')
  await pause(900)
  await page.goto(`${address}/guide`, { waitUntil: 'networkidle0' })
  await pause(300)
  await shot('guide')
  await page.goto(`${address}/devices`, { waitUntil: 'networkidle0' })
  await pause(300)
  await shot('devices')
} finally {
  await close()
}
