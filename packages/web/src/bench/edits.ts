/** Edits of the patch as hands make them: one undo step each, and what was made is selected. */
import {
  addModule,
  CATALOGUE,
  connect,
  freePlace,
  likelyInputs,
  mainOutput,
  type Patch,
  patchIndex,
  splitTarget,
} from '@ypsilon/core'
import type { DocumentStore } from '../store/document.ts'
import type { WorkspaceStore } from '../store/workspace.ts'

export interface EditParts {
  readonly document: DocumentStore
  readonly workspace: WorkspaceStore
}

export const labelOf = (patch: Patch, id: string): string => {
  const module = patchIndex(patch).module.get(id)
  return module?.label ?? (module ? (CATALOGUE.get(module.type)?.description.label ?? module.type) : id)
}

/** Adds a module; where a source or target is given, wires it the likely way. */
export const addAndWire = (
  { document, workspace }: EditParts,
  type: string,
  at: { readonly x: number; readonly y: number },
  wiring: { readonly from?: string | undefined; readonly to?: string | undefined } = {},
): string => {
  let id = ''
  const label = CATALOGUE.get(type)?.description.label ?? type
  const { x, y } = freePlace(document.getState().patch, type, at.x, at.y)
  const isAdded = document.getState().change(`Add ${label}`, (draft) => {
    id = addModule(draft, type, x, y)
    const module = draft.modules.find((item) => item.id === id)!
    const [source = '', port = ''] = splitTarget(wiring.from ?? '') ?? []
    const from = draft.modules.find((item) => item.id === source)?.type ?? ''
    const kind = CATALOGUE.get(from)?.outputs.get(port)?.kind
    const [best] = kind ? likelyInputs(kind, module as never) : []
    if (wiring.from !== undefined && best) connect(draft, wiring.from, `${id}.${best.name}`)
    const output = mainOutput(module as never)
    if (wiring.to !== undefined && output) connect(draft, `${id}.${output.name}`, wiring.to)
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
  const old = patch.cables.find((cable) => cable.from === from && cable.to === to)
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
  if (patch.cables.some((other) => other.from === moved.from && other.to === moved.to)) return
  change('Move a cable', (draft) => {
    const found = draft.cables.find((item) => item.id === id)
    if (found) found[end] = port
  })
  workspace.getState().selectCable(id)
}

export const setAmount = ({ document }: EditParts, id: string, amount: number, gesture?: string): void => {
  document.getState().change(
    'Set an amount',
    (draft) => {
      const cable = draft.cables.find((item) => item.id === id)
      if (cable) cable.amount = amount
    },
    gesture,
  )
}

/** Gives a module a name; its type's own name is none. */
export const renameModule = ({ document }: EditParts, id: string, text: string): void => {
  const { patch, change } = document.getState()
  const module = patchIndex(patch).module.get(id)
  const own = module && (CATALOGUE.get(module.type)?.description.label ?? module.type)
  const name = text.trim()
  if (!module || name === (module.label ?? own)) return
  change(`Rename ${labelOf(patch, id)}`, (draft) => {
    const item = draft.modules.find((other) => other.id === id)
    if (!item) return
    if (name && name !== own) item.label = name
    else delete item.label
  })
}
