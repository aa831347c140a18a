// Builds the parts: the kernels always first, then command line, server and page.
import { copyFileSync, mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { generate } from './generate.mjs'
import { installed, root } from './ready.mjs'

/** Bundles a Node program. The command line carries its packages, so that it starts fast; the server loads its own. */
const program = async (folder, entries, bundled, empty = true) => {
  const { build } = await import('vite')
  await build({
    root: join(root, folder),
    configFile: false,
    logLevel: 'warn',
    // A pool of threads finds its own files beside itself.
    ssr: bundled ? { noExternal: true, external: ['piscina'] } : { noExternal: [/^@ypsilon/] },
    define: { 'process.env.NODE_ENV': '"production"' },
    build: {
      ssr: true,
      target: 'node20',
      outDir: 'dist',
      emptyOutDir: empty,
      minify: false,
      rollupOptions: {
        input: Object.fromEntries(
          Object.entries(entries).map(([name, file]) => [name, join(root, folder, file)]),
        ),
        output: { entryFileNames: '[name].js', chunkFileNames: '[name].js', format: 'es' },
      },
    },
  })
}

const PARTS = {
  cli: async () => {
    await program('packages/cli', { ypsilon: 'src/main.ts', worker: 'src/work/worker.ts' }, true)
    // Whole by itself: the speed suite hands it to a browser as one text.
    await program('packages/cli', { suite: 'src/suite.ts' }, true, false)
    copyFileSync(
      join(root, 'packages/core/src/generated/kernels.wasm'),
      join(root, 'packages/cli/dist/kernels.wasm'),
    )
  },
  server: async () => program('packages/server', { server: 'src/main.ts' }, false),
  web: async () => {
    const { build } = await import('vite')
    await build({
      root: join(root, 'packages/web'),
      configFile: join(root, 'packages/web/vite.config.ts'),
      logLevel: 'warn',
    })
  },
}

export const build = async (parts = Object.keys(PARTS)) => {
  mkdirSync(join(root, 'packages/core/src/generated'), { recursive: true })
  await generate()
  // Reading the descriptions has left development behind in the environment.
  process.env.NODE_ENV = 'production'
  for (const part of parts) await PARTS[part]()
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  installed()
  await build(process.argv.length > 2 ? process.argv.slice(2) : undefined).catch((error) => {
    console.error(error.message)
    process.exit(1)
  })
}
