// Measures every module anew and writes the bound of its cost into its description: twice what it costs as a multiple of
// the reference work (speed/bounds.ts). On a quiet machine; look at the difference before you commit it.
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { generate } from './generate.mjs'
import { root } from './ready.mjs'

await generate()
const { runnerImport } = await import('vite')
const load = async (file) =>
  (
    await runnerImport(join(root, 'packages/core/src', file), {
      configFile: false,
      root,
      logLevel: 'error',
    })
  ).module
const { costsAgainstBounds } = await load('speed/bounds.ts')
const { PUBLIC_MODULES } = await load('catalogue.ts')
const kernels = new WebAssembly.Module(readFileSync(join(root, 'packages/core/src/generated/kernels.wasm')))
const now = () => performance.now() / 1000
const two = (x) => Number(x.toPrecision(2))

const rounds = [0, 1, 2, 3, 4].map(() => costsAgainstBounds(kernels, now))
for (const [at, { type }] of rounds[0].entries()) {
  const module = PUBLIC_MODULES.find((item) => item.type === type)
  const times = rounds.map((round) => round[at].times).sort((a, b) => a - b)[2]
  const file = join(root, 'packages/core/src/modules', module.family, type, 'module.ts')
  const text = readFileSync(file, 'utf8')
  writeFileSync(file, text.replace(/^ {2}bound: .*,$/m, `  bound: ${Math.max(1, two(2 * times))},`))
}
