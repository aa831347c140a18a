/** What holds for every answer: headers, names, methods, and short words for whatever goes wrong. */
import { isIP } from 'node:net'
import type { Context, Next } from 'koa'
import type { Part } from './part.ts'

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

/**
 * Whatever goes wrong behind it, the answer is short, tells nothing of the machine, and keeps the headers. `partFor`: who
 * answers under a path.
 */
export const guarded =
  (names: ReadonlySet<string>, partFor: (path: string) => Part) =>
  async (context: Context, next: Next): Promise<void> => {
    context.set(HEADERS)
    if (!isOwnName(context.get('Host'), names)) return answer(context, 421)
    const { methods } = partFor(context.path)
    if (!methods.includes(context.method)) {
      context.set('Allow', methods.join(', '))
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
