// V16 live: copies of the patch in an audio worklet of Chromium, chords going on and off; prints, for each number of copies,
// the share of a core it takes, blocks that took longer than they last, and how far the audio clock fell behind. Then the
// same for a plain sum that takes as long every block: blocks that are late there as well are the machine's.
// Usage: node speed/live.mjs FOLDER-OF-THE-BUILT-COMMAND-LINE
import { readFileSync } from 'node:fs'
import { createServer } from 'node:http'
import { join } from 'node:path'
import { findChromium, FLAGS } from '../scripts/chromium.mjs'

const [folder] = process.argv.slice(2)
const executablePath = findChromium()
if (!executablePath) process.exit(3)
const SECONDS = 12

const worklet = `
import { copiesOfV16, Engine } from './suite.js'
/** Counts blocks, what they take, and those that are late. */
class Timed extends AudioWorkletProcessor {
  constructor() {
    super()
    this.blocks = this.busy = this.late = 0
    this.port.onmessage = () => this.port.postMessage({ blocks: this.blocks, busy: this.busy, late: this.late })
  }
  process(inputs, outputs) {
    const [left, right] = outputs[0]
    const started = Date.now()
    this.work(left, right)
    const spent = Date.now() - started
    this.busy += spent
    if (spent > (left.length * 1000) / sampleRate + 1) this.late += 1
    this.blocks += 1
    return true
  }
}
class Steady extends Timed {
  constructor({ processorOptions: { load } }) {
    super()
    this.sum = 0
    this.add(1e6)
    const started = Date.now(), many = 2e7
    this.add(many)
    this.count = (load * many * 128 * 1000) / sampleRate / Math.max(1, Date.now() - started)
  }
  add(count) {
    let sum = this.sum
    for (let n = 0; n < count; n += 1) sum = sum * 0.999 + n
    this.sum = sum
  }
  work(left) {
    this.add(this.count)
    left[0] = this.sum * 1e-30
  }
}
class Copies extends Timed {
  constructor({ processorOptions: { kernels, copies } }) {
    super()
    this.engine = new Engine(new WebAssembly.Module(kernels), sampleRate)
    this.engine.apply(copiesOfV16(copies))
    const left = new Float32Array(128), right = new Float32Array(128)
    for (let n = 0; n < 400; n += 1) { this.chord(n); this.engine.runtime.process(left, right, 0, 128) }
  }
  chord(block) {
    if (block % 50 !== 0) return
    for (let voice = 0; voice < 16; voice += 1)
      this.engine.runtime.send({ event: { type: block % 100 === 0 ? 'on' : 'off', note: 48 + 2 * voice, velocity: block % 100 === 0 ? 1 : 0, id: voice + 1 } })
  }
  work(left, right) {
    this.chord(this.blocks)
    this.engine.runtime.process(left, right, 0, left.length)
  }
}
registerProcessor('steady', Steady)
registerProcessor('copies', Copies)`

const server = createServer((request, response) => {
  const script = { 'content-type': 'text/javascript' }
  if (request.url === '/worklet.js') response.writeHead(200, script).end(worklet)
  else if (request.url === '/suite.js')
    response.writeHead(200, script).end(readFileSync(join(folder, 'suite.js')))
  else if (request.url === '/kernels.wasm') response.end(readFileSync(join(folder, 'kernels.wasm')))
  else response.writeHead(200, { 'content-type': 'text/html' }).end('<title>V16 live</title>')
})
await new Promise((done) => server.listen(0, '127.0.0.1', done))
const { default: puppeteer } = await import('puppeteer-core')
const browser = await puppeteer.launch({
  executablePath,
  headless: true,
  protocolTimeout: 300000,
  args: FLAGS,
})

const measure = async (name, options, seconds) => {
  const context = new AudioContext({ sampleRate: 48000 })
  await context.audioWorklet.addModule('/worklet.js')
  const kernels = await (await fetch('/kernels.wasm')).arrayBuffer()
  const node = new AudioWorkletNode(context, name, {
    numberOfInputs: 0,
    outputChannelCount: [2],
    processorOptions: { kernels, ...options },
  })
  node.connect(context.destination)
  const ask = () =>
    new Promise((done) => {
      node.port.onmessage = ({ data }) =>
        done({ ...data, wall: performance.now(), clock: context.currentTime })
      node.port.postMessage(0)
    })
  const wait = (ms) => new Promise((done) => setTimeout(done, ms))
  // The start holds the audio thread up: measured from when it has caught up.
  let first = await ask()
  for (let tries = 0; tries < 20; tries += 1) {
    await wait(1000)
    const next = await ask()
    const drift = (next.wall - first.wall) / 1000 - (next.clock - first.clock)
    first = next
    if (tries > 1 && Math.abs(drift) < 0.02) break
  }
  await wait(seconds * 1000)
  const last = await ask()
  await context.close()
  const played = ((last.blocks - first.blocks) * 128) / 48000
  return {
    load: (last.busy - first.busy) / 1000 / played,
    late: last.late - first.late,
    blocks: last.blocks - first.blocks,
    behind: (last.wall - first.wall) / 1000 - (last.clock - first.clock),
  }
}

try {
  const page = await browser.newPage()
  await page.goto(`http://127.0.0.1:${server.address().port}/`)
  const rows = []
  for (const copies of [1, 20, 40]) {
    const row = await page.evaluate(measure, 'copies', { copies }, SECONDS)
    rows.push({ copies, ...row })
  }
  const { load } = rows.at(-1)
  rows.push({ copies: 0, ...(await page.evaluate(measure, 'steady', { load }, SECONDS)) })
  process.stdout.write(JSON.stringify(rows))
} finally {
  await browser.close()
  server.close()
}
