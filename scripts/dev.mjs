// npm run dev: kernels built once (again when asked), page served by Vite with reloading.
import { join } from 'node:path'
import { generate } from './generate.mjs'
import { installed, root } from './ready.mjs'

installed()
await generate()
const { createServer } = await import('vite')
const server = await createServer({
  root: join(root, 'packages/web'),
  configFile: join(root, 'packages/web/vite.config.ts'),
})
await server.listen()
server.printUrls()
