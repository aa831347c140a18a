// V16 live: copies of the patch in an audio worklet of Chromium, chords going on and off; prints, for each number of copies,
// the share of a core it takes, blocks that took longer than they last, and how far the audio clock fell behind.
// Usage: node speed/live.mjs FOLDER-OF-THE-BUILT-COMMAND-LINE
import { readFileSync } from 'node:fs'
import { createServer } from 'node:http'
import { join } from 'node:path'
import { findChromium } from '../scripts/chromium.mjs'

const [folder] = process.argv.slice(2)
const executablePath = findChromium()
if (!executablePath) process.exit(3)
const SECONDS = 12

const worklet = `
import { copiesOfV16, Engine } from './suite.js'
class Copies extends AudioWorkletProcessor {
  constructor({ processorOptions: { kernels, copies } }) {
    super()
    this.engine = new Engine(new WebAssembly.Module(kernels), sampleRate)
    this.engine.apply(copiesOfV16(copies))
    this.blocks = this.busy = this.late = 0
    const left = new Float32Array(128), right = new Float32Array(128)
    for (let n = 0; n < 400; n += 1) { this.chord(n); this.engine.runtime.process(left, right, 0, 128) }
    this.port.onmessage = () => this.port.postMessage({ blocks: this.blocks, busy: this.busy, late: this.late })
  }
  chord(block) {
    if (block % 50 !== 0) return
    for (let voice = 0; voice < 16; voice += 1)
      this.engine.runtime.send({ event: { type: block % 100 === 0 ? 'on' : 'off', note: 48 + 2 * voice, velocity: block % 100 === 0 ? 1 : 0, id: voice + 1 } })
  }
  process(inputs, outputs) {
    const [left, right] = outputs[0]
    const started = Date.now()
    this.chord(this.blocks)
    this.engine.runtime.process(left, right, 0, left.length)
    const spent = Date.now() - started
    this.busy += spent
    if (spent > (left.length * 1000) / sampleRate + 1) this.late += 1
    this.blocks += 1
    return true
  }
}
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
  args: [
    '--no-sandbox',
    '--disable-dev-shm-usage',
    '--disable-gpu',
    '--autoplay-policy=no-user-gesture-required',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
})

const measure = async (copies, seconds) => {
  const context = new AudioContext({ sampleRate: 48000 })
  await context.audioWorklet.addModule('/worklet.js')
  const kernels = await (await fetch('/kernels.wasm')).arrayBuffer()
  const node = new AudioWorkletNode(context, 'copies', {
    numberOfInputs: 0,
    outputChannelCount: [2],
    processorOptions: { kernels, copies },
  })
  node.connect(context.destination)
  const ask = () =>
    new Promise((done) => {
      node.port.onmessage = ({ data }) =>
        done({ ...data, wall: performance.now(), clock: context.currentTime })
      node.port.postMessage(0)
    })
  const wait = (ms) => new Promise((done) => setTimeout(done, ms))
  await wait(2000)
  const first = await ask()
  await wait(seconds * 1000)
  const last = await ask()
  await context.close()
  const played = ((last.blocks - first.blocks) * 128) / 48000
  return {
    copies,
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
  for (const copies of [1, 20, 40]) rows.push(await page.evaluate(measure, copies, SECONDS))
  process.stdout.write(JSON.stringify(rows))
} finally {
  await browser.close()
  server.close()
}
