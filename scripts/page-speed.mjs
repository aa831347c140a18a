// The bench at 20, 150 and 500 modules against an empty page, in one run: times between frames while idle, playing,
// panning, zooming and dragging, and how long opening, undo, select all and duplicate all take until they are seen.
// Usage: node scripts/page-speed.mjs [--sizes 20,150,500] [--seconds 4] [--minutes 0]
// With --minutes the heap is followed for so long on the middle size, played and panned.
import { openBrowser, pause } from './browser.mjs'
import { pagePatch } from './page-patch.mjs'

const option = (name, otherwise) => {
  const at = process.argv.indexOf(`--${name}`)
  return at < 0 ? otherwise : process.argv[at + 1]
}
const SIZES = option('sizes', '20,150,500').split(',').map(Number)
const SECONDS = Number(option('seconds', '4'))
const MINUTES = Number(option('minutes', '0'))
/** Undo is timed so often, and done again in between. */
const UNDOS = 5
const MIDDLE = { x: 520, y: 330 }

const quantile = (values, share) =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(share * values.length))] ?? NaN

/** In the page: notes the times between frames and long tasks. */
const listen = () => {
  const state = { gaps: [], long: [], last: undefined }
  window.pageSpeed = state
  new PerformanceObserver((list) => {
    for (const { duration } of list.getEntries()) state.long.push(duration)
  }).observe({ entryTypes: ['longtask'] })
  const frame = (now) => {
    if (state.last !== undefined) state.gaps.push(now - state.last)
    state.last = now
    requestAnimationFrame(frame)
  }
  requestAnimationFrame(frame)
}

/** Times between frames while something is done over and over. */
const during = async (page, act) => {
  await page.evaluate(() => {
    window.pageSpeed.gaps.length = 0
    window.pageSpeed.long.length = 0
  })
  const end = Date.now() + SECONDS * 1000
  let step = 0
  while (Date.now() < end) {
    await act(step)
    step += 1
  }
  const { gaps, long } = await page.evaluate(() => window.pageSpeed)
  return {
    p50: quantile(gaps, 0.5),
    p95: quantile(gaps, 0.95),
    most: gaps.length > 0 ? Math.max(...gaps) : NaN,
    long: long.length,
    longest: long.length > 0 ? Math.max(...long) : 0,
  }
}

/** Milliseconds from a key until what it did is on the screen. */
const untilSeen = async (page, keys) => {
  await page.evaluate(() => {
    window.keySeen = undefined
    const note = (event) => {
      if (event.key === 'Control') return
      removeEventListener('keydown', note, true)
      const pressed = performance.now()
      requestAnimationFrame(() =>
        setTimeout(() => {
          window.keySeen = performance.now() - pressed
        }),
      )
    }
    addEventListener('keydown', note, true)
  })
  await page.keyboard.down('Control')
  await page.keyboard.press(keys)
  await page.keyboard.up('Control')
  await page.waitForFunction(() => window.keySeen !== undefined, { timeout: 60000 })
  return page.evaluate(() => window.keySeen)
}

/** Milliseconds from a file handed over until its cards are on the screen. */
const opening = (page, patch) =>
  page.evaluate(
    (text, name) =>
      new Promise((resolve) => {
        const input = document.querySelector('[data-import]')
        const files = new DataTransfer()
        files.items.add(new File([text], 'patch.ypatch.json'))
        input.files = files.files
        const begun = performance.now()
        const look = () => {
          const isThere =
            document.querySelector('button[aria-label^="Patch "]')?.getAttribute('aria-label') ===
              `Patch ${name}` &&
            document.querySelector(`[data-module="${JSON.parse(text).modules[0].id}"]`) !== null
          if (isThere) requestAnimationFrame(() => setTimeout(() => resolve(performance.now() - begun)))
          else setTimeout(look, 2)
        }
        input.dispatchEvent(new Event('change', { bubbles: true }))
        look()
      }),
    JSON.stringify(patch),
    patch.name,
  )

const rectOf = async (page, selector) => {
  const found = await page.$$(selector)
  for (const element of found) {
    const box = await element.boundingBox()
    if (box && box.x > 60 && box.y > 70 && box.x + box.width < 960 && box.y + box.height < 580) return box
  }
  const box = await found[0]?.boundingBox()
  if (!box) throw new Error(`There is no ${selector} on the page`)
  return box
}

const drag = async (page, at) => {
  await page.mouse.move(at.x, at.y)
  await page.mouse.down()
  return async (step) => {
    await page.mouse.move(at.x + 8 + 50 * (1 + Math.sin(step / 9)), at.y + 6 + 30 * (1 + Math.cos(step / 7)))
    await pause(4)
  }
}
const dropped = async (page, isTaken) => {
  if (!isTaken) await page.keyboard.press('Escape')
  await page.mouse.up()
  await pause(300)
}

const pan = (page) => async (step) => {
  await page.mouse.wheel({ deltaX: 22 * Math.cos(step / 30), deltaY: 16 * Math.sin(step / 30) })
  await pause(4)
}
const zoom = async (page, step) => {
  await page.mouse.wheel({ deltaY: Math.floor(step / 25) % 2 ? 12 : -12 })
  await pause(4)
}

/** All four slots of the probe open, while it plays. */
const withSlots = async (page) => {
  const dock = await page.$('section[aria-label="Dock"]')
  if (!dock) await page.click('button[aria-label^="Dock"]')
  await page.waitForSelector('[data-probe]')
  for (;;) {
    const more = await page.$('.probe-tools button:not([disabled])')
    if (!(await more.evaluate((node) => node.textContent)).startsWith('Slot')) break
    await more.click()
  }
  await pause(1000)
  const rows = { 'four slots open': await during(page, () => pause(50)) }
  await page.mouse.move(MIDDLE.x, MIDDLE.y)
  rows['four slots, panning'] = await during(page, pan(page))
  for (const slot of ['D', 'C']) await page.click(`button[aria-label="Close slot ${slot}"]`)
  if (!dock) await page.click('button[aria-label^="Dock"]')
  return rows
}

const measure = async (page, size) => {
  const patch = pagePatch(size)
  const rows = {}
  rows.opening = await opening(page, patch)
  await pause(1200)
  await page.mouse.move(MIDDLE.x, MIDDLE.y)
  rows.idle = await during(page, () => pause(50))
  await page.keyboard.down('a')
  await page.keyboard.down('g')
  await pause(1500)
  rows.playing = await during(page, () => pause(50))
  rows.panning = await during(page, pan(page))
  Object.assign(rows, await withSlots(page))
  await page.keyboard.down('Control')
  rows.zooming = await during(page, (step) => zoom(page, step))
  await page.keyboard.up('Control')
  await page.mouse.click(MIDDLE.x, 612)
  await page.keyboard.press('0')
  await pause(900)
  const card = await rectOf(page, '[data-module]')
  const move = await drag(page, { x: card.x + card.width / 2, y: card.y + 5 })
  rows['dragging a module'] = await during(page, move)
  await dropped(page, true)
  const port = await rectOf(page, '[data-port$=".out"]')
  const pull = await drag(page, { x: port.x + port.width / 2, y: port.y + port.height / 2 })
  rows['dragging a cable'] = await during(page, pull)
  await dropped(page, false)
  const chosen = await rectOf(page, '[data-module]')
  await page.mouse.click(chosen.x + chosen.width / 2, chosen.y + 5)
  await pause(500)
  if (!(await page.$('aside [role="slider"]'))) await page.click('button[aria-label^="Inspector"]')
  const field = await (await page.waitForSelector('aside [role="slider"]')).boundingBox()
  const turn = await drag(page, { x: field.x + field.width / 2, y: field.y + field.height / 2 })
  rows['dragging a parameter'] = await during(page, turn)
  await dropped(page, true)
  await page.focus('[data-chart]')
  const undone = []
  for (let n = 0; n < UNDOS; n += 1) {
    undone.push(await untilSeen(page, 'z'))
    await pause(400)
    await untilSeen(page, 'y')
    await pause(400)
  }
  rows.undo = quantile(undone, 0.5)
  rows['undo, the slowest'] = Math.max(...undone)
  rows['select all'] = await untilSeen(page, 'a')
  await pause(500)
  rows['duplicate all'] = await untilSeen(page, 'd')
  await pause(1500)
  await page.keyboard.up('a')
  await page.keyboard.up('g')
  rows.elements = await page.$$eval('[data-chart] *', (all) => all.length)
  return rows
}

const heapOf = async (client) => {
  await client.send('HeapProfiler.collectGarbage')
  const { usedSize } = await client.send('Runtime.getHeapUsage')
  return usedSize / 1e6
}

const followHeap = async (page, size) => {
  const client = await page.createCDPSession()
  await opening(page, pagePatch(size))
  await page.keyboard.down('a')
  await pause(3000)
  const heaps = [await heapOf(client)]
  for (let minute = 0; minute < MINUTES; minute += 1) {
    await page.mouse.move(MIDDLE.x, MIDDLE.y)
    const end = Date.now() + 60000
    for (let step = 0; Date.now() < end; step += 1) await pan(page)(step)
    heaps.push(await heapOf(client))
  }
  return heaps
}

const { address, browser, close } = await openBrowser(4891, { protocolTimeout: 600000 })
const opened = async (where) => {
  const page = await browser.newPage()
  await page.goto(where, { waitUntil: 'networkidle0' })
  await page.evaluate(listen)
  return page
}
try {
  const empty = await opened('data:text/html,<title>empty</title>')
  const blank = {
    idle: await during(empty, () => pause(50)),
    moving: await during(empty, pan(empty)),
  }
  await empty.close()
  const words = ({ p50, p95, most, long, longest }) =>
    `p50 ${p50.toFixed(1)}  p95 ${p95.toFixed(1)}  most ${most.toFixed(0)} ms  long tasks ${long} (${longest.toFixed(0)} ms)`
  console.log(`empty page idle   ${words(blank.idle)}\nempty page moved  ${words(blank.moving)}`)
  for (const size of SIZES) {
    const page = await opened(address)
    console.log(`\n${size} modules, ${pagePatch(size).cables.length} cables`)
    for (const [name, found] of Object.entries(await measure(page, size)))
      console.log(
        `  ${name.padEnd(22)}${
          typeof found === 'number'
            ? found.toFixed(0) + (name === 'elements' ? '' : ' ms')
            : `${words(found)}  × ${(found.p95 / (name === 'idle' || name === 'playing' ? blank.idle : blank.moving).p95).toFixed(2)}`
        }`,
      )
    await page.close()
  }
  if (MINUTES > 0) {
    const page = await opened(address)
    const heaps = await followHeap(page, SIZES[1] ?? SIZES[0])
    console.log(`\nheap, minute by minute: ${heaps.map((heap) => heap.toFixed(1)).join(', ')} MB`)
  }
} finally {
  await close()
}
