/** Which signals are looked at, and what they looked like last. */
import type { Layout } from '@ypsilon/core'
import {
  OUTPUT,
  type PageWatch,
  type Report,
  RING,
  ringLength,
  SUMMARY,
  type ToWorklet,
  watchFloats,
} from './messages.ts'

/** One signal as the last report shows it. */
export interface Picture {
  readonly ring: Float32Array
  /** The right side of one that is wanted whole and has two. */
  readonly right?: Float32Array
  readonly position: number
  readonly min: number
  readonly max: number
  readonly last: number
}

interface Latest {
  readonly serial: number
  readonly places: ReadonlyMap<string, Place>
  readonly floats: Float32Array<ArrayBuffer>
  readonly time: number
  /** When it came, on the page's clock. */
  readonly at: number
}

/** Where a watch's floats stand in a report, and how many of them are samples. */
interface Place {
  readonly at: number
  readonly length: number
  readonly hasRight: boolean
}

/** Watch lists whose reports may still come. */
const REMEMBERED = 4

export class Pictures {
  private pictured: readonly string[] = []
  private moving: readonly string[] = []
  private keys: readonly string[] = []
  /** Signals of which every sample is wanted. */
  private whole: ReadonlySet<string> = new Set()
  private serial = 0
  private shown: { readonly serial: number; readonly places: ReadonlyMap<string, Place> }[] = []
  private watchedBefore: ReadonlySet<string> = new Set()
  private latest: Latest | undefined

  constructor(private readonly changed: () => void) {}

  /**
   * Names the signals pictures want: `osc.saw` for outputs, `>filter.cutoff` for modulated parameters, `output` for what
   * leaves the engine; of those that are wanted `whole` every sample comes, of both sides.
   */
  watch(keys: readonly string[], whole: ReadonlySet<string> = new Set()): void {
    this.pictured = keys
    const isOther = this.whole.size !== whole.size || [...whole].some((key) => !this.whole.has(key))
    this.whole = whole
    this.watchAll(isOther)
  }
  /** The same for set values that were moved: `=osc.fine`. */
  watchMoved(keys: readonly string[]): void {
    if (keys.length === 0 && this.moving.length === 0) return
    this.moving = keys
    this.watchAll()
  }

  private watchAll(isOther = false): void {
    const next = [...new Set([...this.pictured, ...this.moving])]
    const isSame = next.length === this.keys.length && next.every((key, index) => key === this.keys[index])
    if (isSame && !isOther) return
    this.keys = next
    this.changed()
  }

  /** The list as the worklet wants it, for a layout. `behind`: the output that stands for a port without a signal of its own. */
  message(layout: Layout, behind: (key: string) => string = (key) => key): ToWorklet {
    const words: (readonly [number, number])[] = []
    const set = (key: string, isWatched: boolean): void => {
      const word = layout.setWatched(key, isWatched)
      if (word) words.push(word)
    }
    const real = new Map(this.keys.map((key) => [key, layout.signal(key) ? key : behind(key)]))
    const now = new Set([...real.values()].filter((key) => key !== OUTPUT))
    for (const key of this.watchedBefore) if (!now.has(key)) set(key, false)
    for (const key of now) set(key, true)
    this.watchedBefore = now
    let memoryBytes = 0
    let at = 0
    const places = new Map<string, Place>()
    const watches = this.keys.flatMap((key): PageWatch[] => {
      const signal = layout.signal(real.get(key)!)
      if (!signal) return []
      const ring = layout.watchRing(real.get(key)!)
      memoryBytes = Math.max(memoryBytes, ring.memoryBytes)
      const { address, voices, sides } = signal,
        isThin = !this.whole.has(key),
        right = !isThin && sides === 2 ? layout.watchRing(real.get(key)!, 'right') : undefined
      memoryBytes = Math.max(memoryBytes, right?.memoryBytes ?? 0)
      const watch = {
        signal: address,
        voices,
        sides,
        ring: ring.address,
        isThin,
        ...(right ? { right: right.address } : {}),
      }
      places.set(key, { at, length: ringLength(watch), hasRight: right !== undefined })
      at += watchFloats(watch)
      return [watch]
    })
    const hasOutput = this.keys.includes(OUTPUT)
    if (hasOutput) places.set(OUTPUT, { at, length: RING, hasRight: true })
    this.serial += 1
    this.shown = [...this.shown.slice(1 - REMEMBERED), { serial: this.serial, places }]
    return { type: 'watch', watches, hasOutput, words, memoryBytes, serial: this.serial }
  }

  /** Takes a report; the buffer of the one before it, to be filled again. */
  take(report: Report): ArrayBuffer | undefined {
    const before = this.latest
    this.latest = {
      serial: report.serial,
      places: this.shown.find((item) => item.serial === report.serial)?.places ?? new Map(),
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
    const place = latest?.places.get(key)
    if (!latest || !place) return undefined
    const { at, length, hasRight } = place,
      end = at + length,
      behind = end + SUMMARY
    if (behind + (hasRight ? RING : 0) > latest.floats.length) return undefined
    return {
      ring: latest.floats.subarray(at, end),
      ...(hasRight ? { right: latest.floats.subarray(behind, behind + RING) } : {}),
      position: ((latest.time % RING) * length) / RING,
      min: latest.floats[end]!,
      max: latest.floats[end + 1]!,
      last: latest.floats[end + 2]!,
    }
  }

  /** The engine's frame by now, as the last report tells. */
  frameNow(sampleRate: number): number {
    const { latest } = this
    return latest ? latest.time + Math.round(((performance.now() - latest.at) / 1000) * sampleRate) : 0
  }
}
