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
const choose = async (item) => {
  await page.click('button[aria-label^="Patch "]')
  await page.waitForSelector('[role="menuitem"]')
  for (const element of await page.$$('[role="menuitem"]'))
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
  await shot('bench-steps')
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
