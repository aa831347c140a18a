/** A patch on its way to the bench: can it be played, and what is said while it is looked at. */
import {
  type CompileResult,
  everyModule,
  type Fault,
  faultText,
  mib,
  oneLine,
  type Patch,
  withCableIds,
} from '@ypsilon/core'
import type { Notifier } from '../services/notifier.ts'
import type { DocumentStore } from './document.ts'
import { isWhole, readied } from './placing.ts'

/** A patch of more modules is said to be opening before it is looked at. */
const LARGE = 150
/** Memory from which on a patch says what it takes. */
const MUCH_MEMORY = 32 * 2 ** 20
/** Pictures until a large patch stands still on the chart. */
const SETTLING = 4
export const SHOWN_FAULTS = 6

/** `late`: another one has been chosen meanwhile. */
export type Arrival = 'shown' | 'refused' | 'late'

export interface ArrivalParts {
  readonly store: () => DocumentStore
  readonly notifier: Notifier
  readonly compiled: (patch: Patch) => CompileResult
  /** Resolves when what was set before is on the screen. */
  readonly shown: () => Promise<void>
}

export class Arrivals {
  /** Counts what was chosen to be opened: the last choice holds. */
  private latest = 0

  constructor(private readonly parts: ArrivalParts) {}

  refuse(name: string, faults: readonly Fault[]): void {
    const more = faults.length - SHOWN_FAULTS
    this.parts.notifier.error(`${oneLine(name)} was not opened; your patch is unchanged.`, {
      description: [
        ...faults.slice(0, SHOWN_FAULTS).map(faultText),
        ...(more > 0 ? [`… and ${more} more`] : []),
      ].join('\n'),
      duration: 20000,
    })
  }

  /** Says what is going on, and lets that be seen. */
  async announce(name: string, words: string): Promise<void> {
    this.parts.store().setState({ opening: { name, words } })
    await this.parts.shown()
  }
  over(): void {
    if (this.parts.store().getState().opening) this.parts.store().setState({ opening: undefined })
  }

  /** Looks at a patch and hands it to `place` when it can be played; otherwise the bench stays as it is. */
  async bring(patch: Patch, place: (ready: Patch) => void): Promise<Arrival> {
    const name = patch.name || 'Untitled',
      count = everyModule(patch).length
    this.latest += 1
    const mine = this.latest
    const isLate = async (words: string): Promise<boolean> => {
      await this.announce(name, words)
      return mine !== this.latest
    }
    try {
      if (count > LARGE && (await isLate(`${count} modules`))) return 'late'
      const isReady = isWhole(patch),
        ready = isReady ? withCableIds(patch) : await readied(patch)
      if (!isReady && mine !== this.latest) return 'late'
      const result = this.parts.compiled(ready)
      if (!result.ok) {
        this.refuse(name, result.faults)
        return 'refused'
      }
      const { memoryBytes } = result.plan
      if (memoryBytes > MUCH_MEMORY && (await isLate(`${count} modules, ${mib(memoryBytes)} of memory`)))
        return 'late'
      place(ready)
      // The chart lays its cables when the cards stand, and fits the view after that.
      if (this.parts.store().getState().opening)
        for (let n = 0; n < SETTLING; n += 1) await this.parts.shown()
      return 'shown'
    } finally {
      if (mine === this.latest) this.over()
    }
  }
}
