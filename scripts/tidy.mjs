// Lays out the patches of demo/ as Tidy does in a window of 1280 × 800, and stores their places; with --check only says
// which of them are not.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import Elk from 'elkjs/lib/elk.bundled.js'
import { generate } from './generate.mjs'
import { root } from './ready.mjs'

await generate()
const { runnerImport } = await import('vite')
const from = async (file) =>
  (
    await runnerImport(join(root, 'packages/core/src', file), {
      configFile: false,
      root,
      logLevel: 'error',
    })
  ).module
const { parsePatch } = await from('patch/validate.ts')
const { tidied } = await from('layout/tidied.ts')
const { ROOM } = await from('layout/place.ts')
const elk = new Elk()

/** The file with other places; everything else stays as it is written. */
const withPlaces = (text, places) => {
  const value = JSON.parse(text)
  if (text === `${JSON.stringify(value, null, 2)}\n`) {
    for (const module of value.modules) Object.assign(module, places.get(module.id))
    return `${JSON.stringify(value, null, 2)}\n`
  }
  return [...places].reduce((file, [id, { x, y }]) => {
    const line = file.split('\n').find((one) => one.includes(`{ "id": "${id}", "type":`))
    if (line === undefined) throw new Error(`No line begins module ${id}`)
    const bare = line.replace(/, "x": -?[\d.]+, "y": -?[\d.]+/, '')
    // Places stand at the end of a record's own line.
    const moved = bare.replace(/ \}(,?)$/, `, "x": ${x}, "y": ${y} }$1`)
    if (moved === bare) throw new Error(`Module ${id} does not end on its line`)
    return file.replace(line, moved)
  }, text)
}

const stale = []
for (const folder of ['demo/patches', 'demo/templates'])
  for (const name of readdirSync(join(root, folder)).filter((file) => file.endsWith('.ypatch.json'))) {
    const file = join(root, folder, name),
      text = readFileSync(file, 'utf8'),
      patch = parsePatch(text)
    if (!patch.ok) throw new Error(`${name}: ${patch.faults[0].message}`)
    const next = withPlaces(text, (await tidied(patch.value, ROOM, (graph) => elk.layout(graph))).modules)
    if (next === text) continue
    stale.push(name)
    if (!process.argv.includes('--check')) writeFileSync(file, next)
  }
console.log(stale.length === 0 ? 'All are tidy.' : `Laid out: ${stale.join(', ')}`)
if (process.argv.includes('--check') && stale.length > 0) process.exit(1)
