import { spawn } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { createServer, request } from 'node:http'
import { connect } from 'node:net'
import { networkInterfaces } from 'node:os'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { pause, ROOT, serve, type Served } from './support/browser.ts'

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

  /** A request as no browser would make it. */
  const raw = (path: string, options: { method?: string; headers?: Record<string, string> } = {}) =>
    new Promise<{ status: number; headers: Record<string, unknown>; text: string }>((resolve, reject) => {
      const { hostname, port } = new URL(server.address)
      request({ hostname, port, path, ...options }, (response) => {
        let text = ''
        response.on('data', (data: Buffer) => (text += data.toString()))
        response.on('end', () => {
          resolve({ status: response.statusCode!, headers: response.headers, text })
        })
      })
        .on('error', reject)
        .end()
    })

  it('keeps its headers whatever goes wrong, and tells nothing of the machine', async () => {
    const wrong = [
      ['/none.txt', 404],
      ['/assets/none.js', 404],
      ['/assets/', 404],
      ['/%E0%A4%A', 400],
      ['/a%00b.txt', 400],
      ['/assets/../../../../etc/passwd', 404],
      ['/assets/%2e%2e/%2e%2e/server.js', 404],
      [`/${'x'.repeat(6000)}.js`, 404],
    ] as const
    for (const [path] of wrong) {
      const { status, headers, text } = await raw(path)
      expect(status, path).toBeGreaterThanOrEqual(400)
      expect(status, path).toBeLessThan(500)
      expect(headers['content-security-policy'], path).toContain("frame-ancestors 'none'")
      expect(headers['content-security-policy'], path).toContain("form-action 'none'")
      expect(headers['x-content-type-options'], path).toBe('nosniff')
      expect(text.length, path).toBeLessThan(100)
      expect(text, path).not.toMatch(/ENOENT|packages|dist|node/)
    }
    const refused = await raw('/', { method: 'DELETE' })
    expect(refused).toMatchObject({ status: 405, headers: { allow: 'GET, HEAD' } })
  })

  it('answers to its own names alone', async () => {
    const status = async (host: string): Promise<number> => (await raw('/', { headers: { host } })).status
    for (const host of ['localhost', 'localhost:4173', '127.0.0.1:1', '[::1]:80', 'LocalHost'])
      expect(await status(host), host).toBe(200)
    for (const host of ['evil.example', 'localhost.evil.example', '127.0.0.1.evil.example', 'constructor'])
      expect(await status(host), host).toBe(421)
  })

  it('answers 304 to what has not changed', async () => {
    const first = await raw('/')
    const etag = String(first.headers['etag'])
    expect(etag).toMatch(/^W\/"/)
    const again = await raw('/', { headers: { 'if-none-match': etag } })
    expect([again.status, again.text]).toEqual([304, ''])
    expect((await raw('/', { headers: { 'if-none-match': '"other"' } })).status).toBe(200)
  })

  it('takes aborted requests for nothing', async () => {
    const { hostname, port } = new URL(server.address)
    for (let n = 0; n < 20; n += 1)
      await new Promise<void>((resolve) => {
        const socket = connect(Number(port), hostname, () => {
          socket.write('GET / HTTP/1.1\r\nHost: localhost\r\n\r\n')
          setTimeout(() => {
            socket.resetAndDestroy()
            resolve()
          }, n % 5)
        })
      })
    await pause(200)
    expect(server.output().trim().split('\n')).toHaveLength(1)
  })

  it('listens on this machine alone, unless it is told', async () => {
    const { port } = new URL(server.address)
    const outside = Object.values(networkInterfaces())
      .flat()
      .find((item) => item && !item.internal && item.family === 'IPv4')
    const reaches = (host: string, at: string): Promise<boolean> =>
      new Promise((resolve) => {
        const socket = connect({ port: Number(at), host, timeout: 1000 })
        for (const [event, result] of [
          ['connect', true],
          ['error', false],
          ['timeout', false],
        ] as const)
          socket.on(event, () => {
            socket.destroy()
            resolve(result)
          })
      })
    expect(await reaches('127.0.0.1', port)).toBe(true)
    if (!outside) return
    expect(await reaches(outside.address, port)).toBe(false)
    const open = await serve({ HOST: '0.0.0.0' })
    expect(await reaches(outside.address, new URL(open.address).port)).toBe(true)
    open.stop()
  })

  it('ends with everything it began when npm start is told to', async () => {
    const port = 21000 + Math.floor(Math.random() * 9000)
    const child = spawn('npm', ['start'], {
      cwd: ROOT,
      env: { ...process.env, PORT: String(port) },
      stdio: ['ignore', 'pipe', 'ignore'],
    })
    let text = ''
    child.stdout.on('data', (data: Buffer) => (text += data.toString()))
    while (!text.includes('Ypsilon is at')) await pause(50)
    const address = /at (http:\S+)/.exec(text)![1]!
    expect((await fetch(address)).status).toBe(200)
    child.kill('SIGTERM')
    await new Promise((resolve) => child.once('exit', resolve))
    await pause(1000)
    await expect(fetch(address)).rejects.toThrow()
  })

  it('sends a page that is small, and an audio thread without the catalogue', async () => {
    const assets = join(ROOT, 'packages/web/dist/assets')
    const files = readdirSync(assets)
      .filter((name) => name.endsWith('.js'))
      .map((name) => {
        const text = readFileSync(join(assets, name))
        return { name, size: gzipSync(text).length, isTextEditor: text.includes('cm-content') }
      })
    const sizeOf = (some: typeof files): number => some.reduce((sum, { size }) => sum + size, 0)
    expect(sizeOf(files.filter(({ name }) => name.startsWith('worklet')))).toBeLessThan(20_000)
    // All that views may ask for beside workers; what the bench loads to begin with is measured in a browser.
    const asked = files.filter(({ name }) => !/[.-]worker/.test(name))
    // The editor of formulas comes with the first of them.
    expect(sizeOf(asked.filter(({ isTextEditor }) => isTextEditor))).toBeLessThan(115 * 1024)
    expect(sizeOf(asked.filter(({ isTextEditor }) => !isTextEditor))).toBeLessThan(600 * 1024)
  })
})
