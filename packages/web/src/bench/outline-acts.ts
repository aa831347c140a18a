/** What is done with a row of the outline: its value typed, its port connected, its module or cable taken away. */
import {
  isFormula,
  type ParsedValue,
  parseValue,
  type ParamValue,
  removeCables,
  setParam,
  splitTarget,
  valueFault,
  writeMark,
} from '@ypsilon/core'
import type { App } from '../app/app.ts'
import { marksLevel, removeChosenMark } from '../commands/marks.ts'
import { runCommand } from '../commands/registry.ts'
import { readDataText, setData } from './data-text.ts'
import { setAmount } from './edits.ts'
import { readAmount } from './fields/amount-field.tsx'
import { newGesture } from './fields/types.ts'
import type { OutlineRow } from './outline-rows.ts'

type ParamRow = Extract<OutlineRow, { kind: 'param' }>

const setTarget = ({ document }: App, { target, param }: ParamRow, value: ParamValue): void => {
  const [id = '', name = ''] = splitTarget(target) ?? []
  document.getState().change(`Set ${param.label.toLowerCase()}`, (draft) => {
    setParam(draft, id, name, value)
  })
}

const commitData = (
  app: App,
  row: Extract<OutlineRow, { kind: 'data' }>,
  text: string,
): string | undefined => {
  const read = readDataText(row.data, text)
  if (!read.ok) return read.message
  setData(app, row.module, row.data.name, read.value)
  return undefined
}

/** Takes what was typed into a row; a sentence refuses it. */
export const commitRow = (app: App, row: OutlineRow, text: string): string | undefined => {
  if (row.kind === 'cable') {
    const { cable } = row
    const read = readAmount(app.document.getState().patch, cable.to, text, cable.amount ?? 1)
    if (!read.ok) return read.message
    if (cable.id !== undefined) setAmount(app, cable.id, read.value, newGesture('type'))
    return undefined
  }
  if (row.kind === 'data') return commitData(app, row, text)
  if (row.kind === 'mark') {
    app.document.getState().change(`Write a ${row.words}`, (draft) => {
      writeMark(marksLevel(app, draft), row.mark, text.trim())
    })
    return undefined
  }
  if (row.kind !== 'param') return undefined
  const read: ParsedValue = isFormula(text)
    ? { ok: true, value: text.trim() }
    : parseValue(row.param, text, { tempo: app.document.getState().patch.tempo ?? 120 })
  if (!read.ok) return read.message
  const fault = valueFault(row.param, read.value)
  if (fault !== undefined) return fault
  setTarget(app, row, read.value)
  return undefined
}

/** What takes more than a line is typed in the inspector. */
const isOneLine = ({ value }: Extract<OutlineRow, { kind: 'data' }>): boolean =>
  typeof value !== 'string' || !value.includes('\n')

/** Goes to the field of a module's data in the inspector, once it is there. */
const toInspector = ({ workspace, clock }: App, module: string, name: string): void => {
  workspace.getState().showPanel('inspector')
  workspace.getState().select([module])
  clock.wait(0, () => {
    document
      .querySelector<HTMLElement>(`[aria-label="${CSS.escape(name)} of ${CSS.escape(module)}"]`)
      ?.focus()
  })
}

/** What Enter does with a row; true where its text is typed now. */
export const enter = (app: App, row: OutlineRow, toggle: () => void): boolean => {
  const { workspace } = app
  switch (row.kind) {
    case 'module':
      toggle()
      return false
    case 'input':
      workspace.getState().connectFrom({ to: row.port })
      return false
    case 'output':
      workspace.getState().connectFrom({ from: row.port })
      return false
    case 'cable':
      return row.cable.id !== undefined
    case 'mark':
      return true
    case 'data':
      if (!isOneLine(row)) toInspector(app, row.module, row.data.name)
      return isOneLine(row)
    case 'param':
      if (row.param.kind === 'switch') {
        setTarget(app, row, row.value !== true)
        return false
      }
      return true
  }
}

/** What Delete does with a row: it takes a module or a cable away, or a value back to its default; a frame leaves what it holds. */
export const remove = (app: App, row: OutlineRow): void => {
  const { document } = app
  if (row.kind === 'module') runCommand(app.commands.get('delete'), app)
  else if (row.kind === 'cable')
    document.getState().change('Remove a cable', (draft) => {
      removeCables(draft, new Set([row.cable.id ?? '']))
    })
  else if (row.kind === 'param') setTarget(app, row, row.param.default)
  else if (row.kind === 'data') setData(app, row.module, row.data.name, row.data.default ?? [])
  else if (row.kind === 'mark') removeChosenMark(app)
}
