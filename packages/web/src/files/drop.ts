/** Files dropped anywhere come in; the browser never opens them in place of the page. */
const hasFiles = (event: DragEvent): boolean => event.dataTransfer?.types.includes('Files') === true

/** Takes files dropped on the page; given back: how to stop. */
export const listenToDrops = (take: (files: File[]) => void): (() => void) => {
  const over = (event: DragEvent): void => {
    if (!hasFiles(event)) return
    event.preventDefault()
    event.dataTransfer!.dropEffect = 'copy'
  }
  const drop = (event: DragEvent): void => {
    if (!hasFiles(event)) return
    event.preventDefault()
    take([...event.dataTransfer!.files])
  }
  window.addEventListener('dragover', over)
  window.addEventListener('drop', drop)
  return () => {
    window.removeEventListener('dragover', over)
    window.removeEventListener('drop', drop)
  }
}
