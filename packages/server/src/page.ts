/** The built application as files. */
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import send from 'koa-send'
import type { Part } from './part.ts'

const YEAR_MS = 365 * 24 * 3600 * 1000

/** Can a path be decoded? */
const isReadable = (path: string): boolean => {
  try {
    return !decodeURIComponent(path).includes('\0')
  } catch {
    return false
  }
}

/**
 * Serves the built application from `folder`. Hashed assets are cached for ever, everything else is checked anew;
 * unknown paths without an extension are views of the single page. Throws where nothing is built.
 */
export const pageFrom = (folder: string): Part => {
  if (!existsSync(join(folder, 'index.html')))
    throw new Error('There is no built application; run "npm run build"')
  return {
    under: '/',
    methods: ['GET', 'HEAD'],
    async serve(context) {
      const { path } = context
      if (!isReadable(path)) context.throw(400)
      if (path.startsWith('/assets/')) {
        await send(context, path, { root: folder, maxage: YEAR_MS, immutable: true })
        return
      }
      const isView = !/\.[a-z0-9]+$/i.test(path)
      context.set('Cache-Control', 'no-cache')
      await send(context, isView ? '/index.html' : path, { root: folder, maxage: 0 })
    },
  }
}
