/** Why nothing is heard: measured in a worker, and shown at the place. */
import { measureHeard } from '../audio/offline.ts'
import type { App } from './app.ts'

/** Listens to the patch as it stands, and shows what was found; later answers than the last question are not shown. */
export const askWhySilent = async ({ document, workspace, audio, notifier }: App): Promise<void> => {
  const { patch } = document.getState()
  workspace.getState().showSilence('listening')
  try {
    const { ungrouped } = await import('@ypsilon/core/patch/grouping.ts')
    // What stands in groups is looked at as if it stood outside: it is named, and opened, where it is.
    const flat = ungrouped(patch)
    const heard = await measureHeard(flat, audio.soundsFor(patch)),
      { whySilent } = await import('@ypsilon/core/advice/silence.ts')
    if (document.getState().patch !== patch || workspace.getState().silence !== 'listening') return
    if (!heard) throw new Error('The patch cannot be played as it stands.')
    workspace.getState().showSilence(whySilent(flat, heard))
  } catch (error) {
    workspace.getState().showSilence(undefined)
    notifier.error(error instanceof Error ? error.message : String(error))
  }
}
