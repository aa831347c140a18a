/** Hidden modules that stand for formulas in fields. */
import { type Catalogue, partOf } from '../catalogue.ts'
import { fieldFormulas, formulaText, referencesOf } from '../patch/formulas.ts'
import { patchIndex } from '../patch/index.ts'
import type { Cable, Patch, PatchModule } from '../patch/types.ts'

const formulaData = new Map<string, { readonly text: string }>()

/** Id of the hidden module behind a macro that formulas name. */
export const macroModule = (id: string): string => `~macro:${id}`

/** Hidden modules and cables that stand for field formulas, and for the macros they name. */
export const hiddenFormulas = (
  patch: Patch,
  catalogue: Catalogue,
): { modules: PatchModule[]; cables: Cable[]; serves: Map<string, string> } => {
  const modules = new Map<string, PatchModule>(),
    cables: Cable[] = [],
    serves = new Map<string, string>()
  const { macro: macros } = patchIndex(patch)
  for (const { module, param, value } of fieldFormulas(patch, catalogue)) {
    const id = `~f:${module.id}:${param}`
    const text = formulaText(value)
    const data = formulaData.get(text) ?? { text }
    formulaData.set(text, data)
    modules.set(id, { id, type: partOf(catalogue, 'expression').description.type, data })
    serves.set(id, module.id)
    cables.push({ from: `${id}.x`, to: `${module.id}.${param}` })
    referencesOf(value).forEach((target, index) => {
      const macro = target.startsWith('macro:') ? macros.get(target.slice(6)) : undefined
      if (macro)
        modules.set(macroModule(macro.id), {
          id: macroModule(macro.id),
          type: partOf(catalogue, 'value').description.type,
          params: { value: macro.value },
        })
      cables.push({ from: macro ? `${macroModule(macro.id)}.out` : target, to: `${id}.i${index + 1}` })
    })
  }
  return { modules: [...modules.values()], cables, serves }
}
