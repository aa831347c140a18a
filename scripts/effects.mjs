// Writes docs/effects.md, the listening sheet of the effects, and its pictures.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { generate } from './generate.mjs'
import { root } from './ready.mjs'

await generate()
const { runnerImport } = await import('vite')
const { effectSheet } = (
  await runnerImport(join(root, 'packages/core/src/testing/effect-sheet.ts'), {
    configFile: false,
    root,
    logLevel: 'error',
  })
).module
const kernels = new WebAssembly.Module(readFileSync(join(root, 'packages/core/src/generated/kernels.wasm')))
const { text, pictures } = effectSheet(kernels)
mkdirSync(join(root, 'docs/pictures/effects'), { recursive: true })
writeFileSync(join(root, 'docs/effects.md'), text)
for (const [name, svg] of pictures) writeFileSync(join(root, `docs/pictures/effects/${name}.svg`), svg)
