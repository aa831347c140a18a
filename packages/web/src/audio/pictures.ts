/** Which signals are looked at, and what they looked like last. */
import type { Layout, Watch } from '@ypsilon/core'
import { type Report, RING, type ToWorklet, WATCH_FLOATS } from './messages.ts'

/** One signal as the last report shows it. */
export interface Picture {
  readonly ring: Float32Array
  readonly position: number
  readonly min: number
  readonly max: number
  readonly last: number
}

interface Latest {
  readonly serial: number
  readonly keys: ReadonlyMap<string, number>
  readonly floats: Float32Array<ArrayBuffer>
  readonly time: number
  /** When it came, on the page's clock. */
  readonly at: number
}

/** Watch lists whose reports may still come. */
const REMEMBERED = 4

export class Pictures {
  private pictured: readonly string[] = []
  private moving: readonly string[] = []
  private keys: readonly string[] = []
  private serial = 0
  private shown: { readonly serial: number; readonly keys: readonly string[] }[] = []
  private watchedBefore: ReadonlySet<string> = new Set()
  private latest: Latest | undefined

  constructor(private readonly changed: () => void) {}

  /** Names the signals pictures want: `osc.saw` for outputs, `>filter.cutoff` for modulated parameters. */
  watch(keys: readonly string[]): void {
    this.pictured = keys
    this.watchAll()
  }
  /** The same for set values that were moved: `=osc.fine`. */
  watchMoved(keys: readonly string[]): void {
    if (keys.length === 0 && this.moving.length === 0) return
    this.moving = keys
    this.watchAll()
  }

  private watchAll(): void {
    const next = [...new Set([...this.pictured, ...this.moving])]
    if (next.length === this.keys.length && next.every((key, index) => key === this.keys[index])) return
    this.keys = next
    this.changed()
  }

  /** The list as the worklet wants it, for a layout. */
  message(layout: Layout): ToWorklet {
    const words: (readonly [number, number])[] = []
    const set = (key: string, isWatched: boolean): void => {
      const word = layout.setWatched(key, isWatched)
      if (word) words.push(word)
    }
    const now = new Set(this.keys)
    for (const key of this.watchedBefore) if (!now.has(key)) set(key, false)
    for (const key of now) set(key, true)
    this.watchedBefore = now
    let memoryBytes = 0
    const keys: string[] = []
    const watches = this.keys.flatMap((key): Watch[] => {
      const signal = layout.signal(key)
      if (!signal) return []
      const ring = layout.watchRing(key)
      memoryBytes = Math.max(memoryBytes, ring.memoryBytes)
      keys.push(key)
      return [{ signal: signal.address, voices: signal.voices, sides: signal.sides, ring: ring.address }]
    })
    this.serial += 1
    this.shown = [...this.shown.slice(1 - REMEMBERED), { serial: this.serial, keys }]
    return { type: 'watch', watches, words, memoryBytes, serial: this.serial }
  }

  /** Takes a report; the buffer of the one before it, to be filled again. */
  take(report: Report): ArrayBuffer | undefined {
    const before = this.latest
    const keys = this.shown.find((item) => item.serial === report.serial)?.keys ?? []
    this.latest = {
      serial: report.serial,
      keys: before?.serial === report.serial ? before.keys : new Map(keys.map((key, index) => [key, index])),
      floats: new Float32Array(report.buffer),
      time: report.time,
      at: performance.now(),
    }
    return before?.floats.buffer
  }

  /** Another worklet: it knows nothing of what was watched. */
  forget(): void {
    this.watchedBefore = new Set()
    this.latest = undefined
  }

  /** The latest picture of a watched signal. */
  picture(key: string): Picture | undefined {
    const { latest } = this
    const index = latest?.keys.get(key)
    if (!latest || index === undefined || (index + 1) * WATCH_FLOATS > latest.floats.length) return undefined
    const at = index * WATCH_FLOATS
    return {
      ring: latest.floats.subarray(at, at + RING),
      position: latest.time % RING,
      min: latest.floats[at + RING]!,
      max: latest.floats[at + RING + 1]!,
      last: latest.floats[at + RING + 2]!,
    }
  }

  /** The engine's frame by now, as the last report tells. */
  frameNow(sampleRate: number): number {
    const { latest } = this
    return latest ? latest.time + Math.round(((performance.now() - latest.at) / 1000) * sampleRate) : 0
  }
}
