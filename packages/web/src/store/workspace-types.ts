/** What a workspace is made of. */
import type { Family, Heard, ParamValue, Patch } from '@ypsilon/core'

export type Theme = 'system' | 'day' | 'night'
export type Panel = 'parts' | 'inspector' | 'dock'
/** What has a size that is remembered: the dock has another while something is drawn in it. */
export type Sized = Panel | 'editor'
/** `editor`: that of the selected module, where it has one. */
export type DockTab = 'probe' | 'keys' | 'editor'
/** Dialogs over the page; one at a time. */
export type Dialog =
  'shortcuts' | 'palette' | 'rename' | 'versions' | 'find' | 'keep-section' | 'keep-module' | 'keep-preset'

/** A family, all of them, what is kept, or the patch as a tree. */
export type Drawer = Family | 'all' | 'kept' | 'outline'

/** Where the finder stands and what the new module is wired to. */
export interface Finder {
  /** Place on the chart. */
  readonly x: number
  readonly y: number
  /** Place of the panel on the page. */
  readonly left: number
  readonly top: number
  /** `osc.saw`: the new module is wired to it. */
  readonly from?: string
  readonly to?: string
  /** The cable that the new module is put into. */
  readonly into?: string
  /** The module that becomes what is chosen. */
  readonly replace?: string
  /** The card it was dropped on: its inputs are offered. */
  readonly card?: string
}

/** What the line for connecting by typing begins with. */
export interface Connecting {
  readonly from?: string
  readonly to?: string
  /** `move`: all cables of the given port go to another one; `bundle`: outputs of all that are selected go to one input. */
  readonly together?: 'move' | 'bundle'
}

/** A value of a field, taken along. */
export interface Copied {
  readonly target: string
  readonly text: string
  readonly value: ParamValue
}
/** A version of the patch. */
export interface Compared {
  readonly name: string
  readonly patch: Patch
}
/** What alone is heard, and what it is called. */
export interface Listening {
  readonly heard: readonly Heard[]
  readonly words: string
}
/** Settings of a module, taken along. */
export interface CopiedSettings {
  /** Of which module, in words. */
  readonly name: string
  readonly params: Readonly<Record<string, ParamValue>>
  readonly data: Readonly<Record<string, unknown>>
}
