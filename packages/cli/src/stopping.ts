/** Long work that Ctrl+C ends in an orderly way, and that says now and then how far it is. */
import { setMaxListeners } from 'node:events'

/** Does work that listens to a signal, which the first Ctrl+C raises; false where it was stopped. */
export const untilStopped = async (work: (signal: AbortSignal) => Promise<void>): Promise<boolean> => {
  const stopping = new AbortController()
  // Every task waits for it.
  setMaxListeners(0, stopping.signal)
  const stop = (): void => {
    stopping.abort(new Error('stopped'))
  }
  process.once('SIGINT', stop).once('SIGTERM', stop)
  try {
    await work(stopping.signal)
    return true
  } catch (error) {
    if (!stopping.signal.aborted) throw error
    process.exitCode = 130
    return false
  } finally {
    process.off('SIGINT', stop).off('SIGTERM', stop)
  }
}

const SAY_EVERY_MS = 2000

/** Says something when nothing was said for two seconds, or where it must be said; `atOnce`: the first as well. */
export const nowAndThen = (atOnce: boolean): ((words: () => string, isDue?: boolean) => void) => {
  let said = atOnce ? -Infinity : performance.now()
  return (words, isDue = false) => {
    const now = performance.now()
    if (now - said < SAY_EVERY_MS && !isDue) return
    said = now
    process.stderr.write(`${words()}\n`)
  }
}
