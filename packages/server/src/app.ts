import { existsSync } from 'node:fs'
import { isIP } from 'node:net'
import { hostname } from 'node:os'
import { join } from 'node:path'
import Koa, { type Context, type Next } from 'koa'
import compress from 'koa-compress'
import conditional from 'koa-conditional-get'
import etag from 'koa-etag'
import send from 'koa-send'

const YEAR_MS = 365 * 24 * 3600 * 1000

const HEADERS = {
  // Cross-origin isolation: precise timers and shared memory, should the page want them.
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
  'X-Content-Type-Options': 'nosniff',
  'Referrer-Policy': 'no-referrer',
  'Content-Security-Policy': [
    "default-src 'self'",
    "script-src 'self' 'wasm-unsafe-eval'",
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self'",
    "connect-src 'self'",
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'self'",
    "form-action 'none'",
    "frame-ancestors 'none'",
  ].join('; '),
}

/** Ends of a connection that the other side chose: no news. */
const GONE = new Set([
  'ECONNRESET',
  'ECONNABORTED',
  'EPIPE',
  'ERR_STREAM_PREMATURE_CLOSE',
  'ERR_STREAM_DESTROYED',
])

const WORDS = new Map([
  [400, 'This address cannot be read.'],
  [403, 'This may not be read.'],
  [404, 'There is nothing here.'],
  [405, 'Only reading (GET, HEAD) is possible here.'],
  [421, 'This server does not answer to that name.'],
])

const answer = (context: Context, status: number): void => {
  context.status = status
  context.type = 'text/plain'
  context.body = `${WORDS.get(status) ?? 'Something went wrong.'}\n`
}

/**
 * Names a request may ask for. A page elsewhere can make its own name lead here, so other names are refused; addresses
 * cannot be made up that way.
 */
const isOwnName = (host: string, names: ReadonlySet<string>): boolean => {
  const name = host
    .replace(/:\d+$/, '')
    .replace(/^\[(.*)\]$/, '$1')
    .toLowerCase()
  return isIP(name) !== 0 || names.has(name)
}

/** Can a path be decoded? */
const isReadable = (path: string): boolean => {
  try {
    return !decodeURIComponent(path).includes('\0')
  } catch {
    return false
  }
}

/** Whatever goes wrong behind it, the answer is short, tells nothing of the machine, and keeps the headers. */
const guarded =
  (names: ReadonlySet<string>) =>
  async (context: Context, next: Next): Promise<void> => {
    context.set(HEADERS)
    if (!isOwnName(context.get('Host'), names)) return answer(context, 421)
    if (context.method !== 'GET' && context.method !== 'HEAD') {
      context.set('Allow', 'GET, HEAD')
      return answer(context, 405)
    }
    try {
      await next()
    } catch (error) {
      const { status = 500 } = error as { status?: number }
      const known = status >= 400 && status < 500
      for (const name of ['Cache-Control', 'Last-Modified', 'Content-Length', 'Content-Encoding'])
        context.remove(name)
      answer(context, known ? status : 500)
      if (!known) context.app.emit('error', error, context)
    }
  }

/**
 * Serves the built application from `folder`. Hashed assets are cached for ever, everything else is checked anew;
 * unknown paths without an extension are views of the single page. `host`: the name it listens on, which requests may
 * ask for besides the machine's own.
 */
export const makeApp = (folder: string, host = 'localhost'): Koa => {
  if (!existsSync(join(folder, 'index.html')))
    throw new Error('There is no built application; run "npm run build"')
  const app = new Koa()
  const machine = hostname().toLowerCase()
  app.use(guarded(new Set(['localhost', host.toLowerCase(), machine, `${machine}.local`])))
  app.use(compress({ threshold: 1024, br: false }))
  app.use(conditional())
  app.use(etag({ weak: true }))
  app.use(async (context) => {
    const { path } = context
    if (!isReadable(path)) context.throw(400)
    if (path.startsWith('/assets/')) {
      await send(context, path, { root: folder, maxage: YEAR_MS, immutable: true })
      return
    }
    const isView = !/\.[a-z0-9]+$/i.test(path)
    context.set('Cache-Control', 'no-cache')
    await send(context, isView ? '/index.html' : path, { root: folder, maxage: 0 })
  })
  app.on('error', (error: NodeJS.ErrnoException) => {
    if (!GONE.has(error.code ?? '')) console.error(error.message)
  })
  return app
}
