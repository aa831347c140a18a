/**
 * What the chart draws, kept outside React: where cards and cables stand, and what of them is seen and from how far. React
 * shows the cards of its store; a pan, a zoom, a drag and a playing patch render nothing.
 */
import { createStore } from 'zustand/vanilla'
import { levelShown } from '../../app/level.ts'
import { distanceAt, textScaleAt } from './distance.ts'
import { Drawing, type SceneElements, type Shown } from './drawing.ts'
import { glide } from './glide.ts'
import { Held } from './held.ts'
import { Loupes } from './loupes.ts'
import type { Lines } from './near-cable.ts'
import { cardAt, type PlacedCard, placeCable, type Places, placesOf } from './places.ts'
import { whilePressed } from './pressed.ts'
import { Router } from './router.ts'
import type { Box, Point, Route } from './routing.ts'
import {
  drawnCables,
  isOtherView,
  isSamePointed,
  isSameSeen,
  NOBODY,
  type Pointed,
  type SceneParts,
  type SceneState,
  wayOf,
} from './scene-state.ts'
import { OVERSCAN, Seen } from './seen.ts'
import { followFonts } from './text-width.ts'
import { Viewport, type ViewSource } from './viewport.ts'

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
    cards: () => this.cards,
    get: () => this.store.getState().loupes,
    set: (loupes) => {
      this.store.setState({ loupes })
      this.drawing?.picturesChanged()
    },
    isNeeded: () => this.store.getState().distance !== 'near',
  })
  /** Elements of the cards on the page, by id. */
  readonly elements = new Map<string, HTMLElement>()
  private places: Places
  /** Cards and cables where they are held by now, while they are. */
  private held: { readonly places: Places; readonly shown: Held } | undefined
  /** Where cards are held that are not shown there yet. */
  private moving: ReadonlyMap<string, Point> | undefined
  private router = new Router()
  private routes: ReadonlyMap<string, Route> = new Map()
  /** Its `focused` is the card the keyboard's focus is in. */
  readonly seen = new Seen(this.view)
  private drawing: Drawing | undefined
  /** Of text that is set by now; `scale` of the store: when the chart last rested. */
  private textScale = 1
  /** Which patch is shown, and which group of it. */
  private shownLevel = ''
  /** Cards that are found by their place. */
  private found: Places['cards'] | undefined

  constructor(private readonly parts: SceneParts) {
    this.places = placesOf(levelShown(parts), parts.workspace.getState().open)
  }

  /** Draws on these elements, following everything, until it is told to stop. */
  attach(elements: SceneElements, source: ViewSource): () => void {
    const { document, workspace, frames } = this.parts
    const drawing = new Drawing(elements, this.view, frames, this.parts, () => this.shown())
    this.drawing = drawing
    const stops = [
      this.view.follow(source),
      this.view.onMove(() => {
        this.moved()
      }),
      this.view.onRest(() => {
        this.store.setState({ rests: this.store.getState().rests + 1 })
        drawing.sharpen()
        drawing.cablesChanged()
        this.show()
      }),
      document.subscribe(({ patch, opened }, before) => {
        if (patch !== before.patch || opened !== before.opened) this.take()
      }),
      workspace.subscribe((state, before) => {
        if (isOtherView(state, before)) this.take()
        // A name is typed where there is room for it.
        if (state.renaming !== before.renaming) this.loupes.open(state.renaming ?? '', 'key')
        const isOther = state.selection !== before.selection || state.cable !== before.cable
        if (isOther || state.silence !== before.silence) drawing.cablesChanged()
        if (state.selection !== before.selection) drawing.picturesChanged()
      }),
      this.parts.probe.subscribe(() => void drawing.picturesChanged()),
      this.store.subscribe((state, before) => {
        if (state.pointed.cable !== before.pointed.cable) drawing.cablesChanged()
      }),
      frames.paint(() => {
        this.step(performance.now())
      }),
      whilePressed((isPressed) => {
        drawing.isFrozen = isPressed
      }),
      frames.onColours(() => {
        drawing.redrawAll()
      }),
      followFonts(() => {
        this.show()
      }),
    ]
    this.take()
    return () => {
      for (const stop of stops) stop()
      drawing.stop()
      this.drawing = undefined
    }
  }

  private get now(): Places {
    return this.held?.places ?? this.places
  }
  get cards(): Places['cards'] {
    return this.now.cards
  }
  /** Boxes of cards: of all, or of some. */
  boxes(ids?: readonly string[]): Box[] {
    if (!ids) return [...this.cards.values()].map(({ box }) => box)
    return ids.map((id) => this.cards.get(id)?.box).filter((box) => box !== undefined)
  }
  /** All cables with their ways. */
  get lines(): Lines {
    return { cables: this.places.cables, routes: this.routes }
  }
  cardAt({ x, y }: Point): PlacedCard | undefined {
    return this.seen.at(this.cards, x, y).at(-1)
  }
  cardsIn(box: Box): ReadonlySet<string> {
    return this.seen.within(box)
  }

  point(pointed: Pointed): void {
    if (!isSamePointed(this.store.getState().pointed, pointed)) this.store.setState({ pointed })
  }

  /** The patch or its open rows have changed. */
  private take(): void {
    const { opened } = this.parts.document.getState(),
      { group, open } = this.parts.workspace.getState()
    const before = this.places
    if (this.shownLevel !== `${opened} ${group ?? ''}`) {
      this.shownLevel = `${opened} ${group ?? ''}`
      this.router = new Router()
      this.routes = new Map()
    }
    this.release()
    this.places = placesOf(levelShown(this.parts), open, before)
    const { cards, cables } = this.places
    if (this.found !== cards) {
      this.seen.place(cards)
      this.found = cards
    }
    if (cables !== before.cables || this.routes.size !== cables.size) this.reroute()
    this.loupes.tidy()
    this.show()
  }

  private reroute(): void {
    const { cards, cables } = this.now
    this.routes = this.router.update(
      [...cables.values()],
      [...cards.values()].map(({ box }) => box),
    )
  }

  /** Cards are held somewhere else: they are shown there with the next frame. */
  hold(moved: ReadonlyMap<string, Point>): void {
    this.moving = moved
  }

  /** Only the cables of what is held go another way. */
  private showHeld(moved: ReadonlyMap<string, Point>): void {
    const { patch, cards, cables } = this.places
    const held = new Map(cards)
    for (const [id, { x, y }] of moved) {
      const card = cards.get(id)
      if (card) held.set(id, cardAt(card, x, y))
    }
    if (!this.held) this.drawing?.cablesChanged()
    const shown =
      this.held?.shown ??
      new Held(this.elements, new Set(moved.keys()), this.places, (box) => this.drawing?.copy(box))
    const routed = shown.routed.map((cable) => placeCable(patch, cable.cable, held) ?? cable)
    this.held = { places: { patch, cards: held, cables }, shown }
    this.routes = this.router.adjust(
      routed,
      [...held.values()].map(({ box }) => box),
    )
    this.drawing?.hold(shown.put(this.routes, held), this.store.getState().distance)
    // Pictures are others only where what is held comes to lie over them.
    if (shown.covers((box) => this.cardsIn(box), held)) this.drawing?.picturesChanged()
  }

  /** Cards that have just been put elsewhere come from where they were; lines, pictures and marks follow. */
  glide(from: ReadonlyMap<string, Point>, marks: readonly string[]): void {
    const timing = glide(from, marks, this.cards, this.elements)
    if (timing) this.drawing?.fadeIn(timing)
  }

  /** What is held goes back to where the patch has it. */
  letGo(): void {
    this.moving = undefined
    if (!this.held) return
    this.release()
    this.reroute()
    this.show()
  }

  private release(): void {
    this.moving = undefined
    if (!this.held) return
    this.held.shown.end()
    this.drawing?.letGo()
    this.held = undefined
    this.drawing?.cablesChanged()
  }

  private moved(): void {
    this.loupes.busy()
    this.drawing?.follow()
  }

  /** Everything as it is by now: which cards are on the page, and what is drawn. */
  private show(): void {
    const { view } = this
    if (view.width === 0) return
    const before = this.store.getState()
    const distance = distanceAt(view.zoom, before.distance)
    this.textScale = textScaleAt(view.zoom).sounding
    this.drawing?.setText(distance)
    const scale = this.textScale,
      seen = this.seen.list(this.cards, { distance, scale }),
      cables = drawnCables(this.places, this.routes, view.area(OVERSCAN), before.cables)
    this.store.setState({ seen, distance, cables, scale })
    if (distance === 'near') this.loupes.tidy(true)
    const isSame = cables === before.cables && distance === before.distance && isSameSeen(seen, before.seen)
    if (!isSame) this.drawing?.cablesChanged()
    this.drawing?.picturesChanged()
  }

  private shown(): Shown {
    const { distance, seen, loupes, cables, pointed, scale } = this.store.getState()
    const { selection, cable, silence, focus } = this.parts.workspace.getState()
    const lifted = [cable, pointed.cable].filter((id) => id !== undefined)
    return {
      patch: this.places.patch,
      whole: this.parts.document.getState().patch,
      seen,
      cards: this.cards,
      distance,
      scale,
      louped: new Set(loupes.map(({ id }) => id)),
      cables,
      selection,
      way: wayOf(silence, focus, this.places),
      lifted: new Set([...lifted, ...(this.held?.shown.cables ?? [])]),
      held: this.held?.shown.ids ?? NOBODY,
    }
  }

  /** Once a frame. */
  private step(now: number): void {
    if (this.moving) this.showHeld(this.moving)
    this.moving = undefined
    const { distance, seen } = this.store.getState(),
      isMoreToCome = distance === 'near' && seen.some(({ hasRows }) => !hasRows) && this.seen.more()
    if (this.view.isMoving) this.showMoving()
    else if (isMoreToCome) {
      this.store.setState({ seen: this.seen.list(this.cards, { distance, scale: this.textScale }) })
      this.drawing?.picturesChanged()
    }
    this.drawing?.step(now)
  }

  /** While the chart moves on, what comes near is put on the page before it is seen, and text keeps about its size. */
  private showMoving(): void {
    const { distance, seen } = this.store.getState()
    this.textScale = textScaleAt(this.view.zoom).sounding
    const next = this.seen.listMoving(this.cards, { distance, scale: this.textScale })
    if (next !== seen) this.store.setState({ seen: next })
  }
}
