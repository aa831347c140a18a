/** The pointer on the chart: what it is over, cards that are dragged, and cables from port to port. */
import type { SignalKind } from '@ypsilon/core'
import type { App } from '../../app/app.ts'
import { GRID } from '../edits.ts'
import { laid, letGo } from '../connecting.ts'
import { CARD_WIDTH, HEAD, outputAt, type PortPlace, rowAt } from './geometry.ts'
import type { PlacedCard } from './places.ts'
import { chamfered, type Point } from './routing.ts'
import type { Scene } from './scene.ts'

/** The nearest port within this of the pointer is the one meant. */
const PORT_PX = 12
/** Moves shorter than this are clicks. */
const CLICK_PX = 4
/** The top of a card that moves it, whatever its zoom. */
const GRIP_PX = 10
/** So near an edge the chart moves on under what is dragged, so far a frame at most. */
const EDGE_PX = 32,
  EDGE_STEP = 9
const REACH = 16

export interface PortHit {
  /** `osc.saw` */
  readonly port: string
  readonly id: string
  readonly side: 'in' | 'out'
  readonly kind: SignalKind
  /** Where it is in the frame. */
  readonly at: Point
}

/** A gesture that is under way. */
interface Gesture {
  readonly move: (point: Point, event: PointerEvent) => void
  readonly drop: (point: Point, event: PointerEvent) => void
  readonly giveUp: () => void
}

export interface PointingElements {
  readonly frame: HTMLElement
  /** The cable in hand. */
  readonly line: SVGPathElement
  readonly pan: (dx: number, dy: number) => void
}

/** What has a press of its own. */
const OWN = 'button, input, textarea, [role="slider"], [role="switch"], [role="menuitem"], .field-box'
/** What lies over ports. */
const OVER_PORTS = '[data-tag], [data-cable-end]'

const distance = (a: Point, b: Point): number => Math.hypot(a.x - b.x, a.y - b.y)

export class Pointing {
  private elements: PointingElements | undefined
  private box: DOMRect | undefined
  private gesture: Gesture | undefined
  private isClickTaken = false
  private last: Point = { x: 0, y: 0 }
  private lastEvent: PointerEvent | undefined
  private edging = 0

  constructor(
    private readonly app: App,
    private readonly scene: Scene,
  ) {}

  /** Listens to the pointer until it is told to stop. */
  attach(elements: PointingElements): () => void {
    this.elements = elements
    const { frame } = elements
    const measure = (): void => {
      this.box = frame.getBoundingClientRect()
    }
    const size = new ResizeObserver(measure)
    size.observe(frame)
    const down = (event: PointerEvent): void => {
      measure()
      this.down(event)
    }
    const over = (event: PointerEvent): void => {
      this.over(event)
    }
    const leave = (): void => {
      this.scene.point({})
      this.scene.loupes.away()
    }
    const click = (event: MouseEvent): void => {
      if (!this.isClickTaken) return
      this.isClickTaken = false
      event.stopPropagation()
    }
    const wheel = (): void => {
      this.scene.loupes.busy()
    }
    frame.addEventListener('pointerenter', measure)
    frame.addEventListener('pointerdown', down, true)
    frame.addEventListener('pointermove', over)
    frame.addEventListener('pointerleave', leave)
    frame.addEventListener('click', click, true)
    frame.addEventListener('wheel', wheel, { passive: true, capture: true })
    window.addEventListener('pointermove', this.moved)
    window.addEventListener('pointerup', this.dropped)
    window.addEventListener('pointercancel', this.cancelled)
    window.addEventListener('keydown', this.pressed, true)
    return () => {
      size.disconnect()
      frame.removeEventListener('pointerenter', measure)
      frame.removeEventListener('pointerdown', down, true)
      frame.removeEventListener('pointermove', over)
      frame.removeEventListener('pointerleave', leave)
      frame.removeEventListener('click', click, true)
      frame.removeEventListener('wheel', wheel, { capture: true })
      window.removeEventListener('pointermove', this.moved)
      window.removeEventListener('pointerup', this.dropped)
      window.removeEventListener('pointercancel', this.cancelled)
      window.removeEventListener('keydown', this.pressed, true)
      cancelAnimationFrame(this.edging)
    }
  }

  /** A place of the page in the frame of the chart. */
  toFrame({ clientX, clientY }: { readonly clientX: number; readonly clientY: number }): Point {
    const { left = 0, top = 0 } = this.box ?? {}
    return { x: clientX - left, y: clientY - top }
  }

  /** The port that is meant at a place of the frame. */
  portAt(point: Point): PortHit | undefined {
    const { scene } = this
    const loupe = scene.loupes.at(point) ?? this.loupeBeside(point)
    if (loupe) return this.nearest(point, [loupe.card], (port) => this.inLoupe(loupe, port))
    const { x, y } = scene.view.toChart(point),
      around = PORT_PX / scene.view.zoom
    const ids = scene.cardsIn({ left: x - around, right: x + around, top: y - around, bottom: y + around })
    const cards = [...ids].map((id) => scene.cards.get(id)).filter((card) => card !== undefined)
    return this.nearest(point, cards, (port, card) =>
      scene.view.toFrame({ x: card.x + port.x, y: card.y + port.y }),
    )
  }

  /** A loupe whose edge is near: its ports stand on it. */
  private loupeBeside(point: Point): ReturnType<Scene['loupes']['at']> {
    const { loupes } = this.scene
    return loupes.at({ x: point.x + PORT_PX, y: point.y }) ?? loupes.at({ x: point.x - PORT_PX, y: point.y })
  }

  private inLoupe(
    { card, box }: NonNullable<ReturnType<Scene['loupes']['at']>>,
    { x, y }: PortPlace,
  ): Point | undefined {
    const top = box.top + 1 + y - (this.scene.loupes.scrolled.get(card.id) ?? 0)
    if (top < box.top || top > box.bottom) return undefined
    return { x: x === 0 ? box.left : box.right, y: top }
  }

  private nearest(
    point: Point,
    cards: readonly PlacedCard[],
    placeOf: (port: PortPlace, card: PlacedCard) => Point | undefined,
  ): PortHit | undefined {
    const isFar = this.scene.store.getState().distance === 'far'
    let found: PortHit | undefined,
      least = PORT_PX
    for (const card of cards)
      for (const port of card.layout.ports.values()) {
        const at = placeOf(port, card)
        if (!at || (isFar && !card.used.has(port.name) && !this.scene.loupes.at(point))) continue
        const away = distance(point, at)
        if (away > least) continue
        least = away
        found = { port: `${card.id}.${port.name}`, id: card.id, side: port.side, kind: port.kind, at }
      }
    return found
  }

  /** The row under a place: an input or parameter that takes a cable, or an output. */
  private rowAt(point: Point): { readonly port: string; readonly side: 'in' | 'out' } | undefined {
    const { scene } = this
    const loupe = scene.loupes.at(point)
    const card = loupe?.card ?? (this.isNear ? scene.cardAt(scene.view.toChart(point)) : undefined)
    if (!card) return undefined
    const down = loupe
      ? point.y - loupe.box.top - 1 + (scene.loupes.scrolled.get(card.id) ?? 0)
      : scene.view.toChart(point).y - card.y
    const input = rowAt(card.layout, down),
      output = outputAt(card.layout, down)
    if (input !== undefined) return { port: `${card.id}.${input}`, side: 'in' }
    return output === undefined ? undefined : { port: `${card.id}.${output}`, side: 'out' }
  }

  /** A port or row that a cable end may be let go at. */
  targetAt(point: Point): { readonly port: string; readonly side: 'in' | 'out' } | undefined {
    return this.portAt(point) ?? this.rowAt(point)
  }

  private get isNear(): boolean {
    return this.scene.store.getState().distance === 'near'
  }

  private over(event: PointerEvent): void {
    if (this.gesture) return
    const point = this.toFrame(event),
      target = event.target as Element
    const hit = event.buttons === 0 && !target.closest(OVER_PORTS) ? this.portAt(point) : undefined
    const cable = hit ? undefined : target.closest<HTMLElement>('[data-cable]')?.dataset['cable']
    this.scene.point({
      ...(hit ? { port: hit.port, side: hit.side, at: hit.at } : {}),
      ...(cable === undefined ? {} : { cable }),
    })
    const { frame } = this.elements!
    if ((frame.dataset['over'] === 'port') !== (hit !== undefined)) frame.dataset['over'] = hit ? 'port' : ''
    if (event.buttons === 0)
      this.scene.loupes.pointer(point, hit ? undefined : this.scene.cardAt(this.scene.view.toChart(point)))
  }

  private down(event: PointerEvent): void {
    this.scene.loupes.busy()
    this.isClickTaken = false
    if (this.gesture) {
      // The second click of a cable that is laid by two.
      event.preventDefault()
      event.stopPropagation()
      return
    }
    if (event.button !== 0 || (event.target as Element).closest(OVER_PORTS)) return
    const hit = this.portAt(this.toFrame(event))
    if (!hit) return
    // Neither the chart nor the card below begins anything.
    event.preventDefault()
    event.stopPropagation()
    this.isClickTaken = true
    if (event.shiftKey && hit.side === 'out') {
      this.app.workspace.getState().pin(hit.port)
      return
    }
    this.take(hit, this.toFrame(event))
  }

  private readonly moved = (event: PointerEvent): void => {
    if (!this.gesture) return
    this.last = this.toFrame(event)
    this.lastEvent = event
    this.gesture.move(this.last, event)
    this.edging ||= requestAnimationFrame(this.edge)
  }
  private readonly dropped = (event: PointerEvent): void => {
    this.gesture?.drop(this.toFrame(event), event)
  }
  private readonly cancelled = (): void => {
    this.gesture?.giveUp()
    this.end()
  }
  private readonly pressed = (event: KeyboardEvent): void => {
    if (event.key !== 'Escape') return
    const isGesture = this.gesture !== undefined
    if (isGesture) this.cancelled()
    else if (this.app.workspace.getState().dialog !== undefined || !this.hasTopLoupe(event)) return
    else this.closeLoupe()
    event.preventDefault()
    event.stopPropagation()
  }

  /** Escape closes a loupe, but not while something in it or over it has the key. */
  private hasTopLoupe({ target }: KeyboardEvent): boolean {
    const { loupes } = this.scene
    const isElsewhere =
      target instanceof HTMLInputElement ||
      target instanceof HTMLTextAreaElement ||
      (target instanceof Element && target.closest('.menu, [role="dialog"]') !== null)
    return !isElsewhere && loupes.elements.size > 0
  }

  private closeLoupe(): void {
    this.scene.loupes.closeTop()
    this.app.chart.focus()
  }

  private begin(gesture: Gesture, point: Point): void {
    this.gesture = gesture
    this.scene.freeze(true)
    this.last = point
    this.scene.point({})
  }
  private end(): void {
    this.gesture = undefined
    this.scene.freeze(false)
    cancelAnimationFrame(this.edging)
    this.edging = 0
  }

  /** The chart moves on under what is held at its edge. */
  private readonly edge = (): void => {
    this.edging = 0
    const { view } = this.scene
    if (!this.gesture || !this.lastEvent) return
    const push = (at: number, room: number): number => {
      if (at < EDGE_PX) return Math.min(1, (EDGE_PX - at) / EDGE_PX) * EDGE_STEP
      return at > room - EDGE_PX ? -Math.min(1, (at - room + EDGE_PX) / EDGE_PX) * EDGE_STEP : 0
    }
    const dx = push(this.last.x, view.width),
      dy = push(this.last.y, view.height)
    if (dx === 0 && dy === 0) return
    this.elements!.pan(dx, dy)
    this.gesture.move(this.last, this.lastEvent)
    this.edging = requestAnimationFrame(this.edge)
  }

  /** A cable in hand, from a port. It is let go where the button is, or laid by a second click. */
  private take(hit: PortHit, start: Point): void {
    const { line } = this.elements!,
      { scene, app } = this
    const from = scene.view.toChart(hit.at)
    let isLaid = false
    const draw = (to: Point): void => {
      const begin = scene.loupes.at(hit.at) ? hit.at : scene.view.toFrame(from)
      const middle =
        hit.side === 'out'
          ? Math.max(begin.x + REACH, (begin.x + to.x) / 2)
          : Math.min(begin.x - REACH, (begin.x + to.x) / 2)
      line.setAttribute('d', chamfered([begin, { x: middle, y: begin.y }, { x: middle, y: to.y }, to]))
      line.style.stroke = `var(--${hit.side === 'out' ? hit.kind : 'control'})`
      line.style.visibility = 'visible'
    }
    const finish = (): void => {
      line.style.visibility = 'hidden'
      scene.loupes.tidy()
      this.end()
    }
    this.begin(
      {
        move: (point) => {
          const target = this.portAt(point)
          scene.point(
            target && target.port !== hit.port ? { port: target.port, side: target.side, at: target.at } : {},
          )
          draw(target?.at ?? point)
          const card = scene.cardAt(scene.view.toChart(point))
          if (card && card.id !== hit.id && !scene.loupes.at(point)) scene.loupes.open(card.id, 'hand')
        },
        drop: (point, event) => {
          if (!isLaid && distance(point, start) < CLICK_PX) {
            isLaid = true
            return
          }
          const target = this.targetAt(point)
          const card = scene.cardAt(scene.view.toChart(point))
          finish()
          const end = { end: hit.port, isOutput: hit.side === 'out' }
          if (target && target.port !== hit.port) laid(app, end, target.port, target.side)
          else if (target === undefined)
            letGo(app, {
              ...end,
              x: event.clientX,
              y: event.clientY,
              place: scene.view.toChart(point),
              card: card?.id,
            })
        },
        giveUp: finish,
      },
      start,
    )
  }

  /** A press on a card: it is selected, and dragged by its head; a sounding anywhere. */
  pressCard(id: string, event: PointerEvent, hasRows: boolean): void {
    if (event.button !== 0 || this.gesture || (event.target as Element).closest(OWN)) return
    const { workspace } = this.app,
      { scene } = this
    const card = scene.cards.get(id)
    if (!card) return
    const { selection, select } = workspace.getState()
    const isMore = event.ctrlKey || event.metaKey,
      isSelected = selection.includes(id)
    if (isMore) {
      select(isSelected ? selection.filter((other) => other !== id) : [...selection, id])
      return
    }
    if (!isSelected) select([id])
    const start = this.toFrame(event)
    const down = scene.view.toChart(start).y - card.y
    const isGrip = !hasRows || down <= HEAD || down * scene.view.zoom <= GRIP_PX
    this.begin(this.dragOf(id, start, { isGrip, isSelected, hasRows }), start)
  }

  private dragOf(
    id: string,
    start: Point,
    {
      isGrip,
      isSelected,
      hasRows,
    }: { readonly isGrip: boolean; readonly isSelected: boolean; readonly hasRows: boolean },
  ): Gesture {
    const { scene, app } = this
    const begin = scene.view.toChart(start)
    const ids = app.workspace.getState().selection
    const from = new Map(
      ids.flatMap((one) => {
        const card = scene.cards.get(one)
        return card ? [[one, { x: card.x, y: card.y }] as const] : []
      }),
    )
    const lead = from.get(id) ?? { x: 0, y: 0 }
    const onGrid = (wanted: number): number => Math.round(wanted / GRID) * GRID
    let places: Map<string, Point> | undefined
    return {
      move: (point) => {
        if (!isGrip || (!places && distance(point, start) < CLICK_PX)) return
        const { x, y } = scene.view.toChart(point)
        const dx = onGrid(lead.x + x - begin.x) - lead.x,
          dy = onGrid(lead.y + y - begin.y) - lead.y
        places = new Map([...from].map(([one, place]) => [one, { x: place.x + dx, y: place.y + dy }]))
        scene.hold(places)
      },
      drop: () => {
        this.end()
        if (places) this.moveTo(places)
        else if (isSelected && ids.length > 1) app.workspace.getState().select([id])
        else if (isSelected && !hasRows) scene.loupes.open(id, 'pointer')
      },
      giveUp: () => {
        scene.letGo()
      },
    }
  }

  /** The document is written when cards are let go. */
  private moveTo(places: ReadonlyMap<string, Point>): void {
    const isMoved = [...places].some(([id, { x, y }]) => {
      const module = this.scene.moduleOf(id)
      return module?.x !== x || module.y !== y
    })
    const isTaken =
      isMoved &&
      this.app.document
        .getState()
        .change(places.size === 1 ? 'Move a module' : `Move ${places.size} modules`, (draft) => {
          for (const module of draft.modules) Object.assign(module, places.get(module.id))
        })
    if (!isTaken) this.scene.letGo()
  }
}

/** Half a card: what is dropped stands with its middle under the pointer. */
export const HALF_CARD = CARD_WIDTH / 2
