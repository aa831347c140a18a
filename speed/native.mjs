// V16 in Chromium: this engine against the browser's native audio nodes with an automated cutoff, both offline.
// Prints {engine, native, ratio} in times real time. Usage: node speed/native.mjs FOLDER-OF-THE-BUILT-COMMAND-LINE
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { findChromium, FLAGS } from '../scripts/chromium.mjs'

const [folder] = process.argv.slice(2)
const executablePath = findChromium()
if (!executablePath) process.exit(3)
const { default: puppeteer } = await import('puppeteer-core')
const browser = await puppeteer.launch({
  executablePath,
  headless: true,
  protocolTimeout: 300000,
  args: FLAGS,
})

const inPage = async (code, kernels) => {
  const suite = await import(URL.createObjectURL(new Blob([code], { type: 'text/javascript' })))
  const bytes = Uint8Array.from(atob(kernels), (c) => c.charCodeAt(0))
  const module = await WebAssembly.compile(bytes)
  const now = () => performance.now() / 1000
  const native = async (seconds) => {
    const context = new OfflineAudioContext(1, seconds * 48000, 48000)
    const out = new GainNode(context, { gain: 0.01 })
    out.connect(context.destination)
    for (let voice = 0; voice < 16; voice += 1) {
      const filter = new BiquadFilterNode(context, { type: 'lowpass', frequency: 400, Q: 1 })
      const amp = new GainNode(context, { gain: 0 }),
        mix = new GainNode(context)
      for (let o = 0; o < 3; o += 1) {
        const oscillator = new OscillatorNode(context, {
          type: 'sawtooth',
          frequency: 440 * 2 ** ((48 + 2 * voice - 69) / 12),
          detune: (o - 1) * 5,
        })
        oscillator.connect(mix)
        oscillator.start()
      }
      mix.connect(filter).connect(amp).connect(out)
      // The cutoff and level move all the time, as the envelopes of V16 do.
      for (let t = 0; t < seconds; t += (100 * 128) / 48000) {
        const held = t + (50 * 128) / 48000
        filter.frequency
          .setValueAtTime(400, t)
          .exponentialRampToValueAtTime(3200, t + 0.05)
          .exponentialRampToValueAtTime(900, held)
          .exponentialRampToValueAtTime(400, held + 0.13)
        amp.gain
          .setValueAtTime(0, t)
          .linearRampToValueAtTime(1, t + 0.01)
          .linearRampToValueAtTime(0.6, held)
          .linearRampToValueAtTime(0, held + 0.13)
      }
    }
    const start = now()
    await context.startRendering()
    return seconds / (now() - start)
  }
  suite.v16TimesRealTime(module, 20, now)
  await native(4)
  const rounds = []
  for (let n = 0; n < 3; n += 1)
    rounds.push({ engine: suite.v16TimesRealTime(module, 10, now), native: await native(10) })
  rounds.sort((a, b) => a.engine / a.native - b.engine / b.native)
  return rounds[1]
}

try {
  const page = await browser.newPage()
  const { engine, native } = await page.evaluate(
    inPage,
    readFileSync(join(folder, 'suite.js'), 'utf8'),
    readFileSync(join(folder, 'kernels.wasm')).toString('base64'),
  )
  process.stdout.write(
    JSON.stringify({
      engine: Number(engine.toFixed(1)),
      native: Number(native.toFixed(1)),
      ratio: engine / native,
    }),
  )
} finally {
  await browser.close()
}
