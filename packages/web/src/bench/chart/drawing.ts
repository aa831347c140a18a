/** What the scene has on its canvases: drawn once a frame at most, whatever has changed until then. */
import { type CompileResult, type Patch, shapesOf, splitTarget } from '@ypsilon/core'
import type { Frames } from '../frames.ts'
import { CableLayer, LEAST_WIDTH } from './cable-layer.ts'
import { type Distance, textScaleAt } from './distance.ts'
import { COMING_BACK } from './glide.ts'
import { PictureLayer } from './picture-layer.ts'
import { type PictureItems, Pictures, type WatchParts } from './pictures.ts'
import type { DrawnCable, PlacedCard } from './places.ts'
import type { Box } from './routing.ts'
import { touches, type Viewport } from './viewport.ts'

/** What the page gives the scene to draw on. */
export interface SceneElements {
  readonly frame: HTMLElement
  readonly cables: HTMLElement
  readonly pictures: HTMLElement
  /** Over the others, for what is held. */
  readonly held: HTMLElement
  /** Stands in what the canvas library moves, and holds one element with all cards: see `sharpen`. It comes later. */
  readonly layer: { readonly current: HTMLElement | null }
}

/** What is to be seen by now. */
export interface Shown extends PictureItems {
  readonly cables: readonly DrawnCable[]
  readonly selection: readonly string[]
  /** The patch that what is shown is a level of. */
  readonly whole: Patch
  /** Cables of the only way that is lit, where there is one. */
  readonly way: ReadonlySet<string> | undefined
  /** Cables drawn over the others, elsewhere. */
  readonly lifted: ReadonlySet<string>
}

export interface DrawingEngine {
  readonly isRunning: boolean
  compiled(patch: Patch): CompileResult
}

const NOTHING: ReadonlySet<string> = new Set()
const NO_COUNTS: ReadonlyMap<string, string> = new Map()
/** Voice counts are worked out when edits have rested for so long. */
const COUNT_MS = 250
/** Pictures a second while something is dragged. */
const SLOW_HZ = 8

const isLitBy =
  (selection: readonly string[], way: ReadonlySet<string> | undefined) =>
  ({ id, cable, source, target }: DrawnCable): boolean => {
    if (way) return way.has(id)
    if (cable.muted === true) return false
    if (selection.length === 0) return true
    return [source, target].some((end) => selection.includes(splitTarget(end)?.[0] ?? ''))
  }

/** Voices and sides of every output that has more than one, as they stand at its cables. */
class VoiceCounts {
  words: ReadonlyMap<string, string> = NO_COUNTS
  private of: Patch | undefined
  private timer: ReturnType<typeof setTimeout> | undefined

  constructor(
    private readonly compiled: (patch: Patch) => CompileResult,
    private readonly changed: () => void,
  ) {}

  follow(patch: Patch): void {
    if (this.of === patch) return
    const isOther = this.of?.cables !== patch.cables
    clearTimeout(this.timer)
    this.timer = setTimeout(
      () => {
        this.of = patch
        const words = new Map<string, string>(),
          result = this.compiled(patch)
        for (const [source, { voices, sides }] of result.ok ? shapesOf(result.plan) : []) {
          const text = `${voices > 1 ? `×${voices}` : ''}${sides > 1 ? '‖' : ''}`
          if (text) words.set(source, text)
        }
        const isSame =
          words.size === this.words.size && [...words].every(([key, text]) => this.words.get(key) === text)
        if (isSame) return
        this.words = words
        this.changed()
      },
      isOther ? 0 : COUNT_MS,
    )
  }
  stop(): void {
    clearTimeout(this.timer)
  }
}

export class Drawing {
  private scales = { rows: 1, tag: 1, line: 1 }
  private readonly pictures: Pictures
  private readonly counts: VoiceCounts
  private readonly cableLayer: CableLayer
  private readonly heldLayer: CableLayer
  private readonly pictureLayer: PictureLayer
  private cablesAreOld = true
  private picturesAreOld = true
  private sharpFor = 1
  /** While something is dragged, cables do not brighten: the frames are for what is dragged. */
  isFrozen = false

  constructor(
    private readonly elements: SceneElements,
    private readonly view: Viewport,
    frames: Frames,
    private readonly parts: WatchParts & { readonly engine: DrawingEngine },
    private readonly shown: () => Shown,
  ) {
    this.cableLayer = new CableLayer(elements.cables, view, frames)
    this.heldLayer = new CableLayer(elements.held, view, frames, true)
    this.pictureLayer = new PictureLayer(elements.pictures, view, frames)
    this.pictures = new Pictures(parts)
    this.counts = new VoiceCounts(
      (patch) => parts.engine.compiled(patch),
      () => {
        this.cablesAreOld = true
      },
    )
  }

  stop(): void {
    this.pictures.stop()
    this.counts.stop()
    this.cableLayer.end()
    this.heldLayer.end()
    this.pictureLayer.end()
  }

  /** Lines and pictures come back while cards are on their way. */
  fadeIn(timing: KeyframeAnimationOptions): void {
    for (const layer of [this.elements.cables, this.elements.pictures]) layer.animate(COMING_BACK, timing)
  }

  /** Something has changed: it is drawn with the next frame. */
  cablesChanged(): void {
    this.cablesAreOld = true
  }
  picturesChanged(): void {
    this.picturesAreOld = true
  }

  /** Cables and ports of what is held. */
  hold(
    held: { readonly cables: readonly DrawnCable[]; readonly cards: readonly PlacedCard[] },
    distance: Distance,
  ): void {
    const drawn = {
      cables: held.cables,
      cards: distance === 'near' ? [] : held.cards,
      hasAllPorts: distance !== 'far',
      counts: NO_COUNTS,
      lifted: NOTHING,
      isLit: () => true,
    }
    this.heldLayer.set(drawn, performance.now())
  }
  letGo(): void {
    this.heldLayer.hide()
  }

  /** What stands over a card by now, for as long as it is held. */
  copy(box: Box): HTMLCanvasElement {
    return this.pictureLayer.copy(box)
  }

  /** The view moves: what is drawn moves with it. */
  follow(): void {
    this.cableLayer.follow()
    this.heldLayer.follow()
    this.pictureLayer.follow()
  }

  /** Once a frame. */
  step(now: number): void {
    const { isRunning } = this.parts.engine
    if (this.cablesAreOld && !this.view.isMoving) this.drawCables(now)
    else if (!this.isFrozen) this.cableLayer.step(now, isRunning)
    if (this.picturesAreOld && !this.view.isMoving) this.drawPictures()
    if (isRunning) this.pictureLayer.step(now, this.isFrozen ? SLOW_HZ : undefined)
  }

  private drawCables(now: number): void {
    this.cablesAreOld = false
    const { cables, seen, cards, distance, selection, way, lifted, held, whole } = this.shown()
    if (distance === 'near') this.counts.follow(whole)
    const isOfSounding = ({ id }: PlacedCard, hasRows: boolean): boolean => !hasRows && !held.has(id)
    this.cableLayer.set(
      {
        cables,
        cards:
          distance === 'near'
            ? []
            : seen
                .filter(({ card, hasRows }) => isOfSounding(card, hasRows))
                .map(({ card }) => cards.get(card.id) ?? card),
        hasAllPorts: distance !== 'far',
        counts: distance === 'near' ? this.counts.words : NO_COUNTS,
        lifted,
        isLit: isLitBy(selection, way),
      },
      now,
    )
  }

  private drawPictures(): void {
    this.picturesAreOld = false
    const shown = this.shown(),
      area = this.view.area()
    this.pictureLayer.set(this.pictures.items(shown))
    const sources = shown.cables.filter(({ route }) => touches(route.box, area)).map(({ source }) => source)
    this.pictures.watch(shown, area, sources)
  }

  /** Everything is drawn anew: other colours. */
  redrawAll(): void {
    this.pictureLayer.forget()
    this.cablesAreOld = true
    this.picturesAreOld = true
  }

  /** After a zoom the layer of the cards is drawn at its new scale: one of its pixels is one of the screen again. */
  sharpen(): void {
    const { zoom } = this.view,
      layer = this.elements.layer.current
    if (!layer || this.sharpFor === zoom) return
    this.sharpFor = zoom
    layer.style.transform = `scale(${1 / zoom})`
    ;(layer.firstElementChild as HTMLElement).style.transform = `scale(${zoom})`
  }

  /** Text in rows, lines and tags for the present zoom. */
  setText(distance: Distance): void {
    const { sounding, rows } = textScaleAt(this.view.zoom)
    const tag = Math.max(1, distance === 'near' ? rows : sounding),
      line = Math.max(1, LEAST_WIDTH / this.view.zoom)
    const scales = { rows, tag, line }
    for (const [name, value] of Object.entries(scales))
      if (this.scales[name as keyof typeof scales] !== value)
        this.elements.frame.style.setProperty(`--${name}`, String(value))
    this.scales = scales
  }
}
