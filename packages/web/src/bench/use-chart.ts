/** The chart as commands ask for it: what it shows, where a new module goes, the finder and the focus. */
import { useReactFlow, useStoreApi } from '@xyflow/react'
import { type RefObject, useEffect, useRef } from 'react'
import { useApp, useDocument } from '../app/context.ts'
import { attachChart } from '../app/chart.ts'
import { wholeView } from './chart-nodes.ts'
import { CARD_WIDTH } from './geometry.ts'

/** Pictures until a patch that was just opened is fitted into the view. */
const FIT_MS = 60
const MOVE_MS = 200
const HEAD = 60

/** Where the pointer is over the chart, in places of the page. */
export interface Pointer {
  x: number
  y: number
  isInside: boolean
}

export const useChart = (frame: RefObject<HTMLDivElement | null>): RefObject<Pointer> => {
  const app = useApp()
  const flow = useStoreApi()
  const { screenToFlowPosition, setViewport, getViewport } = useReactFlow()
  const pointer = useRef<Pointer>({ x: 0, y: 0, isInside: false })
  useEffect(() => {
    const fit = (ids?: readonly string[], duration = MOVE_MS): void => {
      const { width, height } = flow.getState()
      void setViewport(wholeView(app.document.getState().patch, { width, height }, ids), { duration })
    }
    return attachChart(app.chart, {
      fit: (ids) => {
        fit(ids)
      },
      openFinder: () => {
        const box = frame.current!.getBoundingClientRect()
        const { x, y } = pointer.current.isInside
          ? pointer.current
          : { x: box.left + box.width / 2 - 150, y: box.top + box.height / 3 }
        app.workspace.getState().openFinder({ ...screenToFlowPosition({ x, y }), left: x, top: y })
      },
      centre: () => {
        const { width, height } = flow.getState(),
          { x, y, zoom } = getViewport()
        return { x: (width / 2 - x) / zoom - CARD_WIDTH / 2, y: (height / 2 - y) / zoom - HEAD }
      },
      focus: () => frame.current?.focus({ preventScroll: true }),
    })
  }, [app, flow, frame, screenToFlowPosition, setViewport, getViewport])
  // A patch that was just opened is shown whole; what was selected in the one before is not in it.
  const opened = useDocument((state) => state.opened)
  useEffect(() => {
    app.workspace.getState().begin()
    const timer = setTimeout(() => {
      const { width, height } = flow.getState()
      void setViewport(wholeView(app.document.getState().patch, { width, height }))
    }, FIT_MS)
    return () => {
      clearTimeout(timer)
    }
  }, [app, flow, opened, setViewport])
  return pointer
}
