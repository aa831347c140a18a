// Hashes of what every module and every demo sounds like, to the bit. "node scripts/fingerprints.mjs > before.json"
// before a change of kernels that must not be heard; "node scripts/fingerprints.mjs before.json" after it names what differs.
import { createHash } from 'node:crypto'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { generate } from './generate.mjs'
import { root } from './ready.mjs'

await generate()
const { runnerImport } = await import('vite')
const { HEARD, fingerprintOfDemo, fingerprintsOf } = (
  await runnerImport(join(root, 'packages/core/src/testing/fingerprints.ts'), {
    configFile: false,
    root,
    logLevel: 'error',
  })
).module
const hash = (channels) => {
  const sum = createHash('sha1')
  for (const samples of channels)
    sum.update(new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength))
  return sum.digest('hex').slice(0, 12)
}
const [file, ...wanted] = process.argv.slice(2)
const made = {}
for (const module of HEARD)
  if (wanted.length === 0 || wanted.includes(module.type)) Object.assign(made, fingerprintsOf(module, hash))
if (wanted.length === 0 || wanted.includes('demos'))
  for (const name of readdirSync(join(root, 'demo/patches')).filter((file) => file.endsWith('.json')))
    made[`demo ${name}`] = fingerprintOfDemo(readFileSync(join(root, 'demo/patches', name), 'utf8'), hash)

if (!file) process.stdout.write(`${JSON.stringify(made, null, 1)}\n`)
else {
  const before = JSON.parse(readFileSync(file, 'utf8'))
  const other = Object.keys(made).filter((name) => before[name] !== made[name])
  process.stdout.write(
    other.length === 0
      ? `${Object.keys(made).length} the same\n`
      : `${other.map((name) => `differs: ${name}`).join('\n')}\n`,
  )
  process.exitCode = other.length === 0 ? 0 : 1
}
