import { CATALOGUE, type Patch, splitTarget } from '@ypsilon/core'
import {
  applyNodeChanges,
  type FinalConnectionState,
  type NodeChange,
  type NodeHandle,
  Position,
  ReactFlow,
  ReactFlowProvider,
  useReactFlow,
  useStore,
  ViewportPortal,
  type ConnectionLineComponentProps,
  SelectionMode,
} from '@xyflow/react'
import '@xyflow/react/dist/base.css'
import { useCallback, useEffect, useMemo, useState } from 'react'
import { engine } from '../audio/engine-client.ts'
import { useDocument } from '../store/document.ts'
import { useSession } from '../store/session.ts'
import { kindColour } from '../ui/icons.tsx'
import { AmountTags, Cables, type PlacedCard, useRoutes } from './cables.tsx'
import { Card, type CardNode } from './card.tsx'
import { addAndWire, connectPorts } from './commands.ts'
import {
  boxOf,
  cardLayout,
  type CardLayout,
  CARD_WIDTH,
  inputPoint,
  outputPoint,
  rowName,
  takesCable,
} from './geometry.ts'
import { outputSource } from './probe.tsx'
import { chamfered } from './routing.ts'

const NODE_TYPES = { card: Card }
const NO_EDGES: never[] = []
const GRID: [number, number] = [12, 12]

/** Names of every module's ports that cables start on or end on, as one text. */
const namesAt = (patch: Patch, end: 'from' | 'to'): Map<string, string> => {
  const names = new Map<string, Set<string>>()
  for (const cable of patch.cables) {
    const [id, name] = splitTarget(cable[end]) ?? []
    if (id === undefined || name === undefined) continue
    const found = names.get(id)
    if (found) found.add(name)
    else names.set(id, new Set([name]))
  }
  return new Map([...names].map(([id, found]) => [id, [...found].join(' ')]))
}

const PORT = 11
/** Where a card's ports stand: with them the chart need not draw every card once to know. */
const handlesOf = (layout: CardLayout): NodeHandle[] => {
  const handle = (id: string, type: 'source' | 'target', { x, y }: { x: number; y: number }): NodeHandle => ({
    id,
    type,
    position: type === 'source' ? Position.Right : Position.Left,
    x: x - PORT / 2,
    y: y - PORT / 2,
    width: PORT,
    height: PORT,
  })
  return [
    ...layout.rows
      .filter(takesCable)
      .map((row) => handle(rowName(row), 'target', inputPoint(layout, 0, 0, rowName(row)))),
    ...layout.outputs.map(({ name }) => handle(name, 'source', outputPoint(layout, 0, 0, name))),
  ]
}

/** Cards of a patch; those that did not change keep their object, so that only changed cards render. */
const nodesOf = (
  patch: Patch,
  before: readonly CardNode[],
  selection: ReadonlySet<string>,
  open: ReadonlySet<string>,
): CardNode[] => {
  const old = new Map(before.map((node) => [node.id, node])),
    ending = namesAt(patch, 'to'),
    starting = namesAt(patch, 'from')
  return patch.modules.map((module) => {
    const inputs = ending.get(module.id) ?? '',
      outputs = starting.get(module.id) ?? ''
    const selected = selection.has(module.id)
    const layout = cardLayout(patch, module, open.has(module.id)),
      { height } = layout
    const was = old.get(module.id)
    const position = { x: module.x ?? 0, y: module.y ?? 0 }
    if (
      was &&
      was.data.module === module &&
      was.data.inputs === inputs &&
      was.data.outputs === outputs &&
      was.selected === selected &&
      was.height === height &&
      was.position.x === position.x &&
      was.position.y === position.y
    )
      return was
    const data =
      was && was.data.module === module && was.data.inputs === inputs && was.data.outputs === outputs
        ? was.data
        : { module, inputs, outputs }
    return {
      ...was,
      id: module.id,
      type: 'card',
      position,
      data,
      selected,
      width: CARD_WIDTH,
      height,
      handles: handlesOf(layout),
      dragHandle: '.head',
    }
  })
}

const ConnectionLine = ({ fromX, fromY, toX, toY, fromHandle, fromNode }: ConnectionLineComponentProps) => {
  const type = (fromNode.data as { module: { type: string } }).module.type
  const kind = CATALOGUE.get(type)?.outputs.get(fromHandle.id ?? '')?.kind ?? 'control'
  const middle =
    fromHandle.type === 'source'
      ? Math.max(fromX + 16, (fromX + toX) / 2)
      : Math.min(fromX - 16, (fromX + toX) / 2)
  return (
    <path
      d={chamfered([
        { x: fromX, y: fromY },
        { x: middle, y: fromY },
        { x: middle, y: toY },
        { x: toX, y: toY },
      ])}
      fill="none"
      stroke={kindColour(kind)}
      strokeWidth={2.5}
    />
  )
}

/** The scale along the chart's border: its steps follow pan and zoom. */
const Neatline = () => {
  const [x, y, zoom] = useStore((state) => state.transform)
  const step = 48 * zoom * (zoom < 0.5 ? 4 : zoom < 1 ? 2 : 1)
  const bar = (direction: 'right' | 'bottom', offset: number): React.CSSProperties => ({
    backgroundImage: `repeating-linear-gradient(to ${direction}, var(--neat) 0 ${step / 2}px, var(--card) ${step / 2}px ${step}px)`,
    ...(direction === 'right'
      ? { backgroundPositionX: offset % step }
      : { backgroundPositionY: offset % step }),
  })
  const edge = 'pointer-events-none absolute z-[5]'
  const rule = '0.5px solid var(--ink2)'
  return (
    <div aria-hidden="true">
      <div
        className={`${edge} left-0 right-0 top-0 h-[5px]`}
        style={{ ...bar('right', x), backgroundSize: `${step}px 100%`, borderBottom: rule }}
      />
      <div
        className={`${edge} bottom-0 left-0 right-0 h-[5px]`}
        style={{ ...bar('right', x), backgroundSize: `${step}px 100%`, borderTop: rule }}
      />
      <div
        className={`${edge} bottom-0 left-0 top-0 w-[5px]`}
        style={{ ...bar('bottom', y), backgroundSize: `100% ${step}px`, borderRight: rule }}
      />
      <div
        className={`${edge} bottom-0 right-0 top-0 w-[5px]`}
        style={{ ...bar('bottom', y), backgroundSize: `100% ${step}px`, borderLeft: rule }}
      />
    </div>
  )
}

/** Faint crosses every 48 px of the page. */
const Crosses = () => {
  const [x, y, zoom] = useStore((state) => state.transform)
  const size = 48 * zoom
  const mark = encodeURIComponent(
    `<svg xmlns="http://www.w3.org/2000/svg" width="${size}" height="${size}"><path d="M${size / 2 - 2} ${size / 2}h4M${size / 2} ${size / 2 - 2}v4" stroke="#8fa0a8" stroke-opacity="0.5" stroke-width="1"/></svg>`,
  )
  return (
    <div
      aria-hidden="true"
      className="pointer-events-none absolute inset-0"
      style={{
        backgroundImage: `url("data:image/svg+xml,${mark}")`,
        backgroundPosition: `${x - size / 2}px ${y - size / 2}px`,
      }}
    />
  )
}

/** Asks the engine only for pictures of what can be seen. */
const useWatching = (patch: Patch, nodes: readonly CardNode[], open: ReadonlySet<string>): void => {
  const transform = useStore((state) => state.transform.map((value) => Math.round(value / 40)).join())
  const width = useStore((state) => state.width),
    height = useStore((state) => state.height)
  const { getViewport } = useReactFlow()
  const pinned = useSession((state) => state.probe)
  const probe = pinned ?? outputSource(patch)
  useEffect(() => {
    const { x, y, zoom } = getViewport()
    const keys: string[] = probe === undefined ? [] : [probe]
    for (const node of nodes) {
      const left = node.position.x * zoom + x,
        top = node.position.y * zoom + y
      if (
        left > width ||
        top > height ||
        left + CARD_WIDTH * zoom < 0 ||
        top + (node.height ?? 100) * zoom < 0
      )
        continue
      const { module } = node.data
      const layout = cardLayout(patch, module, open.has(module.id))
      for (const port of layout.outputs) keys.push(`${module.id}.${port.name}`)
      for (const row of layout.rows)
        if (row.kind === 'param' && node.data.inputs.split(' ').includes(row.param.name))
          keys.push(`>${module.id}.${row.param.name}`)
    }
    engine.watch(keys)
  }, [patch, nodes, open, transform, width, height, probe, getViewport])
}

/** No patch is shown smaller; one that would have to be half as small is shown from its beginning. */
const LEAST_FIT = 0.25
const START_ZOOM = 0.5
/** Pixels that stay free around a patch shown whole. */
const MARGIN = 24

/** The view that shows a whole patch, or the beginning of one that is far too large for that. */
const wholeView = (patch: Patch): { x: number; y: number; zoom: number } => {
  const { width, height } = document.querySelector('.chart')!.getBoundingClientRect()
  const boxes = patch.modules.map((module) =>
    boxOf(cardLayout(patch, module, false), module.x ?? 0, module.y ?? 0),
  )
  const least = (edge: 'left' | 'top'): number =>
    boxes.reduce((most, box) => Math.min(most, box[edge]), Infinity)
  const most = (edge: 'right' | 'bottom'): number =>
    boxes.reduce((all, box) => Math.max(all, box[edge]), -Infinity)
  const [left, top, right, bottom] = [least('left'), least('top'), most('right'), most('bottom')]
  const fits = Math.min((width - 2 * MARGIN) / (right - left), (height - 2 * MARGIN) / (bottom - top), 1)
  if (fits < LEAST_FIT / 2)
    return { x: MARGIN - left * START_ZOOM, y: MARGIN - top * START_ZOOM, zoom: START_ZOOM }
  const zoom = Math.max(fits, LEAST_FIT)
  return { x: (width - (left + right) * zoom) / 2, y: (height - (top + bottom) * zoom) / 2, zoom }
}

const Chart = () => {
  const patch = useDocument((state) => state.patch)
  const change = useDocument((state) => state.change)
  const selection = useSession((state) => state.selection)
  const open = useSession((state) => state.open)
  const { screenToFlowPosition, setViewport } = useReactFlow()
  const [nodes, setNodes] = useState<CardNode[]>([])
  useEffect(() => {
    setNodes((before) => nodesOf(patch, before, new Set(selection), open))
  }, [patch, selection, open])
  const cards = useMemo(
    () =>
      new Map(
        nodes.map((node): [string, PlacedCard] => [
          node.id,
          {
            id: node.id,
            x: node.position.x,
            y: node.position.y,
            layout: cardLayout(patch, node.data.module, open.has(node.id)),
          },
        ]),
      ),
    [nodes, patch, open],
  )
  const routes = useRoutes(patch, cards)
  useWatching(patch, nodes, open)
  // A patch that was just opened is shown whole.
  const opened = useDocument((state) => state.opened)
  // What was selected or probed in the patch before is not in this one.
  useEffect(() => {
    useSession.getState().set({ selection: [], cable: undefined, probe: undefined })
  }, [opened])
  const showWhole = useCallback((): void => {
    void setViewport(wholeView(useDocument.getState().patch))
  }, [setViewport])
  useEffect(() => {
    const timer = setTimeout(() => {
      if (useDocument.getState().patch.modules.length === 0) void setViewport({ x: 24, y: 24, zoom: 1 })
      else showWhole()
    }, 60)
    return () => {
      clearTimeout(timer)
    }
  }, [opened, setViewport, showWhole])

  const changeNodes = useCallback((changes: NodeChange<CardNode>[]) => {
    setNodes((before) =>
      applyNodeChanges(
        changes.filter((item) => item.type !== 'remove' && item.type !== 'dimensions'),
        before,
      ),
    )
    if (changes.some((item) => item.type === 'select')) {
      const next = new Set(useSession.getState().selection)
      for (const item of changes)
        if (item.type === 'select') {
          if (item.selected) next.add(item.id)
          else next.delete(item.id)
        }
      useSession.getState().select([...next])
    }
  }, [])
  const dropNodes = useCallback(
    (_event: unknown, _node: CardNode, moved: CardNode[]) => {
      const places = new Map(moved.map((node) => [node.id, node.position]))
      change(moved.length === 1 ? 'Move a module' : `Move ${moved.length} modules`, (draft) => {
        for (const module of draft.modules) {
          const place = places.get(module.id)
          if (place) {
            module.x = place.x
            module.y = place.y
          }
        }
      })
    },
    [change],
  )
  const endConnection = useCallback(
    (event: MouseEvent | TouchEvent, state: FinalConnectionState) => {
      if (state.isValid || !state.fromHandle) return
      const point = 'clientX' in event ? event : event.changedTouches[0]!
      const end = `${state.fromHandle.nodeId}.${state.fromHandle.id ?? ''}`
      const outgoing = state.fromHandle.type === 'source'
      const under = document.elementFromPoint(point.clientX, point.clientY)
      const row = under?.closest<HTMLElement>('[data-row]')?.dataset['row']
      const card = under?.closest<HTMLElement>('[data-module]')?.dataset['module']
      if (outgoing && row !== undefined && document.querySelector(`[data-port="${row}"]`)) {
        connectPorts(end, row)
        return
      }
      const place = screenToFlowPosition({ x: point.clientX, y: point.clientY })
      const wiring = outgoing ? { from: end } : { to: end }
      useSession.getState().set({
        finder: {
          ...place,
          left: point.clientX,
          top: point.clientY,
          ...wiring,
          ...(outgoing && card !== undefined && !end.startsWith(`${card}.`) ? { card } : {}),
        },
      })
    },
    [screenToFlowPosition],
  )
  const openFinder = useCallback(
    (event: React.MouseEvent) => {
      if (!(event.target as HTMLElement).classList.contains('react-flow__pane')) return
      useSession.getState().set({
        finder: {
          ...screenToFlowPosition({ x: event.clientX, y: event.clientY }),
          left: event.clientX,
          top: event.clientY,
        },
      })
    },
    [screenToFlowPosition],
  )
  const drop = useCallback(
    (event: React.DragEvent) => {
      const type = event.dataTransfer.getData('application/x-ypsilon-part')
      if (!type) return
      event.preventDefault()
      const place = screenToFlowPosition({ x: event.clientX, y: event.clientY })
      addAndWire(type, place.x - CARD_WIDTH / 2, place.y - 13)
    },
    [screenToFlowPosition],
  )
  useEffect(() => {
    const slash = (event: KeyboardEvent): void => {
      if (
        event.key !== '/' ||
        event.ctrlKey ||
        event.metaKey ||
        (event.target as HTMLElement).closest('input, textarea, select')
      )
        return
      event.preventDefault()
      const frame = document.querySelector('.chart')!.getBoundingClientRect()
      const { x, y } = pointer.inside
        ? pointer
        : { x: frame.left + frame.width / 2 - 150, y: frame.top + frame.height / 3 }
      useSession.getState().set({ finder: { ...screenToFlowPosition({ x, y }), left: x, top: y } })
    }
    window.addEventListener('keydown', slash)
    return () => {
      window.removeEventListener('keydown', slash)
    }
  }, [screenToFlowPosition])
  return (
    <div
      className="chart h-full"
      onDoubleClick={openFinder}
      onDragOver={(event) => {
        event.preventDefault()
      }}
      onDrop={drop}
      data-testid="chart"
      onPointerMove={(event) => {
        pointer.x = event.clientX
        pointer.y = event.clientY
        pointer.inside = true
      }}
      onPointerLeave={() => {
        pointer.inside = false
      }}
    >
      <ReactFlow
        nodes={nodes}
        edges={NO_EDGES}
        nodeTypes={NODE_TYPES}
        onNodesChange={changeNodes}
        onNodeDragStop={dropNodes}
        onConnect={({ source, sourceHandle, target, targetHandle }) => {
          connectPorts(`${source}.${sourceHandle ?? ''}`, `${target}.${targetHandle ?? ''}`)
        }}
        onConnectEnd={endConnection}
        connectionLineComponent={ConnectionLine}
        connectionRadius={14}
        snapToGrid
        snapGrid={GRID}
        minZoom={0.25}
        maxZoom={2}
        deleteKeyCode={null}
        selectionKeyCode="Shift"
        multiSelectionKeyCode={['Control', 'Meta']}
        selectionMode={SelectionMode.Partial}
        panOnScroll
        panOnDrag
        zoomOnDoubleClick={false}
        zoomActivationKeyCode={['Control', 'Meta']}
        disableKeyboardA11y
        onlyRenderVisibleElements
        nodesFocusable={false}
        onPaneClick={() => {
          useSession.getState().set({ selection: [], cable: undefined, finder: undefined })
        }}
        proOptions={{ hideAttribution: true }}
        elevateNodesOnSelect={false}
      >
        <Crosses />
        <ViewportPortal>
          <Cables patch={patch} routes={routes} />
        </ViewportPortal>
        <ViewportTags patch={patch} routes={routes} />
        <Neatline />
      </ReactFlow>
      {patch.modules.length === 0 && <EmptyChart />}
    </div>
  )
}

const pointer = { x: 0, y: 0, inside: false }

const ViewportTags = ({ patch, routes }: React.ComponentProps<typeof AmountTags>) => {
  const [x, y, zoom] = useStore((state) => state.transform)
  return (
    <div
      className="pointer-events-none absolute left-0 top-0 z-[4] origin-top-left [&>*]:pointer-events-auto"
      style={{ transform: `translate(${x}px, ${y}px) scale(${zoom})` }}
    >
      <AmountTags patch={patch} routes={routes} />
    </div>
  )
}

const EmptyChart = () => (
  <div className="pointer-events-none absolute inset-0 flex items-center justify-center">
    <div className="max-w-[400px] bg-page px-3 py-2 text-center text-ink2">
      <p className="mb-2 text-[15px] font-semibold text-ink">The bench is empty</p>
      <p>
        Press <kbd className="mono border border-rule bg-card px-1">/</kbd> or double-click and type what you
        need: “oscillator”, “wobble”, “echo”. A first voice is Notes, Oscillator, Envelope, Amplifier, Output.
      </p>
    </div>
  </div>
)

export const Canvas = () => (
  <ReactFlowProvider>
    <Chart />
  </ReactFlowProvider>
)
