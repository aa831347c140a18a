/** Cards in hand: their cables and port marks are drawn as lines of their own, and nothing else of the chart is. */
import { splitTarget } from '@ypsilon/core'
import type { Ink } from '../frames.ts'
import { LINE_WIDTH } from './cable-layer.ts'
import type { Distance } from './distance.ts'
import type { PlacedCable, PlacedCard, Places } from './places.ts'
import { markOutline, markWidth } from './port-marks.ts'
import type { Route } from './routing.ts'

const SVG = 'http://www.w3.org/2000/svg'

const element = (name: string, attributes: Readonly<Record<string, string>>): SVGElement => {
  const made = document.createElementNS(SVG, name)
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value)
  return made
}

export class Held {
  /** Cables that go to or from what is held. */
  readonly cables: ReadonlySet<string>
  /** Those, and the ones that share a trunk with them. */
  readonly routed: readonly PlacedCable[]
  private readonly lines = new Map<string, SVGElement[]>()
  private readonly marks = new Map<string, SVGElement>()

  /** `layer`: where held lines are drawn. */
  constructor(
    private readonly layer: SVGGElement | null,
    private readonly elements: ReadonlyMap<string, HTMLElement>,
    private readonly ink: Ink,
    readonly ids: ReadonlySet<string>,
    { cables }: Places,
  ) {
    const isOf = (end: string): boolean => ids.has(splitTarget(end)?.[0] ?? '')
    const own = [...cables.values()].filter(({ source, target }) => isOf(source) || isOf(target))
    this.cables = new Set(own.map(({ id }) => id))
    const sources = new Set(own.map(({ source }) => source))
    this.routed = [...cables.values()].filter(({ source }) => sources.has(source))
  }

  draw(
    routes: ReadonlyMap<string, Route>,
    cards: ReadonlyMap<string, PlacedCard>,
    distance: Distance,
    zoom: number,
  ): void {
    for (const cable of this.routed) {
      const route = this.cables.has(cable.id) ? routes.get(cable.id) : undefined
      if (route) for (const line of this.lineOf(cable)) line.setAttribute('d', route.path)
    }
    for (const id of this.ids) {
      const card = cards.get(id)
      if (!card) continue
      this.put(card, true)
      if (distance !== 'near')
        this.markOf(card, distance, zoom).setAttribute('transform', `translate(${card.x} ${card.y})`)
    }
  }

  private lineOf({ id, kind, cable }: PlacedCable): readonly SVGElement[] {
    let lines = this.lines.get(id)
    if (!lines) {
      const line = (stroke: string, width: number): SVGElement => {
        const dash = kind === 'gate' ? { 'stroke-dasharray': '5 3' } : {}
        const made = element('path', { class: 'lifted', stroke, ...dash })
        made.style.strokeWidth = `calc(${width}px * var(--line))`
        return made
      }
      lines = [
        line(cable.color ?? this.ink.colour(kind), LINE_WIDTH[kind]),
        ...(kind === 'pitch' ? [line(this.ink.colour('page'), 2.1)] : []),
      ]
      this.lines.set(id, lines)
      this.layer?.append(...lines)
    }
    return lines
  }

  private markOf({ id, layout, used }: PlacedCard, distance: Distance, zoom: number): SVGElement {
    let group = this.marks.get(id)
    if (!group) {
      group = element('g', {})
      const r = markWidth(zoom) / zoom / 2
      for (const { name, kind, isParam, x, y } of layout.ports.values()) {
        const isUsed = used.has(name)
        if (!isUsed && (isParam || distance === 'far')) continue
        const stroke = this.ink.colour(kind)
        group.append(
          element('path', {
            d: markOutline(kind, x, y, r),
            stroke,
            fill: isUsed ? stroke : this.ink.colour('page'),
            'stroke-width': String(1.5 / zoom),
          }),
        )
      }
      this.marks.set(id, group)
      this.layer?.append(group)
    }
    return group
  }

  /** The card's element stands at a place, as a layer of its own while it is held. */
  private put({ id, x, y }: PlacedCard, isHeld: boolean): void {
    const found = this.elements.get(id)
    if (!found) return
    if (isHeld) found.dataset['held'] = 'true'
    else delete found.dataset['held']
    found.style.transform = `translate(${x}px, ${y}px)`
  }

  /** Everything is back where the patch has it. */
  end(cards: ReadonlyMap<string, PlacedCard>): void {
    for (const id of this.ids) {
      const card = cards.get(id)
      if (card) this.put(card, false)
    }
    for (const lines of this.lines.values()) for (const line of lines) line.remove()
    for (const group of this.marks.values()) group.remove()
  }
}
