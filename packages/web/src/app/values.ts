/** Values taken from one field to others, and settings from one module to others. */
import {
  CATALOGUE,
  isFormula,
  labelOf,
  moduleIn,
  own,
  paramAt,
  type ParamDescription,
  type ParamValue,
  parseValue,
  patchIndex,
  type PatchModule,
  printValue,
  setParam,
  splitTarget,
  valueFault,
} from '@ypsilon/core'
import type { App } from './app.ts'

/** A parameter as it is at the module's settings, with its value; undefined where a target is none. */
const paramNow = (
  { document }: App,
  target: string,
):
  | { readonly module: PatchModule; readonly param: ParamDescription; readonly value: ParamValue }
  | undefined => {
  const [id = '', name = ''] = splitTarget(target) ?? []
  const module = patchIndex(document.getState().patch).module.get(id)
  const known = module && CATALOGUE.get(module.type)?.params.get(name)
  if (!known) return undefined
  return { module, param: paramAt(known, module.params), value: own(module.params, name) ?? known.default }
}

/** Takes the value of a field along, in words. */
export const copyValue = (app: App, target: string): void => {
  const found = paramNow(app, target)
  if (!found) return
  const { param, value } = found
  app.workspace.getState().copy({ target, text: printValue(param, value), value })
}

const unitOf = (param: ParamDescription): string | undefined =>
  param.kind === 'number' ? param.unit : undefined

/** What a copied value is in another field; undefined where it makes no sense there. */
const valueFor = (app: App, target: string): ParamValue | undefined => {
  const { copied } = app.workspace.getState(),
    found = paramNow(app, target)
  if (!copied || !found) return undefined
  const { param } = found,
    { text, value } = copied,
    same = paramNow(app, copied.target)?.param
  // Exact between fields of one kind, as it reads between others.
  const isExact = isFormula(value) || (same?.kind === param.kind && unitOf(same) === unitOf(param))
  if (isExact && valueFault(param, value) === undefined) return value
  // A word is read as any kind; a number or a switch says nothing in words.
  if (typeof value !== 'string' && (param.kind === 'text' || typeof value === 'boolean')) return undefined
  const read = parseValue(param, text, { tempo: app.document.getState().patch.tempo ?? 120 })
  return read.ok && valueFault(param, read.value) === undefined ? read.value : undefined
}

/** Gives fields the value that was copied, as far as it makes sense there: one step. */
export const pasteValue = (app: App, targets: readonly string[]): void => {
  const { copied } = app.workspace.getState()
  if (!copied) return
  const values = targets.flatMap((target) => {
    const value = valueFor(app, target)
    return value === undefined ? [] : [[target, value] as const]
  })
  if (values.length === 0) {
    app.notifier.message(`${copied.text} makes no sense there.`)
    return
  }
  const [first] = values[0]!
  const name = paramNow(app, first)!.param.label.toLowerCase()
  app.document
    .getState()
    .change(
      values.length === 1
        ? `Set ${name} to ${copied.text}`
        : `Set ${name} of ${values.length} modules to ${copied.text}`,
      (draft) => {
        for (const [target, value] of values) {
          const [id = '', param = ''] = splitTarget(target) ?? []
          setParam(draft, id, param, value)
        }
      },
    )
}

/** Takes all settings of the selected module along. */
export const copySettings = (app: App, id: string): void => {
  const { patch } = app.document.getState(),
    module = patchIndex(patch).module.get(id)
  if (!module) return
  const { params = {}, data = {} } = module
  app.workspace.getState().copySettings({ name: labelOf(patch, id), params, data })
}

/** Gives the selected modules the settings that were copied, as far as they have such. */
export const pasteSettings = (app: App, ids: readonly string[]): void => {
  const { settings } = app.workspace.getState()
  if (!settings) return
  let count = 0
  app.document.getState().change(`Settings of ${settings.name}`, (draft) => {
    for (const id of ids) {
      const module = moduleIn(draft, id),
        entry = module && CATALOGUE.get(module.type)
      if (!module || !entry) continue
      for (const [name, value] of Object.entries(settings.params)) {
        const param = entry.params.get(name)
        if (!param || valueFault(paramAt(param, module.params as PatchModule['params']), value) !== undefined)
          continue
        setParam(draft, id, name, value)
        count += 1
      }
      for (const [name, value] of Object.entries(settings.data))
        if (entry.description.data?.some((one) => one.name === name)) {
          module.data = { ...module.data, [name]: JSON.parse(JSON.stringify(value)) as unknown }
          count += 1
        }
    }
  })
  if (count === 0) app.notifier.message('They have no setting in common.')
}
