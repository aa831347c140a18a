/** The chart as commands ask for it: what it shows, where a new module goes, the finder and the focus. */
import { CARD_WIDTH } from '@ypsilon/core'
import { useReactFlow, type Viewport } from '@xyflow/react'
import { type RefObject, useEffect, useRef } from 'react'
import type { App } from '../app/app.ts'
import { attachChart, type Chart } from '../app/chart.ts'
import { useApp, useDocument, useWorkspace } from '../app/context.ts'
import { inFocus, levelNow } from '../app/level.ts'
import { fittingZoom, MARGIN, LEAST_WHOLE, LEAST_ZOOM, viewOn, wholeView } from './chart/fit.ts'
import { boxOfRect } from './chart/geometry.ts'
import { middleOf, type Point } from './chart/routing.ts'
import type { Scene } from './chart/scene.ts'
import type { Size } from './chart/viewport.ts'
import type { Finder, Panel, WorkspaceState } from '../store/workspace.ts'
import { wholeBoxes } from './whole.ts'

/** Until a patch that was just opened is fitted into the view. */
const FIT_MS = 30
const MOVE_MS = 200
const HEAD = 60

/** Where the pointer is over the chart, in places of the page. */
export interface Pointer {
  x: number
  y: number
  isInside: boolean
}

/** The frame of the chart as it is with all panels that belong on the page. */
const unfolded = ({ width, height }: Size, { folded, panels, sizes }: WorkspaceState): Size => {
  const room = (panel: Panel): number => (folded.includes(panel) && panels[panel] ? sizes[panel] + 1 : 0)
  return { width: width - room('inspector'), height: height - room('dock') }
}

/** A patch that was just opened is shown whole; where it would come out too small, panels make room for it. */
const useOpening = (scene: Scene): void => {
  const app = useApp()
  const { setViewport } = useReactFlow()
  const opened = useDocument((state) => state.opened)
  useEffect(() => {
    const { workspace, probe } = app
    workspace.getState().begin()
    probe.getState().begin()
    const show = (): void => {
      const boxes = wholeBoxes(levelNow(app), scene)
      void setViewport(wholeView(boxes, scene.view, LEAST_WHOLE))
      // What begins at its left end is found by the map.
      workspace.getState().showMap(fittingZoom(boxes, scene.view) < LEAST_WHOLE)
    }
    const timer = setTimeout(() => {
      const { folded, fold } = workspace.getState(),
        boxes = wholeBoxes(levelNow(app), scene)
      const isTooSmall = fittingZoom(boxes, unfolded(scene.view, workspace.getState())) < LEAST_WHOLE
      if (isTooSmall === folded.length > 0) show()
      else {
        fold(isTooSmall ? ['inspector', 'dock'] : [])
        // The frame has another size by then.
        requestAnimationFrame(() => requestAnimationFrame(show))
      }
    }, FIT_MS)
    return () => {
      clearTimeout(timer)
    }
  }, [app, scene, opened, setViewport])
}

/** A group that is opened is shown whole; what was left is seen again as it was. */
const useLevels = (scene: Scene): void => {
  const app = useApp()
  const { setViewport, getViewport } = useReactFlow()
  const group = useWorkspace((state) => state.group),
    opened = useDocument((state) => state.opened)
  const left = useRef<{ of: number; group: string | undefined; views: Map<string | undefined, Viewport> }>({
    of: opened,
    group,
    views: new Map(),
  })
  useEffect(() => {
    const { current } = left
    if (current.of !== opened) current.views.clear()
    else if (current.group !== group) {
      current.views.set(current.group, getViewport())
      const before = current.views.get(group)
      void setViewport(before ?? wholeView(wholeBoxes(levelNow(app), scene), scene.view, LEAST_WHOLE))
    }
    current.of = opened
    current.group = group
  }, [app, scene, group, opened, setViewport, getViewport])
}

/** What is in focus is shown whole; afterwards the view is as it was. */
const useFocus = (scene: Scene): void => {
  const app = useApp()
  const { setViewport, getViewport } = useReactFlow()
  const focus = useWorkspace((state) => state.focus),
    before = useRef<Viewport | undefined>(undefined)
  useEffect(() => {
    const near = inFocus(levelNow(app), focus)
    if (near) {
      before.current ??= getViewport()
      void setViewport(wholeView(scene.boxes([...near.keys()]), scene.view, LEAST_WHOLE), {
        duration: MOVE_MS,
      })
    } else if (before.current) {
      void setViewport(before.current, { duration: MOVE_MS })
      before.current = undefined
    }
  }, [app, scene, focus, setViewport, getViewport])
}

/** Where the finder opens: at the pointer, at a cable it puts something into, at a card that becomes something else. */
const finding = (
  { workspace }: App,
  scene: Scene,
  frame: RefObject<HTMLDivElement | null>,
  pointer: RefObject<Pointer>,
  toChart: ReturnType<typeof useReactFlow>['screenToFlowPosition'],
): Pick<Chart, 'openFinder' | 'replace'> => {
  /** At a place of the chart. */
  const openAt = (place: Point, at: Point, more: Partial<Finder>): void => {
    const box = frame.current!.getBoundingClientRect(),
      { x, y } = scene.view.toFrame(at)
    workspace.getState().openFinder({ ...place, left: box.left + x, top: box.top + y, ...more })
  }
  return {
    openFinder: (into) => {
      const route = into === undefined ? undefined : scene.lines.routes.get(into),
        middle = route && middleOf(route)
      if (into !== undefined && middle) {
        openAt({ x: middle.x - CARD_WIDTH / 2, y: middle.y - HEAD / 2 }, middle, { into })
        return
      }
      const box = frame.current!.getBoundingClientRect()
      const { x, y } = pointer.current.isInside
        ? pointer.current
        : { x: box.left + box.width / 2 - 150, y: box.top + box.height / 3 }
      workspace.getState().openFinder({ ...toChart({ x, y }), left: x, top: y })
    },
    replace: (id) => {
      const card = scene.cards.get(id)
      if (card) openAt({ x: card.x, y: card.y }, card, { replace: id })
    },
  }
}

export const useChart = (frame: RefObject<HTMLDivElement | null>, scene: Scene): RefObject<Pointer> => {
  const app = useApp()
  const { screenToFlowPosition, setViewport } = useReactFlow()
  const pointer = useRef<Pointer>({ x: 0, y: 0, isInside: false })
  useEffect(() => {
    const { view } = scene
    return attachChart(app.chart, {
      fit: (ids) => {
        void setViewport(
          wholeView(ids ? scene.boxes(ids) : wholeBoxes(levelNow(app), scene), view, LEAST_ZOOM),
          {
            duration: MOVE_MS,
          },
        )
      },
      reveal: (id) => {
        const card = scene.cards.get(id)
        const wanted = card && viewOn(card.box, view)
        if (wanted) void setViewport(wanted, { duration: MOVE_MS })
      },
      showArea: (area) => {
        const wanted = viewOn(boxOfRect(area), view)
        if (wanted) void setViewport(wanted, { duration: MOVE_MS })
      },
      room: () => {
        const { width, height } = unfolded(view, app.workspace.getState())
        return { width: width - 2 * MARGIN, height: height - 2 * MARGIN }
      },
      glide: (from, marks) => {
        scene.glide(from, marks)
      },
      ...finding(app, scene, frame, pointer, screenToFlowPosition),
      centre: () => {
        const { x, y } = view.toChart({ x: view.width / 2, y: view.height / 2 })
        return { x: x - CARD_WIDTH / 2, y: y - HEAD / view.zoom }
      },
      focus: () => frame.current?.focus({ preventScroll: true }),
    })
  }, [app, scene, frame, screenToFlowPosition, setViewport])
  useOpening(scene)
  useLevels(scene)
  useFocus(scene)
  return pointer
}
