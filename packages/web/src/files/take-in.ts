/** Files come in: what reads them is loaded when the first one does. */
import type { App } from '../app/app.ts'

/** Files the page takes. */
export const ACCEPTED =
  '.json,.zip,.wav,.mid,.midi,.scl,.kbm,application/json,application/zip,audio/wav,audio/midi'

/** A recording from a file, for one module. */
export const takeRecording = async (app: App, file: File, module: string): Promise<void> => {
  const { importRecording } = await import('./import.ts')
  await importRecording(app, file, module)
}

export const takeIn = async (app: App, files: Iterable<File>): Promise<void> => {
  const { importFiles } = await import('./import.ts')
  await importFiles(app, files)
}
