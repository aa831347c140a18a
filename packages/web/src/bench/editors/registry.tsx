/** Editors of modules' data, by the names descriptions give them; each is loaded when it is first shown. */
import { descriptionOf, type PatchModule } from '@ypsilon/core'
import { type ComponentType, lazy, Suspense } from 'react'
import type { EditorKind, EditorProps } from './types.ts'

const EDITORS: Readonly<Record<EditorKind, ComponentType<EditorProps>>> = {
  curve: lazy(() => import('./curve-editor.tsx').then(({ CurveEditor }) => ({ default: CurveEditor }))),
  clip: lazy(() => import('./clip/clip-editor.tsx').then(({ ClipEditor }) => ({ default: ClipEditor }))),
  table: lazy(() => import('./table/table-editor.tsx').then(({ TableEditor }) => ({ default: TableEditor }))),
  formula: lazy(() =>
    import('./formula/formula-editor.tsx').then(({ FormulaEditor }) => ({ default: FormulaEditor })),
  ),
  transfer: lazy(() =>
    import('./transfer-editor.tsx').then(({ TransferEditor }) => ({ default: TransferEditor })),
  ),
  recording: lazy(() =>
    import('./zones/recording-editor.tsx').then(({ RecordingEditor }) => ({ default: RecordingEditor })),
  ),
  zones: lazy(() => import('./zones/zones-editor.tsx').then(({ ZonesEditor }) => ({ default: ZonesEditor }))),
  scale: lazy(() => import('./scale-editor.tsx').then(({ ScaleEditor }) => ({ default: ScaleEditor }))),
  rows: lazy(() => import('./rows-editor.tsx').then(({ RowsEditor }) => ({ default: RowsEditor }))),
}

/** Has a module something that is drawn? */
export const hasEditor = (module: PatchModule | undefined): module is PatchModule =>
  module !== undefined && descriptionOf(module)?.editor !== undefined

/** The editor of a module. */
export const EditorOf = ({ module }: { readonly module: PatchModule }) => {
  const description = descriptionOf(module)
  if (!description?.editor) return null
  const Editor = EDITORS[description.editor.kind]
  return (
    <Suspense fallback={null}>
      {/* Of another module it begins anew: what was selected in it is not in this one. */}
      <Editor key={module.id} module={module} description={description} />
    </Suspense>
  )
}
