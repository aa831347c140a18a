/** What becomes of a cable that is let go: it connects, moves, or asks what it is for. */
import type { App } from '../app/app.ts'
import { outputLike, patchIndex, splitTarget, targetsNamed } from '@ypsilon/core'
import { cablesFrom, cablesTo } from './cable-index.ts'
import type { Point } from './chart/routing.ts'
import { connectOutputs, connectPorts, connectToEach, moveAllCables, moveCableEnd } from './edits.ts'

/** The end of a cable that is held fast while the other one is in hand. */
interface Held {
  readonly end: string
  readonly isOutput: boolean
  /** All cables of the port are in hand, to be moved to another one. */
  readonly isAll?: boolean
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

/** One output of every selected module, from above to below: of a name where they have it, else the main one. */
export const outputsOfSelected = ({ document, workspace }: App, name = ''): string[] => {
  const { module: modules } = patchIndex(document.getState().patch)
  const inOrder = [...workspace.getState().selection].sort(
    (a, b) => (modules.get(a)?.y ?? 0) - (modules.get(b)?.y ?? 0),
  )
  return inOrder.flatMap((id) => {
    const module = modules.get(id),
      port = module && outputLike(module, name)
    return port === undefined ? [] : [`${id}.${port}`]
  })
}

/**
 * An output to an input: of all that are selected where it is one of them, or to the same port of all that are selected
 * where that is one of them.
 */
const connectSelected = (app: App, from: string, to: string): void => {
  const { patch } = app.document.getState(),
    { selection } = app.workspace.getState()
  const [source = '', output = ''] = splitTarget(from) ?? [],
    [target = '', input = ''] = splitTarget(to) ?? []
  const isOne = (id: string): boolean => selection.length > 1 && selection.includes(id)
  if (isOne(source) && !isOne(target)) connectOutputs(app, outputsOfSelected(app, output), to)
  else if (isOne(target) && !isOne(source)) connectToEach(app, from, targetsNamed(patch, selection, input))
  else connectPorts(app, from, to)
}

/** All cables of a port let go over another of its side go there. */
const moveTogether = (app: App, end: string, port: string, side: 'in' | 'out'): void => {
  const which = side === 'in' ? 'to' : 'from'
  const cables =
    which === 'to'
      ? cablesTo(app.document.getState().patch, end)
      : cablesFrom(app.document.getState().patch, end)
  if (cables.length === 0) app.notifier.message('This port has no cables to move.')
  else moveAllCables(app, end, port, which)
}

/** A cable from one end let go over a port or row: it connects where that makes sense. */
export const laid = (app: App, { end, isOutput, isAll }: Held, port: string, side: 'in' | 'out'): void => {
  if (isAll && isOutput === (side === 'out')) moveTogether(app, end, port, side)
  else if (isOutput && side === 'in') connectSelected(app, end, port)
  else if (!isOutput && side === 'out') connectSelected(app, port, end)
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
