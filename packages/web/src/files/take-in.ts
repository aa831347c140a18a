/** Files come in: what reads them is loaded when the first one does. */
import type { App } from '../app/app.ts'

/** Files the page takes. */
export const ACCEPTED =
  '.json,.zip,.wav,.mid,.midi,.scl,.kbm,application/json,application/zip,audio/wav,audio/midi'

export const takeIn = async (app: App, files: Iterable<File>): Promise<void> => {
  const { importFiles } = await import('./import.ts')
  await importFiles(app, files)
}
