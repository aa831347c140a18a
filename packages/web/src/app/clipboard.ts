/** Copy, cut and paste as the browser tells of them: no permission is asked for. */
import { copiedText, cutSelected, pasteText } from '../commands/clip.ts'
import type { View } from '../commands/command.ts'
import type { App } from './app.ts'
import { isTyping } from './keys.ts'

/** Listens until it is told to stop. */
export const listenToClipboard = (app: App, viewNow: () => View): (() => void) => {
  const isElsewhere = (event: ClipboardEvent): boolean =>
    viewNow() !== 'bench' ||
    isTyping(event.target) ||
    isTyping(document.activeElement) ||
    app.workspace.getState().dialog !== undefined ||
    // Words that are marked on the page are copied as words.
    (event.type !== 'paste' && String(window.getSelection() ?? '') !== '')
  const take = (event: ClipboardEvent): boolean => {
    const text = isElsewhere(event) ? undefined : copiedText(app)
    if (text === undefined) return false
    event.clipboardData?.setData('text/plain', text)
    event.preventDefault()
    return true
  }
  const copy = (event: ClipboardEvent): void => {
    take(event)
  }
  const cut = (event: ClipboardEvent): void => {
    if (take(event)) cutSelected(app)
  }
  const paste = (event: ClipboardEvent): void => {
    if (isElsewhere(event)) return
    if (pasteText(app, event.clipboardData?.getData('text/plain') ?? '')) event.preventDefault()
  }
  document.addEventListener('copy', copy)
  document.addEventListener('cut', cut)
  document.addEventListener('paste', paste)
  return () => {
    document.removeEventListener('copy', copy)
    document.removeEventListener('cut', cut)
    document.removeEventListener('paste', paste)
  }
}
