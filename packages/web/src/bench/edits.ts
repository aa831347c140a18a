/** Edits of the patch as hands make them: one undo step each, and what was made is selected. */
import {
  addModule,
  cableIn,
  CATALOGUE,
  connect,
  connectBundle,
  connectEach,
  freePlace,
  insertInCable,
  labelOf,
  levelPatch,
  moduleIn,
  moveCables,
  type NewEnds,
  patchIndex,
  splitTarget,
  wireNew,
} from '@ypsilon/core'
import type { DocumentStore } from '../store/document.ts'
import type { WorkspaceStore } from '../store/workspace.ts'

export interface EditParts {
  readonly document: DocumentStore
  readonly workspace: WorkspaceStore
}

/** Adds a module; where a source or target is given, wires it the likely way. */
export const addAndWire = (
  { document, workspace }: EditParts,
  type: string,
  at: { readonly x: number; readonly y: number },
  wiring: NewEnds & { readonly into?: string | undefined } = {},
): string => {
  let id = ''
  const label = CATALOGUE.get(type)?.description.label ?? type
  const { group } = workspace.getState()
  const { x, y } = freePlace(levelPatch(document.getState().patch, group), type, at.x, at.y)
  const isAdded = document.getState().change(`Add ${label}`, (draft) => {
    id = addModule(draft, type, x, y, group)
    wireNew(draft, id, wiring)
    if (wiring.into !== undefined) insertInCable(draft, wiring.into, id)
  })
  if (isAdded) workspace.getState().select([id])
  return id
}

/** Connects two ports, with an amount where one is given; a cable that is there already is selected. */
export const connectPorts = (
  { document, workspace }: EditParts,
  from: string,
  to: string,
  amount?: number,
): void => {
  const { patch, change } = document.getState()
  const old = patchIndex(patch).cables.find(({ cable }) => cable.from === from && cable.to === to)?.cable
  if (old) {
    if (amount !== undefined && old.id !== undefined) setAmount({ document, workspace }, old.id, amount)
    workspace.getState().selectCable(old.id)
    return
  }
  const [a = '', output = ''] = splitTarget(from) ?? []
  const [b = '', input = ''] = splitTarget(to) ?? []
  let id: string | undefined
  change(`Connect ${labelOf(patch, a)} ${output} to ${labelOf(patch, b)} ${input}`, (draft) => {
    id = connect(draft, from, to, amount)
  })
  if (id !== undefined) workspace.getState().selectCable(id)
}

/** Moves one end of a cable to another port. */
export const moveCableEnd = (
  { document, workspace }: EditParts,
  id: string,
  end: 'from' | 'to',
  port: string,
): void => {
  const { patch, change } = document.getState()
  const cable = patchIndex(patch).cable.get(id)
  if (!cable || cable[end] === port) return
  const moved = { ...cable, [end]: port }
  if (patchIndex(patch).cables.some(({ cable: { from, to } }) => from === moved.from && to === moved.to))
    return
  change('Move a cable', (draft) => {
    const found = cableIn(draft, id)
    if (found) found[end] = port
  })
  workspace.getState().selectCable(id)
}

/** Several cables in one step; the last of them is selected. */
const connectAll = (
  { document, workspace }: EditParts,
  name: string,
  recipe: (draft: Parameters<typeof connect>[0]) => string[],
): void => {
  let made: string[] = []
  const isMade = document.getState().change(name, (draft) => {
    made = recipe(draft)
  })
  if (isMade && made.length === 1) workspace.getState().selectCable(made[0])
}

/** Outputs of several modules to an input and those that follow it. */
export const connectOutputs = (parts: EditParts, outputs: readonly string[], to: string): void => {
  const target = labelOf(parts.document.getState().patch, splitTarget(to)?.[0] ?? '')
  connectAll(parts, `Connect ${outputs.length} outputs to ${target}`, (draft) =>
    connectBundle(draft, outputs, to),
  )
}

/** One output to the same port of several modules. */
export const connectToEach = (parts: EditParts, from: string, targets: readonly string[]): void => {
  const [source = '', port = ''] = splitTarget(from) ?? []
  const name = `Connect ${labelOf(parts.document.getState().patch, source)} ${port} to ${targets.length} modules`
  connectAll(parts, name, (draft) => connectEach(draft, from, targets))
}

/** All cables of a port go to another one. */
export const moveAllCables = (
  { document }: EditParts,
  port: string,
  to: string,
  end: 'from' | 'to',
): void => {
  const { patch, change } = document.getState()
  const count = patchIndex(patch).cables.filter(({ cable }) => cable[end] === port).length
  change(`Move ${count} cables`, (draft) => {
    moveCables(draft, port, to, end)
  })
}

/** Puts a module into a cable; the words of why not, where it cannot be. */
export const insertModule = (
  { document, workspace }: EditParts,
  cable: string,
  id: string,
  place?: { readonly x: number; readonly y: number },
): boolean => {
  let isIn = false
  document.getState().change(`Insert ${labelOf(document.getState().patch, id)}`, (draft) => {
    const module = moduleIn(draft, id)
    if (module && place) Object.assign(module, place)
    isIn = insertInCable(draft, cable, id)
  })
  workspace.getState().select([id])
  return isIn
}

export const setAmount = ({ document }: EditParts, id: string, amount: number, gesture?: string): void => {
  document.getState().change(
    'Set an amount',
    (draft) => {
      const cable = cableIn(draft, id)
      if (cable) cable.amount = amount
    },
    gesture,
  )
}

/** Gives a module a name; its type's own name is none. */
export const renameModule = ({ document }: EditParts, id: string, text: string): void => {
  const { patch, change } = document.getState()
  const module = patchIndex(patch).module.get(id)
  const own = module && labelOf(patch, id) === module.label ? undefined : labelOf(patch, id)
  const name = text.trim()
  if (!module || name === (module.label ?? own)) return
  change(`Rename ${labelOf(patch, id)}`, (draft) => {
    const item = moduleIn(draft, id)
    if (!item) return
    if (name && name !== own) item.label = name
    else delete item.label
  })
}
