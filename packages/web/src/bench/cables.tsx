import {
  type Cable,
  CATALOGUE,
  type Patch,
  patchIndex,
  shapesOf,
  type SignalKind,
  splitTarget,
} from '@ypsilon/core'
import { useStore } from '@xyflow/react'
import { memo, type RefObject, useEffect, useMemo, useRef } from 'react'
import { useApp, useWorkspace } from '../app/context.ts'
import { kindColour } from '../ui/icons.tsx'
import { CableEnds } from './cable-ends.tsx'
import { CableLine, FADED } from './cable-line.tsx'
import { boxOf, type CardLayout, inputPoint, outputPoint } from './geometry.ts'
import { type Box, type Route, route, type Wire } from './routing.ts'

export interface PlacedCard {
  readonly id: string
  readonly x: number
  readonly y: number
  readonly layout: CardLayout
}

/** A cable's id; cables of old files may have none. */
export const cableId = (cable: Cable): string => cable.id ?? `${cable.from}>${cable.to}`

/** What a cable carries: what its source produces. */
export const kindOfCable = (patch: Patch, cable: Cable): SignalKind => {
  const [id = '', port = ''] = splitTarget(cable.from) ?? []
  return CATALOGUE.get(patchIndex(patch).module.get(id)?.type ?? '')?.outputs.get(port)?.kind ?? 'control'
}

const wiresOf = (patch: Patch, cards: ReadonlyMap<string, PlacedCard>): Wire[] =>
  patch.cables.flatMap((cable) => {
    const [from = '', output = ''] = splitTarget(cable.from) ?? []
    const [to = '', input = ''] = splitTarget(cable.to) ?? []
    const a = cards.get(from),
      b = cards.get(to)
    if (!a || !b) return []
    return [
      {
        id: cableId(cable),
        source: cable.from,
        target: cable.to,
        from: outputPoint(a.layout, a.x, a.y, output),
        to: inputPoint(b.layout, b.x, b.y, input),
      },
    ]
  })

export type Routes = ReadonlyMap<string, Route>

/** Ways of all cables; lines and tags share them. */
export const useRoutes = (patch: Patch, cards: ReadonlyMap<string, PlacedCard>): Routes =>
  useMemo(
    () =>
      route(
        wiresOf(patch, cards),
        [...cards.values()].map((card) => boxOf(card.layout, card.x, card.y)),
      ),
    [patch, cards],
  )

/** Is a box in the view, or so near that it may soon be? The answer changes only now and then while panning. */
export const useInView = (): ((box: Box) => boolean) => {
  const area = useStore(({ transform: [x, y, zoom], width, height }) => {
    const w = width / zoom,
      h = height / zoom,
      step = Math.max(w, h, 1) / 4,
      cell = 2 ** Math.ceil(Math.log2(step))
    const low = (at: number, size: number): number => Math.floor((-at / zoom - size / 2) / cell) * cell
    const high = (at: number, size: number): number => Math.ceil((-at / zoom + 1.5 * size) / cell) * cell
    return [low(x, w), low(y, h), high(x, w), high(y, h)].join(' ')
  })
  return useMemo(() => {
    const [left = 0, top = 0, right = 0, bottom = 0] = area.split(' ').map(Number)
    return (box) => box.left < right && box.right > left && box.top < bottom && box.bottom > top
  }, [area])
}

/** Pictures between two times that lines are brightened. */
const BRIGHTEN_FRAMES = 6

/** Lines brighten with their signal and dim at rest; done on the frame loop, a few times a second. */
const useBrightness = (group: RefObject<SVGSVGElement | null>): void => {
  const { engine, frames } = useApp()
  useEffect(() => {
    let count = 0
    return frames.paint((ink) => {
      count += 1
      if (count % BRIGHTEN_FRAMES !== 0 || !group.current) return
      for (const line of group.current.querySelectorAll<SVGElement>('[data-source]')) {
        if (line.style.opacity === String(FADED)) continue
        const picture = ink.picture(line.dataset['source']!)
        const size = picture ? Math.max(Math.abs(picture.min), Math.abs(picture.max)) : 0
        line.style.opacity = engine.isRunning ? String(0.55 + 0.45 * Math.min(1, size * 3)) : ''
      }
    })
  }, [engine, frames, group])
}

interface DrawnCable {
  readonly cable: Cable
  readonly id: string
  readonly route: Route
  readonly kind: SignalKind
}

/** How many voices and sides leave an output, at the start of its cables. */
const Counts = ({ patch, drawn }: { readonly patch: Patch; readonly drawn: readonly DrawnCable[] }) => {
  const shapes = useMemo(() => shapesOf(patch), [patch])
  const sources = new Map(drawn.map(({ cable, route: found }) => [cable.from, found]))
  return [...sources].map(([source, { path }]) => {
    const shape = shapes.get(source),
      start = /^M([\d.-]+) ([\d.-]+)/.exec(path)
    const text = shape ? `${shape.voices > 1 ? `×${shape.voices}` : ''}${shape.sides > 1 ? '‖' : ''}` : ''
    if (!start || !text) return null
    return (
      <text
        key={source}
        x={Number(start[1]) + 9}
        y={Number(start[2]) - 6}
        className="mono"
        fill="var(--ink2)"
        style={{ fontSize: 11 }}
      >
        {text}
      </text>
    )
  })
}

/** Without a selection all cables are lit, else those of what is selected. */
const isLit = ({ from, to }: Cable, selected: ReadonlySet<string>): boolean =>
  selected.size === 0 || [from, to].some((end) => selected.has(splitTarget(end)?.[0] ?? ''))

interface CablesProps {
  readonly patch: Patch
  readonly routes: Routes
}

/** All cables in view, under the cards. */
export const Cables = memo(({ patch, routes }: CablesProps) => {
  const { workspace } = useApp()
  const svg = useRef<SVGSVGElement>(null)
  const selection = useWorkspace((state) => state.selection),
    chosen = useWorkspace((state) => state.cable)
  const inView = useInView()
  useBrightness(svg)
  const selected = new Set(selection)
  const drawn = patch.cables.flatMap((cable): DrawnCable[] => {
    const id = cableId(cable),
      found = routes.get(id)
    return found && inView(found.box) ? [{ cable, id, route: found, kind: kindOfCable(patch, cable) }] : []
  })
  const branches = new Map(
    drawn.flatMap(({ cable, route: { branch }, kind }) =>
      branch ? [[cable.from, { ...branch, kind }]] : [],
    ),
  )
  return (
    <svg
      ref={svg}
      className="cables absolute left-0 top-0 overflow-visible"
      width="1"
      height="1"
      aria-hidden="true"
    >
      {drawn.map(({ cable, id, route: { path }, kind }) => (
        <g key={id}>
          <CableLine
            path={path}
            kind={kind}
            color={cable.color}
            source={cable.from}
            faded={!isLit(cable, selected) || cable.muted === true}
            selected={chosen === id}
          />
          <path
            className="hit"
            d={path}
            data-cable={id}
            onClick={(event) => {
              event.stopPropagation()
              workspace.getState().selectCable(id)
            }}
          />
        </g>
      ))}
      {[...branches].map(([source, { x, y, kind }]) => (
        <circle key={source} cx={x} cy={y} r={3} fill={kindColour(kind)} />
      ))}
      <Counts patch={patch} drawn={drawn} />
      {drawn
        .filter(({ id }) => id === chosen)
        .map(({ id, cable, route: found }) => (
          <CableEnds key={id} cable={cable} route={found} />
        ))}
    </svg>
  )
})
