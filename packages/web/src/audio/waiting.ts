/** Notes played before there is sound: they wait for it, in order and as far apart as they were played. */
import type { Untimed } from '@ypsilon/core'

interface Waiting {
  readonly event: Untimed
  readonly device: string | undefined
  readonly at: number
}

/** What was played longer ago is not played any more: nobody expects it then. */
const OLD_MS = 10000
/** A note that was let go sooner is held so long: it would not be heard. */
const LEAST_MS = 40

const NOTES: ReadonlySet<string> = new Set(['on', 'off', 'pressure', 'bend', 'slide'])
/** Is it about a note, and nothing without sound? */
export const isOfNotes = (event: Untimed): boolean => NOTES.has(event.type)

const idOf = (event: Untimed): number | undefined => ('id' in event ? event.id : undefined)

export class WaitingNotes {
  private queue: Waiting[] = []
  private timers: ReturnType<typeof setTimeout>[] = []

  constructor(
    private readonly play: (event: Untimed, device: string | undefined) => void,
    private readonly now: () => number = () => performance.now(),
  ) {}

  add(event: Untimed, device: string | undefined): void {
    this.queue.push({ event, device, at: this.now() })
  }

  /** There is sound: what waited is played. */
  begin(): void {
    const now = this.now(),
      queue = this.queue.filter(({ at }) => now - at < OLD_MS),
      first = queue[0]?.at ?? now
    this.queue = [...queue]
    const begun = new Map<number | undefined, number>()
    let wait = 0
    for (const item of queue) {
      const { event, at } = item,
        id = idOf(event)
      wait = Math.max(wait, at - first)
      if (event.type === 'on') begun.set(id, wait)
      if (event.type === 'off') wait = Math.max(wait, (begun.get(id) ?? -LEAST_MS) + LEAST_MS)
      if (wait === 0) this.next(item)
      else
        this.timers.push(
          setTimeout(() => {
            this.next(item)
          }, wait),
        )
    }
  }

  private next(item: Waiting): void {
    const at = this.queue.indexOf(item)
    if (at < 0) return
    for (const { event, device } of this.queue.splice(0, at + 1)) this.play(event, device)
  }

  /** Another event of the same note comes: what waits for it comes before. */
  before(event: Untimed): void {
    const id = idOf(event)
    const last = this.queue.findLast((item) => idOf(item.event) === id)
    if (id !== undefined && last) this.next(last)
  }

  /** Everything is silenced: nothing of it is played. */
  forget(): void {
    for (const timer of this.timers) clearTimeout(timer)
    this.timers = []
    this.queue = []
  }
}
