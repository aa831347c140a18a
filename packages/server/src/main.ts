import type { Server } from 'node:http'
import { fileURLToPath } from 'node:url'
import { makeApp } from './app.ts'
import { pageFrom } from './page.ts'

const FIRST_PORT = 4173
const TRIES = 20

const fail = (text: string): never => {
  process.stderr.write(`${text}\n`)
  process.exit(1)
}

const listen = (port: number): Promise<Server> =>
  new Promise((resolve, reject) => {
    const server = app.listen(port, host, () => {
      resolve(server)
    })
    server.on('error', reject)
  })

/** Only this machine may come in, unless told otherwise. */
const LOOPBACK = '127.0.0.1'
const host = process.env['HOST']?.trim() || LOOPBACK
const app = makeApp([pageFrom(fileURLToPath(new URL('../../web/dist', import.meta.url)))], host)
const given = process.env['PORT']
const wanted = given === undefined || given === '' ? FIRST_PORT : Number(given)
if (!Number.isInteger(wanted) || wanted < 0 || wanted > 65535)
  fail(`PORT is "${given}"; it must be a whole number from 0 to 65535`)

/** What to type into a browser for an address that is listened on. */
const nameFor = (listened: string): string =>
  [LOOPBACK, '::1', '0.0.0.0', '::', 'localhost'].includes(listened)
    ? 'localhost'
    : listened.includes(':')
      ? `[${listened}]`
      : listened

/** A signal ends everything at once: open connections as well. */
const endWith = (server: Server): void => {
  for (const signal of ['SIGTERM', 'SIGINT', 'SIGHUP'] as const)
    process.once(signal, () => {
      server.close(() => process.exit(0))
      server.closeAllConnections()
    })
}

/** The wanted port, or the next free one. */
const start = async (): Promise<void> => {
  for (let port = wanted; port < wanted + TRIES && port <= 65535; port += 1) {
    try {
      const server = await listen(port)
      const address = server.address()
      process.stdout.write(
        `Ypsilon is at http://${nameFor(host)}:${typeof address === 'object' && address ? address.port : port}\n`,
      )
      endWith(server)
      return
    } catch (error) {
      const { code, message } = error as NodeJS.ErrnoException
      if (code === 'EADDRNOTAVAIL' || code === 'ENOTFOUND')
        fail(`HOST is "${host}"; this machine has no such address`)
      if (code !== 'EADDRINUSE' && code !== 'EACCES') fail(`The server could not start: ${message}`)
      process.stderr.write(
        `Port ${port} is ${code === 'EACCES' ? 'not allowed' : 'taken'}; trying ${port + 1}\n`,
      )
    }
  }
  fail(`No free port from ${wanted} to ${wanted + TRIES - 1}. Set another one: PORT=8080 npm start`)
}

await start()
