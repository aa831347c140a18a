/** What is said beside the work: short words that go away by themselves. */
import { toast } from 'sonner'

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

export const toastNotifier: Notifier = {
  success: (words, note) => void toast.success(words, note),
  message: (words, note) => void toast.message(words, note),
  warning: (words, note) => void toast.warning(words, note),
  error: (words, note) => void toast.error(words, note),
  working(words) {
    const id = toast.loading(words)
    return {
      success: (end, note) => void toast.success(end, { id, duration: 9000, ...note }),
      message: (end, note) => void toast.message(end, { id, duration: 9000, ...note }),
      error: (end, note) => void toast.error(end, { id, duration: 9000, ...note }),
    }
  },
}
