// npm start: installs what is missing, builds what is old, serves the application.
import { ready } from './ready.mjs'

const LOOK_MS = 200

// npm puts a shell in between that passes no signal on: when it is gone, this ends as well.
if (process.env.npm_lifecycle_event === 'start') {
  const parent = process.ppid
  setInterval(() => {
    if (process.ppid !== parent) process.exit(0)
  }, LOOK_MS).unref()
}

await ready('web', 'server')
await import('../packages/server/dist/server.js')
