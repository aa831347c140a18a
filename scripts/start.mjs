// npm start: installs what is missing, builds what is old, serves the application.
import { ready } from './ready.mjs'

await ready('web', 'server')
await import('../packages/server/dist/server.js')
