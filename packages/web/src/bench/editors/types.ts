import type { EditorDescription, ModuleDescription, PatchModule } from '@ypsilon/core'

/** What a description may name. */
export type EditorKind = EditorDescription['kind']

export interface EditorProps {
  readonly module: PatchModule
  readonly description: ModuleDescription
}
