import { createServer } from 'node:http'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { serve, type Served } from './support/browser.ts'

describe('the server', () => {
  let server: Served
  beforeAll(async () => {
    server = await serve()
  })
  afterAll(() => {
    server.stop()
  })

  it('isolates, compresses and caches as a single page wants it', async () => {
    const page = await fetch(server.address)
    expect(page.status).toBe(200)
    expect(page.headers.get('cross-origin-opener-policy')).toBe('same-origin')
    expect(page.headers.get('cross-origin-embedder-policy')).toBe('require-corp')
    expect(page.headers.get('cache-control')).toContain('no-cache')
    const script = /src="(\/assets\/[^"]+)"/.exec(await page.text())![1]!
    const asset = await fetch(server.address + script, { headers: { 'accept-encoding': 'gzip' } })
    expect(asset.headers.get('content-encoding')).toBe('gzip')
    expect(asset.headers.get('cache-control')).toContain('immutable')
  })
  it('answers views with the page, missing files with 404, other methods with 405', async () => {
    expect((await fetch(`${server.address}/guide`)).headers.get('content-type')).toContain('text/html')
    expect((await fetch(`${server.address}/assets/none.js`)).status).toBe(404)
    expect((await fetch(`${server.address}/none.txt`)).status).toBe(404)
    expect((await fetch(`${server.address}/../../package.json`)).status).toBe(404)
    expect((await fetch(server.address, { method: 'POST' })).status).toBe(405)
  })
  it('takes the next port when one is taken and refuses nonsense', async () => {
    const blocker = createServer()
    await new Promise<void>((resolve) => {
      blocker.listen(0, resolve)
    })
    const { port } = blocker.address() as { port: number }
    const other = await serve({ PORT: String(port) })
    expect(other.output()).toContain(`Port ${port} is taken; trying ${port + 1}`)
    expect(other.address).not.toContain(`:${port}`)
    other.stop()
    blocker.close()
    await expect(serve({ PORT: 'many' })).rejects.toThrow('PORT is "many"')
  })
})
