/**
 * Cards in hand: their cables and port marks are drawn as lines of their own and their pictures are carried along; nothing
 * else of the chart is drawn.
 */
import { splitTarget } from '@ypsilon/core'
import type { Ink } from '../frames.ts'
import { LINE_WIDTH } from './cable-layer.ts'
import type { Distance } from './distance.ts'
import type { PlacedCable, PlacedCard, Places } from './places.ts'
import { markOutline, markWidth } from './port-marks.ts'
import type { Box, Route } from './routing.ts'

const SVG = 'http://www.w3.org/2000/svg'

const NOWHERE: Box = { left: 0, top: 0, right: 0, bottom: 0 }

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
  /** Where the patch has its cards. */
  private readonly from: ReadonlyMap<string, PlacedCard>
  /** Cards it lies over. */
  private below: string | undefined
  private readonly carried: readonly HTMLCanvasElement[]

  /** `layer`: where held lines are drawn. */
  constructor(
    private readonly layer: SVGSVGElement | null,
    private readonly elements: ReadonlyMap<string, HTMLElement>,
    private readonly ink: Ink,
    readonly ids: ReadonlySet<string>,
    { cards, cables }: Places,
    copy: (box: Box) => HTMLCanvasElement | undefined,
  ) {
    this.from = cards
    const isOf = (end: string): boolean => ids.has(splitTarget(end)?.[0] ?? '')
    const own = [...cables.values()].filter(({ source, target }) => isOf(source) || isOf(target))
    this.cables = new Set(own.map(({ id }) => id))
    const sources = new Set(own.map(({ source }) => source))
    this.routed = [...cables.values()].filter(({ source }) => sources.has(source))
    this.carried = [...ids].flatMap((id) => {
      const card = cards.get(id),
        picture = card && copy(card.box)
      if (!picture) return []
      picture.className = 'carried'
      this.elements.get(id)?.append(picture)
      return [picture]
    })
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
      this.put(card)
      if (distance !== 'near')
        this.markOf(card, distance, zoom).setAttribute('transform', `translate(${card.x} ${card.y})`)
    }
  }

  /** Has it come over other cards, or away from them, since it was last asked? */
  covers(cardsIn: (box: Box) => ReadonlySet<string>, cards: ReadonlyMap<string, PlacedCard>): boolean {
    const below = [...this.ids].flatMap((id) => [...cardsIn(cards.get(id)?.box ?? NOWHERE)]).join(' ')
    const isOther = below !== this.below
    this.below = below
    return isOther
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

  /** The card's element stands away from its place, as a layer of its own while it is held. */
  private put({ id, x, y }: PlacedCard): void {
    const found = this.elements.get(id),
      from = this.from.get(id)
    if (!found || !from) return
    found.dataset['held'] = 'true'
    found.style.transform = `translate(${x - from.x}px, ${y - from.y}px)`
  }

  /** Everything is back where the patch has it. */
  end(): void {
    for (const id of this.ids) {
      const found = this.elements.get(id)
      if (!found) continue
      delete found.dataset['held']
      found.style.transform = ''
    }
    for (const picture of this.carried) picture.remove()
    for (const lines of this.lines.values()) for (const line of lines) line.remove()
    for (const group of this.marks.values()) group.remove()
  }
}
