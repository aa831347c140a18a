import {
  addModule,
  CATALOGUE,
  connect,
  duplicate,
  likelyInputs,
  mainOutput,
  type Patch,
  removeCables,
  removeModules,
  splitTarget,
} from '@ypsilon/core'
import { engine } from '../audio/engine-client.ts'
import { useDocument } from '../store/document.ts'
import { useSession } from '../store/session.ts'

/** A command answers "can I?" and "do it" in one place; menus, keys and buttons share it. */
export interface Command {
  readonly name: string
  readonly keys: string
  can(): boolean
  run(): void
}

const session = () => useSession.getState()
const documents = () => useDocument.getState()

export const labelOf = (patch: Patch, id: string): string => {
  const module = patch.modules.find((item) => item.id === id)
  return module?.label ?? (module ? (CATALOGUE.get(module.type)?.description.label ?? module.type) : id)
}

export const deleteSelected: Command = {
  name: 'Delete',
  keys: 'Backspace',
  can: () => session().selection.length > 0 || session().cable !== undefined,
  run: () => {
    const { selection, cable } = session()
    const { patch, change } = documents()
    if (cable !== undefined) {
      change('Remove a cable', (draft) => {
        removeCables(draft, new Set([cable]))
      })
      session().set({ cable: undefined })
    } else if (selection.length > 0) {
      const name =
        selection.length === 1
          ? `Delete ${labelOf(patch, selection[0]!)}`
          : `Delete ${selection.length} modules`
      change(name, (draft) => {
        removeModules(draft, new Set(selection))
      })
      session().select([])
    }
  },
}

const duplicating = (withIncoming: boolean): Command => ({
  name: withIncoming ? 'Duplicate with incoming cables' : 'Duplicate',
  keys: withIncoming ? 'Ctrl+Shift+D' : 'Ctrl+D',
  can: () => session().selection.length > 0,
  run: () => {
    let made: string[] = []
    const { selection } = session()
    if (
      documents().change(
        selection.length === 1
          ? `Duplicate ${labelOf(documents().patch, selection[0]!)}`
          : `Duplicate ${selection.length} modules`,
        (draft) => {
          made = duplicate(draft, selection, 36, withIncoming)
        },
      )
    )
      session().select(made)
  },
})
export const duplicateSelected = duplicating(false)
export const duplicateWithCables = duplicating(true)

export const undoCommand: Command = {
  name: 'Undo',
  keys: 'Ctrl+Z',
  can: () => documents().history.past.length > 0,
  run: () => {
    documents().undo()
  },
}
export const redoCommand: Command = {
  name: 'Redo',
  keys: 'Ctrl+Shift+Z',
  can: () => documents().history.future.length > 0,
  run: () => {
    documents().redo()
  },
}

export const keepMoved: Command = {
  name: 'Keep as set',
  keys: 'Ctrl+Enter',
  can: () => session().moved > 0,
  run: () => {
    documents().keepAsSet()
  },
}
export const backToSet: Command = {
  name: 'Back to set',
  keys: 'Ctrl+Backspace',
  can: () => session().moved > 0,
  run: () => {
    documents().backToSet()
  },
}

/** Recalls the first snapshot with a key; false when there is none. */
export const recallSnapshot = (key: string): boolean => {
  const snapshot = documents().patch.snapshots?.find((item) => item.key === key)
  if (!snapshot) return false
  void engine.start().then(() => {
    engine.playByHand(`Recall ${snapshot.name}`, undefined, { type: 'snapshot', target: snapshot.id })
  })
  return true
}

export const bypassSelected: Command = {
  name: 'Bypass',
  keys: 'Ctrl+B',
  can: () =>
    session().selection.some((id) => {
      const module = documents().patch.modules.find((item) => item.id === id)
      return Boolean(module && CATALOGUE.get(module.type)?.description.bypass)
    }),
  run: () => {
    const ids = new Set(session().selection)
    documents().change('Bypass', (draft) => {
      for (const module of draft.modules)
        if (ids.has(module.id) && CATALOGUE.get(module.type)?.description.bypass)
          module.bypass = !module.bypass
    })
  },
}

export const selectAll: Command = {
  name: 'Select all',
  keys: 'Ctrl+A',
  can: () => documents().patch.modules.length > 0,
  run: () => {
    session().select(documents().patch.modules.map((module) => module.id))
  },
}

/** Adds a module; where a source or target is given, wires it the likely way. One undo step. */
export const addAndWire = (
  type: string,
  x: number,
  y: number,
  wiring: { readonly from?: string | undefined; readonly to?: string | undefined } = {},
): string => {
  let id = ''
  const label = CATALOGUE.get(type)?.description.label ?? type
  documents().change(`Add ${label}`, (draft) => {
    id = addModule(draft, type, Math.round(x / 12) * 12, Math.round(y / 12) * 12)
    const module = draft.modules.find((item) => item.id === id)!
    const [source = '', port = ''] = splitTarget(wiring.from ?? '') ?? []
    const kind = CATALOGUE.get(draft.modules.find((item) => item.id === source)?.type ?? '')?.outputs.get(
      port,
    )?.kind
    const [best] = kind ? likelyInputs(kind, module as never) : []
    if (wiring.from !== undefined && best) connect(draft, wiring.from, `${id}.${best.name}`)
    const output = mainOutput(module as never)
    if (wiring.to !== undefined && output) connect(draft, `${id}.${output.name}`, wiring.to)
  })
  session().select([id])
  return id
}

export const connectPorts = (from: string, to: string): void => {
  const { patch, change } = documents()
  const [a = '', output = ''] = splitTarget(from) ?? []
  const [b = '', input = ''] = splitTarget(to) ?? []
  if (patch.cables.some((cable) => cable.from === from && cable.to === to)) {
    session().set({
      cable: patch.cables.find((cable) => cable.from === from && cable.to === to)?.id,
      selection: [],
    })
    return
  }
  let id: string | undefined
  change(`Connect ${labelOf(patch, a)} ${output} to ${labelOf(patch, b)} ${input}`, (draft) => {
    id = connect(draft, from, to)
  })
  if (id !== undefined) session().set({ cable: id, selection: [] })
}

export const COMMANDS: readonly Command[] = [
  undoCommand,
  redoCommand,
  deleteSelected,
  duplicateSelected,
  duplicateWithCables,
  bypassSelected,
  selectAll,
  keepMoved,
  backToSet,
]
