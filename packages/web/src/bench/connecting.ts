/** What becomes of a cable that is let go: it connects, moves, or asks what it is for. */
import type { App } from '../app/app.ts'
import { cablesTo } from './cable-index.ts'
import type { Point } from './chart/routing.ts'
import { connectPorts, moveCableEnd } from './edits.ts'

/** The end of a cable that is held fast while the other one is in hand. */
interface Held {
  readonly end: string
  readonly isOutput: boolean
}

interface LetGo extends Held, Point {
  /** The same on the chart. */
  readonly place: Point
  readonly card: string | undefined
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

/** A cable from one end let go over a port or row: it connects where that makes sense. */
export const laid = (app: App, { end, isOutput }: Held, port: string, side: 'in' | 'out'): void => {
  if (isOutput && side === 'in') connectPorts(app, end, port)
  else if (!isOutput && side === 'out') connectPorts(app, port, end)
  else if (isOutput || !moveInput(app, end, port))
    app.notifier.message(isOutput ? 'An output goes to an input.' : 'An input takes an output.')
}

/** A cable let go over no port: the finder offers what it may be for. */
export const letGo = (app: App, { end, isOutput, x, y, place, card }: LetGo): void => {
  app.workspace.getState().openFinder({
    ...place,
    left: x,
    top: y,
    ...(isOutput ? { from: end } : { to: end }),
    ...(isOutput && card !== undefined && !end.startsWith(`${card}.`) ? { card } : {}),
  })
}
