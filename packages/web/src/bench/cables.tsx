import {
  CATALOGUE,
  type Patch,
  patchIndex,
  printAmount,
  type SignalKind,
  splitTarget,
  type Cable,
  shapesOf,
} from '@ypsilon/core'
import { useStore } from '@xyflow/react'
import { memo, useEffect, useMemo, useRef } from 'react'
import { engine } from '../audio/engine-client.ts'
import { useDocument } from '../store/document.ts'
import { useSession } from '../store/session.ts'
import { kindColour } from '../ui/icons.tsx'
import { boxOf, type CardLayout, inputPoint, outputPoint } from './geometry.ts'
import { registerPainter } from './live.ts'
import { type Box, type Route, route, type Wire } from './routing.ts'

export interface PlacedCard {
  readonly id: string
  readonly x: number
  readonly y: number
  readonly layout: CardLayout
}

const WIDTH: Readonly<Record<SignalKind, number>> = { audio: 3, control: 1.75, pitch: 4.5, gate: 2 }

const kindOf = (patch: Patch, cable: Cable): SignalKind => {
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
        id: cable.id ?? `${cable.from}>${cable.to}`,
        source: cable.from,
        target: cable.to,
        from: outputPoint(a.layout, a.x, a.y, output),
        to: inputPoint(b.layout, b.x, b.y, input),
      },
    ]
  })

/** Kind shows in the line first: solid and broad, solid and thin, two parallel lines, dashes. */
const Line = memo(
  ({
    path,
    kind,
    color,
    source,
    faded,
    selected,
  }: {
    path: string
    kind: SignalKind
    color: string | undefined
    source: string
    faded: boolean
    selected: boolean
  }) => {
    const stroke = color ?? kindColour(kind)
    const opacity = faded ? 0.18 : undefined
    if (kind === 'pitch') {
      return (
        <g className="line" data-source={source} style={{ opacity }}>
          <path className="line" d={path} stroke={stroke} strokeWidth={selected ? 6 : WIDTH.pitch} />
          <path className="line" d={path} stroke="var(--page)" strokeWidth={selected ? 3 : 2.1} />
        </g>
      )
    }
    return (
      <path
        className="line"
        data-source={source}
        d={path}
        stroke={stroke}
        strokeWidth={WIDTH[kind] + (selected ? 1.5 : 0)}
        strokeDasharray={kind === 'gate' ? '5 3' : undefined}
        style={{ opacity }}
      />
    )
  },
)

/** Lines brighten with their signal and dim at rest; done on the frame loop, a few times a second. */
const useBrightness = (group: React.RefObject<SVGSVGElement | null>): void => {
  useEffect(() => {
    let frames = 0
    return registerPainter(() => {
      frames += 1
      if (frames % 6 !== 0 || !group.current) return
      for (const line of group.current.querySelectorAll<SVGElement>('[data-source]')) {
        if (line.style.opacity === '0.18') continue
        const picture = engine.picture(line.dataset['source']!)
        const size = picture ? Math.max(Math.abs(picture.min), Math.abs(picture.max)) : 0
        line.style.opacity = engine.isRunning ? String(0.55 + 0.45 * Math.min(1, size * 3)) : ''
      }
    })
  }, [group])
}

type Routes = ReadonlyMap<string, Route>

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

/** Below this zoom nobody can read a tag. */
const LEAST_READABLE = 0.4

/** Is a box in the view, or so near that it may soon be? The answer changes only now and then while panning. */
const useInView = (): ((box: Box) => boolean) => {
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

export const Cables = memo(({ patch, routes }: { patch: Patch; routes: Routes }) => {
  const svg = useRef<SVGSVGElement>(null)
  const selection = useSession((state) => state.selection)
  const chosen = useSession((state) => state.cable)
  const shapes = useMemo(() => shapesOf(patch), [patch])
  useBrightness(svg)
  const lit = (cable: Cable): boolean =>
    selection.length === 0 ||
    selection.some((id) => cable.from.startsWith(`${id}.`) || cable.to.startsWith(`${id}.`))
  const branches = new Map<string, { x: number; y: number; kind: SignalKind }>()
  const starts = new Map<string, { x: number; y: number; text: string }>()
  const inView = useInView()
  const drawn = patch.cables.flatMap((cable) => {
    const id = cable.id ?? `${cable.from}>${cable.to}`
    const found = routes.get(id)
    if (!found || !inView(found.box)) return []
    const kind = kindOf(patch, cable)
    if (found.branch) branches.set(cable.from, { ...found.branch, kind })
    const shape = shapes.get(cable.from)
    const start = /^M([\d.-]+) ([\d.-]+)/.exec(found.path)
    const text = shape ? `${shape.voices > 1 ? `×${shape.voices}` : ''}${shape.sides > 1 ? '‖' : ''}` : ''
    if (start && text) starts.set(cable.from, { x: Number(start[1]) + 9, y: Number(start[2]) - 6, text })
    return [{ cable, id, route: found, kind }]
  })
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
          <Line
            path={path}
            kind={kind}
            color={cable.color}
            source={cable.from}
            faded={!lit(cable) || cable.muted === true}
            selected={chosen === id}
          />
          <path
            className="hit"
            d={path}
            data-cable={id}
            onClick={(event) => {
              event.stopPropagation()
              useSession.getState().set({ cable: id, selection: [] })
            }}
          />
        </g>
      ))}
      {[...branches].map(([source, { x, y, kind }]) => (
        <circle key={source} cx={x} cy={y} r={3} fill={kindColour(kind)} />
      ))}
      {[...starts].map(([source, { x, y, text }]) => (
        <text
          key={source}
          x={x}
          y={y}
          fontSize="10"
          className="mono"
          fill="var(--ink2)"
          style={{ fontSize: 10 }}
        >
          {text}
        </text>
      ))}
    </svg>
  )
})

/** Small tags near the ends of cables whose amount is not 1. Drag sideways or type. */
export const AmountTags = memo(({ patch, routes }: { patch: Patch; routes: Routes }) => {
  const chosen = useSession((state) => state.cable)
  const inView = useInView(),
    readable = useStore((state) => state.transform[2] >= LEAST_READABLE)
  return (
    <>
      {patch.cables.map((cable) => {
        const id = cable.id ?? ''
        const found = routes.get(id)
        if (!found || ((cable.amount ?? 1) === 1 && chosen !== id)) return null
        if (chosen !== id && (!readable || !inView(found.box))) return null
        return <AmountTag key={id} cable={cable} route={found} patch={patch} />
      })}
    </>
  )
})

const AmountTag = ({ cable, route: { tag }, patch }: { cable: Cable; route: Route; patch: Patch }) => {
  const [id = '', name = ''] = splitTarget(cable.to) ?? []
  const param = CATALOGUE.get(patch.modules.find((module) => module.id === id)?.type ?? '')?.params.get(name)
  const kind = kindOf(patch, cable)
  return (
    <button
      type="button"
      className="mono nodrag nopan absolute whitespace-nowrap border-0 bg-page px-1 text-[11px] leading-[14px]"
      style={{
        left: tag.x,
        top: tag.y - 16,
        transform: 'translateX(-100%)',
        color: kindColour(kind),
        zIndex: 2,
      }}
      aria-label={`Amount of ${cable.from} to ${cable.to}`}
      title="Drag sideways to change, click to select"
      onPointerDown={(event) => {
        dragAmount(event, cable)
      }}
      onClick={(event) => {
        event.stopPropagation()
        useSession.getState().set({ cable: cable.id, selection: [] })
      }}
    >
      {printAmount(param, cable.amount ?? 1)}
    </button>
  )
}

let gestures = 0
const dragAmount = (event: React.PointerEvent<HTMLElement>, cable: Cable): void => {
  if (event.button !== 0) return
  event.stopPropagation()
  const element = event.currentTarget
  element.setPointerCapture(event.pointerId)
  gestures += 1
  const gesture = `amount-${gestures}`
  const start = event.clientX,
    from = cable.amount ?? 1
  const size = Math.max(1, Math.abs(from))
  const move = (moved: PointerEvent): void => {
    const distance = moved.clientX - start
    if (Math.abs(distance) < 3) return
    const next = from + (distance / 120) * size * (moved.shiftKey ? 0.1 : 1)
    setAmount(cable.id!, Math.round(next * 1000) / 1000, gesture)
  }
  const up = (): void => {
    element.removeEventListener('pointermove', move)
    element.removeEventListener('pointerup', up)
  }
  element.addEventListener('pointermove', move)
  element.addEventListener('pointerup', up)
}

export const setAmount = (id: string, amount: number, gesture: string): void => {
  useDocument.getState().change(
    'Set an amount',
    (draft) => {
      const cable = draft.cables.find((item) => item.id === id)
      if (cable) cable.amount = amount
    },
    gesture,
  )
}
