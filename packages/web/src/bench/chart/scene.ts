/**
 * What the chart draws, kept outside React: where cards and cables stand, what of them is seen and from how far, and the
 * canvases they are drawn on. React shows the cards of its store; a pan, a zoom and a playing patch render nothing.
 */
import { type Patch, shapesOf, splitTarget } from '@ypsilon/core'
import { createStore } from 'zustand/vanilla'
import type { DocumentStore } from '../../store/document.ts'
import type { WorkspaceStore } from '../../store/workspace.ts'
import type { Frames } from '../frames.ts'
import { CableLayer, type DrawnCable, LEAST_WIDTH } from './cable-layer.ts'
import { type Distance, distanceAt, MOST_OFF, textScaleAt } from './distance.ts'
import { type Loupe, Loupes } from './loupes.ts'
import { PictureLayer } from './picture-layer.ts'
import { type PictureItems, Pictures } from './pictures.ts'
import { cablesBetween, cardAt, type PlacedCard, type Places, placesOf } from './places.ts'
import { Router } from './router.ts'
import type { Box, Point, Route } from './routing.ts'
import { OVERSCAN, Seen, type SeenCard } from './seen.ts'
import { touches, Viewport, type ViewSource } from './viewport.ts'

export interface SceneState {
  readonly seen: readonly SeenCard[]
  readonly distance: Distance
  /** Cables in view and around it. */
  readonly cables: readonly DrawnCable[]
  /** What the pointer is over. */
  readonly pointed: Pointed
  /** Chart pixels that a pixel of the screen is, in text of soundings. */
  readonly scale: number
  readonly loupes: readonly Loupe[]
  /** Counts the times the view has come to rest, for what stands in its pixels. */
  readonly rests: number
}

/** A port or a cable under the pointer. */
export interface Pointed {
  readonly port?: string
  readonly side?: 'in' | 'out'
  /** Where the port is in the frame. */
  readonly at?: Point
  readonly cable?: string
}

export interface SceneParts {
  readonly document: DocumentStore
  readonly workspace: WorkspaceStore
  readonly frames: Frames
  readonly engine: {
    readonly isRunning: boolean
    readonly pictures: { watch(keys: readonly string[]): void }
  }
}

/** What the page gives the scene to draw on. */
export interface SceneElements {
  readonly frame: HTMLElement
  readonly cables: HTMLCanvasElement
  readonly pictures: HTMLCanvasElement
}

/** How often what comes near is looked for while the chart moves. */
const REACH_MS = 120
const NO_COUNTS: ReadonlyMap<string, string> = new Map()

export class Scene {
  readonly view = new Viewport()
  readonly store = createStore<SceneState>()(() => ({
    seen: [],
    distance: 'near',
    cables: [],
    pointed: {},
    scale: 1,
    loupes: [],
    rests: 0,
  }))
  readonly loupes = new Loupes({
    view: this.view,
    cards: () => this.shown.cards,
    get: () => this.store.getState().loupes,
    set: (loupes) => {
      this.store.setState({ loupes })
      this.watch()
    },
    isNeeded: () => this.store.getState().distance !== 'near',
  })
  /** Elements of the cards on the page, by id. */
  readonly elements = new Map<string, HTMLElement>()
  private places: Places
  /** The same with what is dragged where it is by now. */
  private shown: Places
  private router = new Router()
  private routes: ReadonlyMap<string, Route> = new Map()
  private readonly seen = new Seen(this.view)
  private readonly pictures: Pictures
  private cableLayer: CableLayer | undefined
  private pictureLayer: PictureLayer | undefined
  private frame: HTMLElement | undefined
  private scale = 1
  private textFor: Distance | undefined
  private reachedAt = 0
  private opened = -1
  /** Cards that are found by their place. */
  private grids: Places['cards'] | undefined
  private counts: { readonly patch: Patch; readonly words: ReadonlyMap<string, string> } | undefined

  constructor(private readonly parts: SceneParts) {
    const { patch } = parts.document.getState()
    this.places = placesOf(patch, parts.workspace.getState().open)
    this.shown = this.places
    this.pictures = new Pictures(parts)
  }

  /** Draws on these elements, following everything, until it is told to stop. */
  attach({ frame, cables, pictures }: SceneElements, source: ViewSource): () => void {
    const { document, workspace, frames } = this.parts
    this.frame = frame
    this.cableLayer = new CableLayer(cables, this.view, frames)
    this.pictureLayer = new PictureLayer(pictures, this.view, frames)
    const stops = [
      this.view.follow(source),
      this.view.onMove(() => {
        this.moved()
      }),
      this.view.onRest(() => {
        this.store.setState({ rests: this.store.getState().rests + 1 })
        this.redraw()
        this.show()
      }),
      document.subscribe(({ patch, opened }, before) => {
        if (patch !== before.patch || opened !== before.opened) this.take()
      }),
      workspace.subscribe((state, before) => {
        if (state.open !== before.open) this.take()
        else if (state.selection !== before.selection || state.cable !== before.cable) this.drawCables()
        if (state.probe !== before.probe || state.selection !== before.selection) this.watch()
      }),
      this.store.subscribe((state, before) => {
        if (state.pointed.cable !== before.pointed.cable) this.drawCables()
      }),
      frames.paint(() => {
        this.step(performance.now())
      }),
      frames.onColours(() => {
        this.show()
      }),
    ]
    this.take()
    return () => {
      for (const stop of stops) stop()
      this.pictures.stop()
      this.cableLayer = undefined
      this.pictureLayer = undefined
    }
  }

  get cards(): Places['cards'] {
    return this.shown.cards
  }
  get cables(): Places['cables'] {
    return this.shown.cables
  }
  /** Boxes of cards: of all, or of some. */
  boxes(ids?: readonly string[]): Box[] {
    const { cards } = this.shown
    if (!ids) return [...cards.values()].map(({ box }) => box)
    return ids.map((id) => cards.get(id)?.box).filter((box) => box !== undefined)
  }
  /** A module as the patch has it, also while it is dragged. */
  moduleOf(id: string): PlacedCard['module'] | undefined {
    return this.places.cards.get(id)?.module
  }
  routeOf(cable: string): Route | undefined {
    return this.routes.get(cable)
  }
  /** The card on top at a place of the chart. */
  cardAt({ x, y }: Point): PlacedCard | undefined {
    return this.seen.at(this.shown.cards, x, y).at(-1)
  }
  cardsIn(box: Box): ReadonlySet<string> {
    return this.seen.within(box)
  }

  point(pointed: Pointed): void {
    const before = this.store.getState().pointed
    const isSame =
      before.port === pointed.port &&
      before.cable === pointed.cable &&
      before.at?.x === pointed.at?.x &&
      before.at?.y === pointed.at?.y
    if (!isSame) this.store.setState({ pointed })
  }

  /** The card the keyboard's focus is in. */
  focus(id: string | undefined): void {
    this.seen.focused = id
  }

  /** The patch or its open rows have changed. */
  private take(): void {
    const { document, workspace } = this.parts
    const { patch, opened } = document.getState()
    const before = this.places
    if (opened !== this.opened) {
      this.opened = opened
      this.router = new Router()
    }
    this.places = placesOf(patch, workspace.getState().open, before)
    this.shown = this.places
    if (this.places.cards !== before.cards || this.grids !== this.places.cards) {
      this.seen.place(this.places.cards)
      this.grids = this.places.cards
    }
    this.reroute()
    this.loupes.tidy(false)
    this.show()
  }

  private reroute(): void {
    const { cards, cables } = this.shown
    this.routes = this.router.update(
      [...cables.values()],
      [...cards.values()].map(({ box }) => box),
    )
  }

  /** Cards are held somewhere else: only their own cables go another way. Without places they are back. */
  hold(places: ReadonlyMap<string, Point> | undefined): void {
    const { patch, cards, cables } = this.places
    if (places) {
      const held = new Map(cards)
      for (const [id, { x, y }] of places) {
        const card = cards.get(id)
        if (!card) continue
        held.set(id, cardAt(card, x, y))
        const element = this.elements.get(id)
        if (element) element.style.transform = `translate(${x}px, ${y}px)`
      }
      this.shown = { patch, cards: held, cables: cablesBetween(patch, held, cables) }
    } else {
      for (const [id, card] of cards) {
        const element = this.elements.get(id)
        if (element && this.shown.cards.get(id) !== card)
          element.style.transform = `translate(${card.x}px, ${card.y}px)`
      }
      this.shown = this.places
    }
    this.reroute()
    this.drawCables()
    this.drawPictures()
  }

  private moved(): void {
    this.loupes.busy()
    this.cableLayer?.follow()
    this.pictureLayer?.follow()
    if (Math.abs(this.scale * this.view.zoom - 1) > MOST_OFF) this.setText(this.store.getState().distance)
  }

  /** After a zoom the layer of the cards is drawn at its new scale. */
  private redrawn = 1
  private redraw(): void {
    const { frame, view } = this
    if (!frame || this.redrawn === view.zoom) return
    this.redrawn = view.zoom
    frame.dataset['anew'] = 'true'
    requestAnimationFrame(() =>
      requestAnimationFrame(() => {
        frame.dataset['anew'] = 'false'
      }),
    )
  }

  /** Text of cards for the present zoom. */
  private setText(distance: Distance): void {
    const { sounding, rows } = textScaleAt(this.view.zoom),
      { frame } = this
    if (!frame || (sounding === this.scale && distance === this.textFor)) return
    this.scale = sounding
    this.textFor = distance
    const tag = Math.max(1, distance === 'near' ? rows : sounding)
    const line = Math.max(1, LEAST_WIDTH / this.view.zoom)
    for (const [name, value] of Object.entries({ far: sounding, rows, tag, line }))
      frame.style.setProperty(`--${name}`, String(value))
    this.store.setState({ scale: sounding })
  }

  /** Everything as it is by now: which cards are on the page, and what is drawn. */
  private show(): void {
    const { view } = this
    if (view.width === 0) return
    const distance = distanceAt(view.zoom, this.store.getState().distance)
    this.setText(distance)
    const seen = this.seen.list(this.shown.cards, distance === 'near')
    this.store.setState({ seen, distance, cables: this.cablesAround() })
    if (distance === 'near') this.loupes.tidy(true)
    this.drawCables()
    this.drawPictures()
    this.watch()
  }

  private cablesAround(): readonly DrawnCable[] {
    const before = this.store.getState().cables,
      area = this.view.area(OVERSCAN)
    const old = new Map(before.map((cable) => [cable.id, cable]))
    const next: DrawnCable[] = []
    for (const placed of this.shown.cables.values()) {
      const route = this.routes.get(placed.id)
      if (!route || !touches(route.box, area)) continue
      const was = old.get(placed.id)
      next.push(
        was?.route === route && was.cable === placed.cable && was.kind === placed.kind
          ? was
          : { ...placed, route },
      )
    }
    const isSame = next.length === before.length && next.every((cable, index) => cable === before[index])
    return isSame ? before : next
  }

  private voiceCounts(): ReadonlyMap<string, string> {
    const { patch } = this.places
    if (this.counts?.patch.cables !== patch.cables || this.counts.patch.modules !== patch.modules) {
      const words = new Map<string, string>()
      for (const [source, { voices, sides }] of shapesOf(patch)) {
        const text = `${voices > 1 ? `×${voices}` : ''}${sides > 1 ? '‖' : ''}`
        if (text) words.set(source, text)
      }
      this.counts = { patch, words }
    }
    return this.counts.words
  }

  /** Cables drawn over the others: selected, pointed at. */
  private lifted(): ReadonlySet<string> {
    const { cable } = this.parts.workspace.getState(),
      { pointed } = this.store.getState()
    return new Set([cable, pointed.cable].filter((id) => id !== undefined))
  }

  drawCables(): void {
    const { distance, seen } = this.store.getState()
    const selected = new Set(this.parts.workspace.getState().selection)
    const cables = this.cablesAround()
    if (cables !== this.store.getState().cables) this.store.setState({ cables })
    this.cableLayer?.set({
      cables,
      cards:
        distance === 'near'
          ? []
          : seen.filter(({ hasRows }) => !hasRows).map(({ card }) => this.cards.get(card.id) ?? card),
      hasAllPorts: distance !== 'far',
      counts: distance === 'near' ? this.voiceCounts() : NO_COUNTS,
      lifted: this.lifted(),
      isLit: ({ cable, source, target }) =>
        cable.muted !== true &&
        (selected.size === 0 || [source, target].some((end) => selected.has(splitTarget(end)?.[0] ?? ''))),
    })
  }

  private items(): PictureItems {
    const { distance, seen, loupes } = this.store.getState()
    const louped = new Set(loupes.map(({ id }) => id))
    return { patch: this.places.patch, seen, cards: this.shown.cards, distance, scale: this.scale, louped }
  }

  private drawPictures(): void {
    this.pictureLayer?.set(this.pictures.items(this.items()))
  }

  private watch(): void {
    const { view } = this
    const { cables } = this.store.getState(),
      area = view.area()
    const sources = cables.filter(({ route }) => touches(route.box, area)).map(({ source }) => source)
    this.pictures.watch(this.items(), area, sources)
  }

  /** Once a frame. */
  private step(now: number): void {
    const { distance, seen } = this.store.getState()
    if (distance === 'near' && seen.some(({ hasRows }) => !hasRows) && this.seen.more()) {
      const next = this.seen.list(this.shown.cards, true)
      this.store.setState({ seen: next })
      this.drawPictures()
      this.watch()
    }
    if (this.view.isMoving) this.reachOut()
    this.cableLayer?.step(now, this.parts.engine.isRunning)
    if (this.parts.engine.isRunning) this.pictureLayer?.step(now)
  }

  /** While the chart moves on, what comes near is put on the page before it is seen. */
  private reachOut(): void {
    const now = performance.now()
    if (now - this.reachedAt < REACH_MS) return
    this.reachedAt = now
    const seen = this.seen.list(this.shown.cards, this.store.getState().distance === 'near')
    if (seen !== this.store.getState().seen) this.store.setState({ seen, cables: this.cablesAround() })
  }
}
