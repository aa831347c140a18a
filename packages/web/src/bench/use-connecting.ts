/** What becomes of a cable that is let go: it connects, moves, or asks what it is for. */
import { type FinalConnectionState, type OnConnect, useReactFlow, useStoreApi } from '@xyflow/react'
import { useCallback, useEffect, useRef } from 'react'
import { useApp } from '../app/context.ts'
import type { App } from '../app/app.ts'
import { cablesTo } from './cable-index.ts'
import { connectPorts, moveCableEnd } from './edits.ts'

interface Under {
  readonly port?: string
  readonly side?: 'in' | 'out'
  readonly card?: string
}

/** While a cable is in hand the other outputs are no targets of the chart's own: their rows are looked at. */
const outputAt = (under: Element | null): string | undefined => {
  const handle = under?.closest('.row.out')?.querySelector<HTMLElement>('[data-port]')
  return handle?.dataset['port']
}

/** The input or parameter that takes a cable at a row. */
const inputAt = (under: Element | null): string | undefined => {
  const row = under?.closest<HTMLElement>('[data-row]')
  return row?.querySelector('[data-port]') ? row.dataset['row'] : undefined
}

/** What of the chart is at a place of the page. */
const underAt = (x: number, y: number): Under => {
  const under = document.elementFromPoint(x, y)
  const output = outputAt(under),
    port = output ?? inputAt(under),
    card = under?.closest<HTMLElement>('[data-module]')?.dataset['module']
  return {
    ...(port === undefined ? {} : { port, side: output === undefined ? ('in' as const) : ('out' as const) }),
    ...(card === undefined ? {} : { card }),
  }
}

interface Dropped {
  readonly end: string
  readonly isOutput: boolean
  readonly x: number
  readonly y: number
  /** The same on the chart. */
  readonly place: { readonly x: number; readonly y: number }
}

/** An input's cable dropped on another input goes there: the one that is selected, or the last. */
const moveInput = (app: App, from: string, to: string): boolean => {
  const cables = cablesTo(app.document.getState().patch, from)
  const chosen = app.workspace.getState().cable
  const cable = cables.find(({ id }) => id === chosen) ?? cables.at(-1)
  if (cable?.id === undefined) return false
  moveCableEnd(app, cable.id, 'to', to)
  return true
}

/** A cable from one end let go over a port: it connects where that makes sense. */
const droppedOnPort = (
  app: App,
  { end, isOutput }: Pick<Dropped, 'end' | 'isOutput'>,
  port: string,
  side: 'in' | 'out',
): void => {
  if (isOutput && side === 'in') connectPorts(app, end, port)
  else if (!isOutput && side === 'out') connectPorts(app, port, end)
  else if (isOutput || !moveInput(app, end, port))
    app.notifier.message(isOutput ? 'An output goes to an input.' : 'An input takes an output.')
}

const dropped = (app: App, { end, isOutput, x, y, place }: Dropped): void => {
  const { port, side, card } = underAt(x, y)
  if (port !== undefined && side !== undefined) {
    droppedOnPort(app, { end, isOutput }, port, side)
    return
  }
  app.workspace.getState().openFinder({
    ...place,
    left: x,
    top: y,
    ...(isOutput ? { from: end } : { to: end }),
    ...(isOutput && card !== undefined && !end.startsWith(`${card}.`) ? { card } : {}),
  })
}

export const useConnecting = () => {
  const app = useApp()
  const flow = useStoreApi()
  const { screenToFlowPosition } = useReactFlow()
  const isGivenUp = useRef(false)
  useEffect(() => {
    const giveUp = (event: KeyboardEvent): void => {
      if (event.key !== 'Escape' || !flow.getState().connection.inProgress) return
      event.preventDefault()
      event.stopPropagation()
      isGivenUp.current = true
      flow.getState().cancelConnection()
    }
    window.addEventListener('keydown', giveUp, true)
    return () => {
      window.removeEventListener('keydown', giveUp, true)
    }
  }, [flow])
  const onConnectStart = useCallback(() => {
    isGivenUp.current = false
  }, [])
  const onConnect: OnConnect = useCallback(
    ({ source, sourceHandle, target, targetHandle }) => {
      if (!isGivenUp.current)
        connectPorts(app, `${source}.${sourceHandle ?? ''}`, `${target}.${targetHandle ?? ''}`)
    },
    [app],
  )
  const onConnectEnd = useCallback(
    (event: MouseEvent | TouchEvent, { isValid, fromHandle }: FinalConnectionState) => {
      if (isGivenUp.current || isValid || !fromHandle) return
      const { clientX: x, clientY: y } = 'clientX' in event ? event : event.changedTouches[0]!
      dropped(app, {
        end: `${fromHandle.nodeId}.${fromHandle.id ?? ''}`,
        isOutput: fromHandle.type === 'source',
        x,
        y,
        place: screenToFlowPosition({ x, y }),
      })
    },
    [app, screenToFlowPosition],
  )
  return { onConnectStart, onConnect, onConnectEnd }
}
