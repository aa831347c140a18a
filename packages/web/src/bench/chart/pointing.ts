/** The pointer on the chart: what it is over, and what begins where it is pressed. */
import { HEAD, splitTarget } from '@ypsilon/core'
import type { App } from '../../app/app.ts'
import { branchInHand, cableInHand, CLICK_PX } from './cable-hand.ts'
import { cardDrag } from './card-drag.ts'
import type { Gesture } from './gesture.ts'
import { listenInHand } from './listen-hand.ts'
import { pin } from '../probe/target.ts'
import { apart, PortFinder, type PortHit, type Target } from './port-finder.ts'
import type { Point } from './routing.ts'
import type { Scene } from './scene.ts'

/** The top of a card that moves it, whatever its zoom. */
const GRIP_PX = 10
/** So near an edge the chart moves on under what is dragged, so far a frame at most. */
const EDGE_PX = 32,
  EDGE_STEP = 9

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

export class Pointing {
  private elements: PointingElements | undefined
  private box: DOMRect | undefined
  private gesture: Gesture | undefined
  private isClickTaken = false
  private last: Point = { x: 0, y: 0 }
  private lastEvent: PointerEvent | undefined
  private edging = 0

  private readonly ports: PortFinder

  constructor(
    private readonly app: App,
    private readonly scene: Scene,
  ) {
    this.ports = new PortFinder(scene)
  }

  /** The port that is meant at a place of the frame. */
  portAt(point: Point): PortHit | undefined {
    return this.ports.portAt(point)
  }
  /** A port or row that a cable end may be let go at. */
  targetAt(point: Point): Target | undefined {
    return this.ports.targetAt(point)
  }

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
    if (!hit) {
      this.branch(event)
      return
    }
    // Neither the chart nor the card below begins anything.
    event.preventDefault()
    event.stopPropagation()
    this.isClickTaken = true
    if (event.shiftKey && !event.altKey && hit.side === 'out') {
      pin(this.app, hit.port)
      return
    }
    const start = this.toFrame(event),
      { app, scene, ports } = this
    const end = (): void => {
      this.end()
    }
    // With Shift all cables of an input are in hand, with Alt those of either side.
    const isAll = event.altKey || (event.shiftKey && hit.side === 'in')
    const hand = { app, scene, ports, line: this.elements!.line, end }
    const isHeard = event.altKey && hit.side === 'out'
    this.begin(isHeard ? listenInHand(hand, hit, start) : cableInHand(hand, { ...hit, isAll }, start), start)
  }

  /** A press on a cable's line: a branch grows from there when it is drawn away. */
  private branch(event: PointerEvent): void {
    const id = (event.target as Element).closest<HTMLElement>('[data-cable]')?.dataset['cable']
    const cable = id === undefined ? undefined : this.scene.lines.cables.get(id)
    if (!cable) return
    // Neither does the chart pan nor a box begin; a click without a move still selects.
    event.preventDefault()
    event.stopPropagation()
    const start = this.toFrame(event),
      { app, scene, ports } = this
    const end = (): void => {
      this.isClickTaken = apart(this.last, start) >= CLICK_PX
      this.end()
    }
    const hit = {
      port: cable.source,
      id: splitTarget(cable.source)?.[0] ?? '',
      side: 'out' as const,
      kind: cable.kind,
      at: start,
    }
    this.begin(branchInHand({ app, scene, ports, line: this.elements!.line, end }, hit, start), start)
  }

  private readonly moved = (event: PointerEvent): void => {
    if (!this.gesture) {
      this.beside(event)
      return
    }
    this.last = this.toFrame(event)
    this.lastEvent = event
    this.gesture.move(this.last, event)
    this.edging ||= requestAnimationFrame(this.edge)
  }
  /** Away from the chart, but not in a menu that stands over it, loupes go as well. */
  private beside(event: PointerEvent): void {
    const target = event.target instanceof Element ? event.target : null
    if (event.buttons !== 0 || this.elements?.frame.contains(target) || target?.closest('.menu, .tip')) return
    this.scene.loupes.pointer(this.toFrame(event), undefined)
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
    const { loupes, elements } = this.scene
    const closed = loupes.closeTop(),
      card = closed?.how === 'key' ? elements.get(closed.id) : undefined
    // The keyboard goes on where it opened the loupe.
    if (card) card.focus({ preventScroll: true })
    else this.app.chart.focus()
  }

  private begin(gesture: Gesture, point: Point): void {
    this.gesture = gesture
    this.last = point
    this.scene.point({})
  }
  private end(): void {
    this.gesture = undefined
    cancelAnimationFrame(this.edging)
    this.edging = 0
  }

  /** The chart moves on under what is held at its edge. */
  private readonly edge = (): void => {
    this.edging = 0
    const { view } = this.scene
    // Over a loupe a port is aimed at: it stays where it is.
    if (!this.gesture || !this.lastEvent || this.scene.loupes.at(this.last)) return
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
    const start = this.toFrame(event),
      down = scene.view.toChart(start).y - card.y,
      // In focus cards stand where they are shown, not where they are: nothing is moved.
      isGrip =
        workspace.getState().focus === undefined &&
        (!hasRows || down <= HEAD || down * scene.view.zoom <= GRIP_PX)
    const press = { id, isGrip, wasSelected: isSelected, hasRows }
    this.begin(cardDrag({ app: this.app, scene, end: () => void this.end() }, press, start), start)
  }
}
