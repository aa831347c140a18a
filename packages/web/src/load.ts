import { toast } from 'sonner'
import { measureLoads } from './audio/offline.ts'
import { engine } from './audio/engine-client.ts'
import { labelOf } from './bench/commands.ts'
import { useDocument } from './store/document.ts'

const SHOWN = 4
let measuring = false

/** Measures the patch module by module and says which cost most. */
export const showLoads = async (why: string): Promise<void> => {
  if (measuring) return
  measuring = true
  const { patch } = useDocument.getState()
  const note = toast.loading('Measuring every module …')
  try {
    const loads = await measureLoads(patch)
    const words = loads
      .slice(0, SHOWN)
      .map(
        ({ ids, share }) =>
          `${ids.map((id) => labelOf(patch, id)).join(' + ')} ${(share * 100).toFixed(1)} %`,
      )
    toast.message(why, {
      id: note,
      description:
        words.length > 0
          ? `Dearest with all voices sounding: ${words.join(', ')}`
          : 'There is nothing that costs anything.',
      duration: 9000,
    })
  } catch (error) {
    toast.error('The modules could not be measured.', { id: note, description: (error as Error).message })
  } finally {
    measuring = false
  }
}

/** So many late blocks within so long are more than a hiccup. */
const MANY = 12,
  WITHIN_MS = 4000,
  NOT_AGAIN_MS = 60000

/** Watches for blocks that come too late, and names the dearest modules when it goes on. */
export const watchOverruns = (): (() => void) => {
  let from = 0,
    since = 0,
    told = 0
  return engine.subscribe((report) => {
    const now = performance.now()
    if (now - since > WITHIN_MS) {
      from = report.late
      since = now
    }
    if (report.late - from < MANY || now - told < NOT_AGAIN_MS) return
    told = now
    void showLoads('The sound stutters: this patch is too much for this machine.')
  })
}
