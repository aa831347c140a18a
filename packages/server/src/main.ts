import type { Server } from 'node:http'
import { fileURLToPath } from 'node:url'
import { makeApp } from './app.ts'

const FIRST_PORT = 4173
const TRIES = 20

const fail = (text: string): never => {
  process.stderr.write(`${text}\n`)
  process.exit(1)
}

const listen = (port: number): Promise<Server> =>
  new Promise((resolve, reject) => {
    const server = app.listen(port, () => {
      resolve(server)
    })
    server.on('error', reject)
  })

const app = makeApp(fileURLToPath(new URL('../../web/dist', import.meta.url)))
const given = process.env['PORT']
const wanted = given === undefined || given === '' ? FIRST_PORT : Number(given)
if (!Number.isInteger(wanted) || wanted < 0 || wanted > 65535)
  fail(`PORT is "${given}"; it must be a whole number from 0 to 65535`)

/** The wanted port, or the next free one. */
const start = async (): Promise<void> => {
  for (let port = wanted; port < wanted + TRIES && port <= 65535; port += 1) {
    try {
      const server = await listen(port)
      const address = server.address()
      process.stdout.write(
        `Ypsilon is at http://localhost:${typeof address === 'object' && address ? address.port : port}\n`,
      )
      return
    } catch (error) {
      const { code, message } = error as NodeJS.ErrnoException
      if (code !== 'EADDRINUSE' && code !== 'EACCES') fail(`The server could not start: ${message}`)
      process.stderr.write(
        `Port ${port} is ${code === 'EACCES' ? 'not allowed' : 'taken'}; trying ${port + 1}\n`,
      )
    }
  }
  fail(`No free port from ${wanted} to ${wanted + TRIES - 1}. Set another one: PORT=8080 npm start`)
}

await start()
