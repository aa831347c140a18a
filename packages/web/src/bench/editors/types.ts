import type { ModuleDescription, PatchModule } from '@ypsilon/core'

/** What a description may name. */
export type EditorName = NonNullable<ModuleDescription['editor']>

export interface EditorProps {
  readonly module: PatchModule
  readonly description: ModuleDescription
}
