// Writes docs/modules.md and docs/patch.schema.json from the code; with --check only says whether they are up to date.
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { generate } from './generate.mjs'
import { root } from './ready.mjs'

await generate()
const { runnerImport } = await import('vite')
const { modulePictures, moduleReference, patchJsonSchema } = (
  await runnerImport(join(root, 'packages/core/src/documents.ts'), {
    configFile: false,
    root,
    logLevel: 'error',
  })
).module
const files = {
  'docs/modules.md': moduleReference(),
  'docs/patch.schema.json': `${JSON.stringify(patchJsonSchema(), null, 2)}\n`,
}
mkdirSync(join(root, 'docs/pictures'), { recursive: true })
const stale = Object.entries(files).filter(
  ([file, text]) => !existsSync(join(root, file)) || readFileSync(join(root, file), 'utf8') !== text,
)
if (process.argv.includes('--check')) {
  if (stale.length > 0) {
    console.error(
      `Out of date: ${stale.map(([file]) => file).join(', ')}. Run "node scripts/documents.mjs" and commit.`,
    )
    process.exit(1)
  }
} else {
  for (const [file, text] of stale) writeFileSync(join(root, file), text)
  for (const [type, svg] of modulePictures()) writeFileSync(join(root, `docs/pictures/${type}.svg`), svg)
}
