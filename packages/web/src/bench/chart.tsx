import {
  ReactFlow,
  ReactFlowProvider,
  type ReactFlowProps,
  SelectionMode,
  useReactFlow,
  ViewportPortal,
} from '@xyflow/react'
import { type DragEvent, type MouseEvent, useRef } from 'react'
import { useApp, useDocument, useWorkspace } from '../app/context.ts'
import { AmountTags } from './amount-tags.tsx'
import { Cables, useRoutes } from './cables.tsx'
import { Card } from './card.tsx'
import { ConnectionLine } from './connection-line.tsx'
import { addAndWire, GRID } from './edits.ts'
import { CARD_WIDTH } from './geometry.ts'
import { ChartMenu } from './chart-menu.tsx'
import { ChartTip } from './chart-tip.tsx'
import { Crosses, Neatline } from './neatline.tsx'
import { useCards } from './use-cards.ts'
import { useChart } from './use-chart.ts'
import { useConnecting } from './use-connecting.ts'
import { useWatching } from './use-watching.ts'

const NODE_TYPES = { card: Card }
const NO_EDGES: never[] = []
const SNAP: [number, number] = [GRID, GRID]
/** What a dragged part carries. */
export const PART = 'application/x-ypsilon-part'

/** How the chart is moved, selected on and connected. Keys are the page's own. */
const MANNERS = {
  connectionLineComponent: ConnectionLine,
  connectionRadius: 14,
  snapToGrid: true,
  snapGrid: SNAP,
  minZoom: 0.25,
  maxZoom: 2,
  deleteKeyCode: null,
  selectionKeyCode: 'Shift',
  multiSelectionKeyCode: ['Control', 'Meta'],
  selectionMode: SelectionMode.Partial,
  panOnScroll: true,
  panOnDrag: true,
  zoomOnDoubleClick: false,
  zoomActivationKeyCode: ['Control', 'Meta'],
  disableKeyboardA11y: true,
  onlyRenderVisibleElements: true,
  nodesFocusable: false,
  proOptions: { hideAttribution: true },
  elevateNodesOnSelect: false,
} as const satisfies Partial<ReactFlowProps>

const EmptyChart = () => (
  <div className="pointer-events-none absolute inset-0 flex items-center justify-center">
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
const useAdding = () => {
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
    },
    onDrop: (event: DragEvent): void => {
      const type = event.dataTransfer.getData(PART)
      if (!type) return
      event.preventDefault()
      const { x, y } = screenToFlowPosition({ x: event.clientX, y: event.clientY })
      addAndWire(app, type, { x: x - CARD_WIDTH / 2, y: y - 13 })
    },
  }
}

const BareChart = () => {
  const { workspace } = useApp()
  const frame = useRef<HTMLDivElement>(null)
  const patch = useDocument((state) => state.patch),
    open = useWorkspace((state) => state.open)
  const { nodes, placed, ...moves } = useCards()
  const routes = useRoutes(patch, placed)
  const pointer = useChart(frame)
  useWatching(patch, nodes, open)
  const connecting = useConnecting()
  return (
    <ChartMenu>
      <div
        ref={frame}
        className="chart h-full"
        data-chart=""
        data-testid="chart"
        role="application"
        aria-label="Chart"
        tabIndex={-1}
        {...useAdding()}
        onPointerMove={(event) => {
          pointer.current = { x: event.clientX, y: event.clientY, isInside: true }
        }}
        onPointerLeave={() => {
          pointer.current.isInside = false
        }}
      >
        <ReactFlow
          nodes={nodes}
          edges={NO_EDGES}
          nodeTypes={NODE_TYPES}
          {...moves}
          {...connecting}
          {...MANNERS}
          onPaneClick={() => {
            workspace.getState().select([])
            workspace.getState().openFinder(undefined)
            frame.current?.focus({ preventScroll: true })
          }}
        >
          <Crosses />
          <ViewportPortal>
            <Cables patch={patch} routes={routes} />
          </ViewportPortal>
          <AmountTags patch={patch} routes={routes} />
          <Neatline />
        </ReactFlow>
        {patch.modules.length === 0 && <EmptyChart />}
        <ChartTip frame={frame} />
      </div>
    </ChartMenu>
  )
}

/** The patch as it is drawn: cards and cables on a chart that pans and zooms. */
export const Chart = () => (
  <ReactFlowProvider>
    <BareChart />
  </ReactFlowProvider>
)
