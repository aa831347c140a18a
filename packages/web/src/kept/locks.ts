/** Who works on a document: one tab at a time, and how another one asks for it. */

export interface Hold {
  release(): void
  /** Called when another tab took it without an answer. */
  onLost: () => void
}

export interface Locks {
  /** Holds a document; undefined where another tab still has it after so long. */
  hold(id: string, waitMs: number): Promise<Hold | undefined>
  /** Asks the tab that has it to write and let go; takes it where no answer comes within a second. */
  take(id: string): Promise<Hold>
  /** What this tab does when another one asks: it writes everything, then lets go. */
  onAsked: (id: string) => void
  /** Documents have changed in another tab. */
  onChanged: () => void
  /** Tells the other tabs that documents have changed. */
  changed(): void
}

/** A reload finds its own document still held for a moment. */
export const WAIT_MS = 500
/** A tab that does not answer within this has stopped. */
const ANSWER_MS = 1000

type Message = { readonly ask: string } | { readonly changed: true }

/** One document of the browser held by this tab, or not. */
const request = (locks: LockManager, name: string, options: LockOptions): Promise<Hold | undefined> =>
  new Promise((resolve) => {
    let release: () => void = () => undefined
    const hold: Hold = {
      release: () => {
        release()
      },
      onLost: () => undefined,
    }
    let isHeld = false
    locks
      .request(name, options, (lock) => {
        if (!lock) {
          resolve(undefined)
          return undefined
        }
        isHeld = true
        resolve(hold)
        return new Promise<void>((done) => {
          release = done
        })
      })
      .catch(() => {
        if (isHeld) hold.onLost()
        else resolve(undefined)
      })
  })

/** Everything is free where there are no locks: then revisions alone tell. */
const UNLOCKED: Hold = { release: () => undefined, onLost: () => undefined }

/** Locks of the browser, shared by its tabs. */
export const browserLocks = (): Locks => {
  const manager = 'locks' in navigator ? navigator.locks : undefined
  const channel = 'BroadcastChannel' in globalThis ? new BroadcastChannel('ypsilon-documents') : undefined
  const nameOf = (id: string): string => `ypsilon-document-${id}`
  const hold = async (id: string, waitMs: number): Promise<Hold | undefined> =>
    manager
      ? request(
          manager,
          nameOf(id),
          waitMs === 0 ? { ifAvailable: true } : { signal: AbortSignal.timeout(waitMs) },
        )
      : { ...UNLOCKED }
  const locks: Locks = {
    hold,
    async take(id) {
      channel?.postMessage({ ask: id } satisfies Message)
      const held = await hold(id, ANSWER_MS)
      if (held || !manager) return held ?? { ...UNLOCKED }
      return (await request(manager, nameOf(id), { steal: true })) ?? { ...UNLOCKED }
    },
    onAsked: () => undefined,
    onChanged: () => undefined,
    changed: () => {
      channel?.postMessage({ changed: true } satisfies Message)
    },
  }
  if (channel)
    channel.onmessage = ({ data }: MessageEvent<Message>) => {
      if ('ask' in data) locks.onAsked(data.ask)
      else locks.onChanged()
    }
  return locks
}
