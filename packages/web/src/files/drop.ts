import { useEffect } from 'react'
import { importFiles } from './import.ts'

const hasFiles = (event: DragEvent): boolean => event.dataTransfer?.types.includes('Files') === true

/** Files dropped anywhere come in; the browser never opens them in place of the page. */
export const useFileDrop = (): void => {
  useEffect(() => {
    const over = (event: DragEvent): void => {
      if (!hasFiles(event)) return
      event.preventDefault()
      event.dataTransfer!.dropEffect = 'copy'
    }
    const drop = (event: DragEvent): void => {
      if (!hasFiles(event)) return
      event.preventDefault()
      void importFiles([...event.dataTransfer!.files])
    }
    window.addEventListener('dragover', over)
    window.addEventListener('drop', drop)
    return () => {
      window.removeEventListener('dragover', over)
      window.removeEventListener('drop', drop)
    }
  }, [])
}
