import { existsSync } from 'node:fs'
import { join } from 'node:path'
import Koa from 'koa'
import compress from 'koa-compress'
import send from 'koa-send'

const YEAR_MS = 365 * 24 * 3600 * 1000

/**
 * Serves the built application from `folder`. Hashed assets are cached for ever, everything else is checked anew;
 * unknown paths without an extension are views of the single page.
 */
export const makeApp = (folder: string): Koa => {
  if (!existsSync(join(folder, 'index.html')))
    throw new Error(`There is no built application in ${folder}; run "npm run build"`)
  const app = new Koa()
  app.use(async (context, next) => {
    context.set({
      // Cross-origin isolation: precise timers and shared memory, should the page want them.
      'Cross-Origin-Opener-Policy': 'same-origin',
      'Cross-Origin-Embedder-Policy': 'require-corp',
      'Cross-Origin-Resource-Policy': 'same-origin',
      'X-Content-Type-Options': 'nosniff',
      'Referrer-Policy': 'no-referrer',
      'Content-Security-Policy':
        "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; worker-src 'self' blob:; object-src 'none'; base-uri 'self'",
    })
    if (context.method !== 'GET' && context.method !== 'HEAD') {
      context.status = 405
      return
    }
    await next()
  })
  app.use(compress({ threshold: 1024, br: false }))
  app.use(async (context) => {
    const { path } = context
    if (path.startsWith('/assets/')) {
      await send(context, path, { root: folder, maxage: YEAR_MS, immutable: true })
      return
    }
    const isView = !/\.[a-z0-9]+$/i.test(path)
    context.set('Cache-Control', 'no-cache')
    await send(context, isView ? '/index.html' : path, { root: folder, maxage: 0 })
  })
  app.on('error', (error: NodeJS.ErrnoException) => {
    if (
      error.code !== 'ECONNRESET' &&
      error.code !== 'EPIPE' &&
      (error as { status?: number }).status !== 404
    )
      console.error(error.message)
  })
  return app
}
