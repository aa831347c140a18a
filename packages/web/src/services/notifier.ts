/** What is said beside the work: short words that go away by themselves. */
import type { toast as sonnerToast } from 'sonner'

export interface Note {
  readonly description?: string
  readonly action?: { readonly label: string; readonly onClick: () => void }
  readonly duration?: number
}

export interface Notifier {
  success(words: string, note?: Note): void
  message(words: string, note?: Note): void
  warning(words: string, note?: Note): void
  error(words: string, note?: Note): void
  /** Something that takes a while; what is given back says how it ended. */
  working(words: string): Pick<Notifier, 'success' | 'message' | 'error'>
}

type Toast = typeof sonnerToast

/** Where notes are shown: not on the page before there is one, so that nothing of it is in the way of the first sound. */
export class NoteHost {
  private isAsked = false
  private onAsked: () => void = () => undefined
  private show: (toast: Toast) => void = () => undefined
  private readonly shown = new Promise<Toast>((resolve) => {
    this.show = resolve
  })

  /** Told once when the first note is said; at once where one was. */
  whenAsked(act: () => void): void {
    this.onAsked = act
    if (this.isAsked) act()
  }
  /** It is on the page: what was said meanwhile is shown, in order. */
  ready(toast: Toast): void {
    this.show(toast)
  }
  say(words: (toast: Toast) => void): void {
    if (!this.isAsked) {
      this.isAsked = true
      this.onAsked()
    }
    void this.shown.then(words)
  }
}

export const noteHost = new NoteHost()

let count = 0

/** Notes on the page. */
export const toastNotifier: Notifier = {
  success: (words, note) => {
    noteHost.say((toast) => toast.success(words, note))
  },
  message: (words, note) => {
    noteHost.say((toast) => toast.message(words, note))
  },
  warning: (words, note) => {
    noteHost.say((toast) => toast.warning(words, note))
  },
  error: (words, note) => {
    noteHost.say((toast) => toast.error(words, note))
  },
  working(words) {
    count += 1
    const id = `working-${count}`
    noteHost.say((toast) => toast.loading(words, { id }))
    const ended =
      (kind: 'success' | 'message' | 'error') =>
      (end: string, note?: Note): void => {
        noteHost.say((toast) => toast[kind](end, { id, duration: 9000, ...note }))
      }
    return { success: ended('success'), message: ended('message'), error: ended('error') }
  },
}
