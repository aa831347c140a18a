/** Which pictures the chart has, where they stand, and which signals the engine is asked for. */
import { CARD_WIDTH, HEAD, OUT_ROW, type Patch, type RecordingShape, ROW, rowTarget } from '@ypsilon/core'
import type { WorkspaceStore } from '../../store/workspace.ts'
import { probedKeys } from '../probe/target.ts'
import type { ProbeStore } from '../../store/probe.ts'
import type { Distance } from './distance.ts'
import { signalOf, SoundingPainter, TracePainter, watchedBy } from './painters.ts'
import type { Painter, PictureItem } from './picture-layer.ts'
import type { PlacedCard } from './places.ts'
import type { Box } from './routing.ts'
import { soundingParts } from './sounding-parts.ts'
import type { SeenCard } from './seen.ts'
import { textWidth } from './text-width.ts'
import { touches } from './viewport.ts'

export interface PictureItems {
  readonly patch: Patch
  /** The patch that what is shown is a level of. */
  readonly whole: Patch
  readonly seen: readonly SeenCard[]
  readonly cards: ReadonlyMap<string, PlacedCard>
  readonly distance: Distance
  /** Chart pixels that a pixel of the screen is, in soundings. */
  readonly scale: number
  /** Cards that a loupe shows with all their rows. */
  readonly louped: ReadonlySet<string>
  /** Cards that are held: their pictures and ports are carried with them. */
  readonly held: ReadonlySet<string>
}

/** A trace on an output's row: it stands left of the output's name. */
const TRACE = { width: 56, height: 16, right: 10, gap: 8 }
/** Watch lists are sent at most so often. */
const WATCH_MS = 250

/** Where the trace of an output stands on its card. */
export const boxOfTrace = ({ x, y, layout }: Pick<PlacedCard, 'x' | 'y' | 'layout'>, index: number): Box => {
  const { name, label } = layout.outputs[index]!
  const right = x + CARD_WIDTH - TRACE.right - textWidth(label ?? name, 13) - TRACE.gap
  const top = y + HEAD + layout.rows.length * ROW + index * OUT_ROW + (OUT_ROW - TRACE.height) / 2
  return { left: right - TRACE.width, right, top, bottom: top + TRACE.height }
}

/** Signals of a card that shows its rows: its outputs, and parameters that something moves. */
const rowKeys = ({ id, layout, used }: PlacedCard): string[] => [
  ...layout.outputs.map(({ name }) => `${id}.${name}`),
  ...layout.rows.flatMap((row) =>
    row.kind === 'param' && used.has(row.param.name) ? [`>${rowTarget(id, row.param.name)}`] : [],
  ),
]

/** Signals that the picture of a sounding is drawn from; from far off there is none. */
const soundingKeys = (patch: Patch, { module, used }: PlacedCard, distance: Distance): readonly string[] =>
  distance === 'far' ? [] : watchedBy(patch, module, used)

const isCovered = (box: Box, over: readonly PlacedCard[]): boolean =>
  over.some((card) => touches(card.box, box))

export interface WatchParts {
  readonly workspace: WorkspaceStore
  readonly audio?: { shapeOf(patch: Patch, name: string): RecordingShape | undefined }
  readonly engine: { readonly pictures: { watch(keys: readonly string[], whole: ReadonlySet<string>): void } }
  readonly probe: ProbeStore
}

export class Pictures {
  private painters = new Map<string, { readonly painter: Painter; readonly of: unknown }>()
  private timer: ReturnType<typeof setTimeout> | undefined
  private wanted: readonly string[] = []
  /** Signals the probe shows: every sample of them is asked for. */
  private probed: ReadonlySet<string> = new Set()
  private sentAt = -Infinity

  constructor(private readonly parts: WatchParts) {}

  stop(): void {
    clearTimeout(this.timer)
  }

  /** A painter lives on as long as what it draws. */
  private painter(key: string, of: unknown, make: () => Painter): Painter {
    const known = this.painters.get(key)
    if (known && known.of === of) return known.painter
    const painter = make()
    this.painters.set(key, { painter, of })
    return painter
  }

  items({ patch, seen, cards, distance, scale, held }: PictureItems): readonly PictureItem[] {
    const items: PictureItem[] = []
    const shown = seen.map(({ card, hasRows }) => ({ card: cards.get(card.id) ?? card, hasRows }))
    shown.forEach(({ card, hasRows }, index) => {
      if (held.has(card.id)) return
      const own = hasRows ? this.traces(card) : this.sounding(patch, card, distance, scale)
      if (own.length === 0) return
      const over = shown
        .filter((other, at) => (at > index || held.has(other.card.id)) && touches(other.card.box, card.box))
        .map((other) => other.card)
      for (const item of own) if (!isCovered(item.box, over)) items.push(item)
    })
    const keys = new Set(items.map(({ key }) => key))
    for (const key of this.painters.keys()) if (!keys.has(key)) this.painters.delete(key)
    return items
  }

  private traces(card: PlacedCard): PictureItem[] {
    return card.layout.outputs.map(({ name, kind }, index) => {
      const key = `${card.id}.${name}`
      return {
        key,
        box: boxOfTrace(card, index),
        painter: this.painter(key, card.module.type, () => new TracePainter(key, kind)),
      }
    })
  }

  private sounding(patch: Patch, card: PlacedCard, distance: Distance, scale: number): PictureItem[] {
    const { picture } = soundingParts(card, distance, scale)
    if (!picture) return []
    const { module } = card,
      signal = signalOf(patch, module)
    // What comes into a module without outputs may be another signal by now, though the module is the same.
    const key = `${card.id} ${signal?.key ?? ''}`
    const recording = (name: string): RecordingShape | undefined => this.parts.audio?.shapeOf(patch, name)
    const make = (): Painter => new SoundingPainter(module, signal, recording)
    return [{ key, box: picture, painter: this.painter(key, module, make) }]
  }

  /** Asks the engine for what is drawn, a few times a second at most. */
  watch(shown: PictureItems, area: Box, sources: readonly string[]): void {
    const { patch, whole, seen, cards, distance, louped } = shown
    const { selection } = this.parts.workspace.getState(),
      probe = this.parts.probe.getState(),
      probed = probedKeys(whole, probe)
    const keys = new Set<string>([...probed, ...[...probe.wanted.values()].flat()])
    for (const { card, hasRows } of seen) {
      if (!touches((cards.get(card.id) ?? card).box, area)) continue
      const own = hasRows || louped.has(card.id) ? rowKeys(card) : soundingKeys(patch, card, distance)
      for (const key of own) keys.add(key)
    }
    for (const source of sources) keys.add(source)
    // The inspector draws what is selected.
    const chosen = selection.length === 1 ? cards.get(selection[0]!) : undefined
    if (chosen) for (const key of watchedBy(patch, chosen.module, chosen.used)) keys.add(key)
    this.wanted = [...keys]
    this.probed = probed
    const wait = this.sentAt + WATCH_MS - performance.now()
    if (wait <= 0) this.send()
    else
      this.timer ??= setTimeout(() => {
        this.send()
      }, wait)
  }

  private send(): void {
    clearTimeout(this.timer)
    this.timer = undefined
    this.sentAt = performance.now()
    this.parts.engine.pictures.watch(this.wanted, this.probed)
  }
}
