/** What the patch costs, module by module. */
import { labelOf } from '@ypsilon/core'
import { measureLoads } from '../audio/offline.ts'
import type { App } from './app.ts'

const SHOWN = 4
type LoadParts = Pick<App, 'document' | 'notifier' | 'engine'>
/** Pages on which it is being measured. */
const measuring = new WeakSet<object>()

/** Measures the patch module by module and says which cost most. */
export const showLoads = async ({ document, notifier }: LoadParts, why: string): Promise<void> => {
  if (measuring.has(document)) return
  measuring.add(document)
  const { patch } = document.getState()
  const note = notifier.working('Measuring every module …')
  try {
    const loads = await measureLoads(patch)
    const words = loads
      .slice(0, SHOWN)
      .map(
        ({ ids, share }) =>
          `${ids.map((id) => labelOf(patch, id)).join(' + ')} ${(share * 100).toFixed(1)} %`,
      )
    note.message(why, {
      description:
        words.length > 0
          ? `Dearest with all voices sounding: ${words.join(', ')}`
          : 'There is nothing that costs anything.',
    })
  } catch (error) {
    note.error('The modules could not be measured.', { description: (error as Error).message })
  } finally {
    measuring.delete(document)
  }
}

/** So many late blocks within so long are more than a hiccup. */
const MANY = 12,
  WITHIN_MS = 4000,
  NOT_AGAIN_MS = 60000

/** Watches for blocks that come too late, and names the dearest modules when it goes on. */
export const watchOverruns = (parts: LoadParts): (() => void) => {
  let from = 0,
    since = 0,
    told = 0
  return parts.engine.subscribe((report) => {
    const now = performance.now()
    if (now - since > WITHIN_MS) {
      from = report.late
      since = now
    }
    if (report.late - from < MANY || now - told < NOT_AGAIN_MS) return
    told = now
    void showLoads(parts, 'The sound stutters: this patch is too much for this machine.')
  })
}
