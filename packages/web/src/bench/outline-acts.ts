/** What is done with a row of the outline: its value typed, its port connected, its module or cable taken away. */
import {
  parseChoice,
  parseNumber,
  type ParamValue,
  removeCables,
  setParam,
  splitTarget,
  valueFault,
} from '@ypsilon/core'
import type { App } from '../app/app.ts'
import { runCommand } from '../commands/registry.ts'
import { setAmount } from './edits.ts'
import { readAmount } from './fields/amount-field.tsx'
import { newGesture } from './fields/types.ts'
import type { OutlineRow } from './outline-rows.ts'

type ParamRow = Extract<OutlineRow, { kind: 'param' }>

/** What was typed for a value; a sentence refuses it. */
const typedValue = (
  { document }: App,
  { param }: ParamRow,
  text: string,
): { readonly value: ParamValue } | string => {
  if (text.trim().startsWith('=')) return { value: text.trim() }
  if (param.kind === 'number') {
    const read = parseNumber(param, text, { tempo: document.getState().patch.tempo ?? 120 })
    return read.ok ? { value: read.value } : read.message
  }
  if (param.kind === 'choice') {
    const word = parseChoice(param, text)
    return word === undefined ? `One of ${param.choices.join(', ')}.` : { value: word }
  }
  return { value: text.trim() }
}

const setTarget = ({ document }: App, { target, param }: ParamRow, value: ParamValue): void => {
  const [id = '', name = ''] = splitTarget(target) ?? []
  document.getState().change(`Set ${param.label.toLowerCase()}`, (draft) => {
    setParam(draft, id, name, value)
  })
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
  if (row.kind !== 'param') return undefined
  const typed = typedValue(app, row, text)
  if (typeof typed === 'string') return typed
  const fault = valueFault(row.param, typed.value)
  if (fault !== undefined) return fault
  setTarget(app, row, typed.value)
  return undefined
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
    case 'param':
      if (row.param.kind === 'switch') {
        setTarget(app, row, row.value !== true)
        return false
      }
      return true
  }
}

/** What Delete does with a row: it takes a module or a cable away, or a value back to its default. */
export const remove = (app: App, row: OutlineRow): void => {
  const { document } = app
  if (row.kind === 'module') runCommand(app.commands.get('delete'), app)
  else if (row.kind === 'cable')
    document.getState().change('Remove a cable', (draft) => {
      removeCables(draft, new Set([row.cable.id ?? '']))
    })
  else if (row.kind === 'param') setTarget(app, row, row.param.default)
}
