import { hostname } from 'node:os'
import Koa from 'koa'
import compress from 'koa-compress'
import conditional from 'koa-conditional-get'
import etag from 'koa-etag'
import { guarded } from './guard.ts'
import { type Part, partUnder } from './part.ts'

/** Ends of a connection that the other side chose: no news. */
const GONE = new Set([
  'ECONNRESET',
  'ECONNABORTED',
  'EPIPE',
  'ERR_STREAM_PREMATURE_CLOSE',
  'ERR_STREAM_DESTROYED',
])

/** Puts the parts together. `host`: the name it listens on, which requests may ask for besides the machine's own. */
export const makeApp = (parts: readonly Part[], host = 'localhost'): Koa => {
  const app = new Koa(),
    partFor = partUnder(parts)
  const machine = hostname().toLowerCase()
  app.use(guarded(new Set(['localhost', host.toLowerCase(), machine, `${machine}.local`]), partFor))
  app.use(compress({ threshold: 1024, br: false }))
  app.use(conditional())
  app.use(etag({ weak: true }))
  app.use((context) => partFor(context.path).serve(context))
  app.on('error', (error: NodeJS.ErrnoException) => {
    if (!GONE.has(error.code ?? '')) console.error(error.message)
  })
  return app
}
