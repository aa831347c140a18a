import { CARD_WIDTH } from '@ypsilon/core'
import {
  ReactFlow,
  ReactFlowProvider,
  type ReactFlowProps,
  useReactFlow,
  useStoreApi,
  ViewportPortal,
} from '@xyflow/react'
import {
  type DragEvent,
  type FocusEvent,
  type MouseEvent,
  type PointerEvent,
  type RefObject,
  type UIEvent,
  useEffect,
  useRef,
  useState,
} from 'react'
import { useApp, useLevel } from '../app/context.ts'
import { AmountTags } from './amount-tags.tsx'
import { CableLines } from './cable-lines.tsx'
import { CableMargin } from './cable-margin.tsx'
import { Cards } from './cards.tsx'
import { LEAST_ZOOM } from './chart/fit.ts'
import { nearestCable } from './chart/near-cable.ts'
import { Pointing } from './chart/pointing.ts'
import { Scene } from './chart/scene.ts'
import { ChartMenu } from './chart-menu.tsx'
import { ChartTip } from './chart-tip.tsx'
import { addAndWire } from './edits.ts'
import { Loupes } from './loupe.tsx'
import { AtCards, Marks, OnDemand } from './on-demand.tsx'
import { Crosses, Neatline } from './neatline.tsx'
import { ChartContext, type OnChart } from './scene-context.ts'
import { type Pointer, useChart } from './use-chart.ts'

/** Cards and cables are drawn by the scene: the library moves the view and draws boxes of selection. */
const NOTHING: never[] = []
/** What a dragged part carries. */
export const PART = 'application/x-ypsilon-part'
/** What a dragged part that is kept carries: its id. */
export const KEPT = 'application/x-ypsilon-kept'

/** A part dropped so near to a cable goes into it, in pixels of the screen. */
const INTO_PX = 10

/** How the chart is moved and selected on. Keys are the page's own. */
const MANNERS = {
  minZoom: LEAST_ZOOM,
  maxZoom: 2,
  deleteKeyCode: null,
  selectionKeyCode: 'Shift',
  multiSelectionKeyCode: null,
  panOnScroll: true,
  panOnDrag: true,
  zoomOnDoubleClick: false,
  zoomActivationKeyCode: ['Control', 'Meta'],
  disableKeyboardA11y: true,
  proOptions: { hideAttribution: true },
} as const satisfies Partial<ReactFlowProps>

const EmptyChart = () => (
  <div className="pointer-events-none absolute inset-0 z-[5] flex items-center justify-center">
    <div className="max-w-[400px] bg-page px-3 py-2 text-center text-ink2">
      <p className="mb-2 text-15 font-semibold text-ink">The bench is empty</p>
      <p>
        Press <kbd className="mono border border-rule bg-card px-1">/</kbd> or double-click and type what you
        need: “oscillator”, “wobble”, “echo”. A first voice is Notes, Oscillator, Envelope, Amplifier, Output.
      </p>
    </div>
  </div>
)

/** Opens the finder where the bare chart is double-clicked, and adds parts that are dropped. */
const useAdding = (scene: Scene) => {
  const app = useApp()
  const { screenToFlowPosition } = useReactFlow()
  return {
    onDoubleClick: (event: MouseEvent): void => {
      if (!(event.target as HTMLElement).classList.contains('react-flow__pane')) return
      const { clientX: left, clientY: top } = event
      app.workspace.getState().openFinder({ ...screenToFlowPosition({ x: left, y: top }), left, top })
    },
    onDragOver: (event: DragEvent): void => {
      event.preventDefault()
      // The cable it would go into is lit.
      const place = screenToFlowPosition({ x: event.clientX, y: event.clientY })
      const cable = nearestCable(scene.lines, place, INTO_PX / scene.view.zoom)
      scene.point(cable === undefined ? {} : { cable })
    },
    onDrop: (event: DragEvent): void => {
      const type = event.dataTransfer.getData(PART),
        head = app.documents.getState().heads.find(({ id }) => id === event.dataTransfer.getData(KEPT))
      if (head) {
        event.preventDefault()
        const place = screenToFlowPosition({ x: event.clientX, y: event.clientY })
        void import('../app/own-parts.ts').then(({ insertPart }) => insertPart(app, head, place))
      }
      if (!type) return
      event.preventDefault()
      scene.point({})
      const { x, y } = screenToFlowPosition({ x: event.clientX, y: event.clientY })
      const into = nearestCable(scene.lines, { x, y }, INTO_PX / scene.view.zoom)
      addAndWire(app, type, { x: x - CARD_WIDTH / 2, y: y - 13 }, { into })
    },
  }
}

/** Cards that touch the box that is drawn with Shift are selected while it grows. */
const useBoxing = (scene: Scene): void => {
  const { workspace } = useApp()
  const flow = useStoreApi()
  useEffect(
    () =>
      flow.subscribe(({ userSelectionRect: rect }, before) => {
        if (!rect || rect === before.userSelectionRect) return
        const from = scene.view.toChart(rect),
          to = scene.view.toChart({ x: rect.x + rect.width, y: rect.y + rect.height })
        const ids = scene.cardsIn({ left: from.x, top: from.y, right: to.x, bottom: to.y })
        const { selection, select } = workspace.getState()
        if (ids.size !== selection.length || !selection.every((id) => ids.has(id))) select([...ids])
      }),
    [flow, scene, workspace],
  )
}

interface Elements {
  readonly frame: RefObject<HTMLDivElement | null>
  readonly cables: RefObject<HTMLDivElement | null>
  readonly pictures: RefObject<HTMLDivElement | null>
  readonly held: RefObject<HTMLDivElement | null>
  readonly layer: RefObject<HTMLDivElement | null>
  readonly line: RefObject<SVGPathElement | null>
}

/** Scene and pointer are given the elements they work on. */
const useAttached = (
  { scene, pointing }: OnChart,
  { frame, cables, pictures, held, layer, line }: Elements,
): void => {
  const flow = useStoreApi()
  useEffect(() => {
    const stops = [
      scene.attach(
        {
          frame: frame.current!,
          cables: cables.current!,
          pictures: pictures.current!,
          held: held.current!,
          layer,
        },
        flow,
      ),
      pointing.attach({
        frame: frame.current!,
        line: line.current!,
        pan: (x, y) => void flow.getState().panBy({ x, y }),
      }),
    ]
    return () => {
      for (const stop of stops) stop()
    }
  }, [scene, pointing, flow, frame, cables, pictures, held, layer, line])
}

const IsEmpty = () => (useLevel((level) => level.modules.length === 0) ? <EmptyChart /> : null)

/** Where the pointer and the keyboard's focus are. */
const watching = (scene: Scene, pointer: RefObject<Pointer>) => ({
  onPointerMove: (event: PointerEvent): void => {
    pointer.current = { x: event.clientX, y: event.clientY, isInside: true }
  },
  onPointerLeave: (): void => {
    pointer.current.isInside = false
  },
  // A card the focus is in keeps its rows, however far off it is.
  onFocus: ({ target }: FocusEvent): void => {
    scene.seen.focused = target.closest<HTMLElement>('.card[data-module]')?.dataset['module']
  },
  onBlur: (): void => {
    scene.seen.focused = undefined
  },
  // What the browser scrolls to a focus is moved by the view instead.
  onScroll: (event: UIEvent): void => {
    event.currentTarget.scrollTo(0, 0)
  },
})

/** What lies on the chart, from below to above. */
const Layers = ({ cables, pictures, held, layer, line }: Omit<Elements, 'frame'>) => (
  <>
    <Crosses />
    <div ref={cables} className="z-[1]" aria-hidden="true" />
    <ViewportPortal>
      <div ref={layer} className="chart-layer">
        <div>
          <Marks />
          <CableLines />
          <Cards />
          <AmountTags />
          <AtCards />
        </div>
      </div>
    </ViewportPortal>
    <div ref={pictures} className="z-[5]" aria-hidden="true" />
    <div ref={held} className="z-[5]" data-held-lines="" aria-hidden="true" />
    <svg className="in-hand" aria-hidden="true">
      <path ref={line} />
    </svg>
    <Neatline />
    <CableMargin />
    <Loupes />
  </>
)

const BareChart = () => {
  const app = useApp(),
    { workspace } = app
  const frame = useRef<HTMLDivElement>(null),
    cables = useRef<HTMLDivElement>(null),
    pictures = useRef<HTMLDivElement>(null),
    held = useRef<HTMLDivElement>(null),
    layer = useRef<HTMLDivElement>(null),
    line = useRef<SVGPathElement>(null)
  const [onChart] = useState((): OnChart => {
    const scene = new Scene(app)
    return { scene, pointing: new Pointing(app, scene) }
  })
  const { scene } = onChart
  useAttached(onChart, { frame, cables, pictures, held, layer, line })
  const pointer = useChart(frame, scene)
  useBoxing(scene)
  const clickPane = ({ target }: MouseEvent): void => {
    // Cards lie on the pane: a click on one is not a click beside all of them.
    if (!(target as Element).classList.contains('react-flow__pane')) return
    workspace.getState().select([])
    workspace.getState().openFinder(undefined)
    scene.loupes.tidy()
    frame.current?.focus({ preventScroll: true })
  }
  return (
    <ChartContext value={onChart}>
      <ChartMenu>
        <div
          ref={frame}
          className="chart h-full"
          data-chart=""
          data-testid="chart"
          role="application"
          aria-label="Chart"
          tabIndex={-1}
          {...useAdding(scene)}
          {...watching(scene, pointer)}
        >
          <ReactFlow nodes={NOTHING} edges={NOTHING} {...MANNERS} onPaneClick={clickPane}>
            <Layers cables={cables} pictures={pictures} held={held} layer={layer} line={line} />
          </ReactFlow>
          <IsEmpty />
          <OnDemand />
          <ChartTip frame={frame} />
        </div>
      </ChartMenu>
    </ChartContext>
  )
}

/** The patch as it is drawn: cards and cables on a chart that pans and zooms. */
export const Chart = () => (
  <ReactFlowProvider>
    <BareChart />
  </ReactFlowProvider>
)
