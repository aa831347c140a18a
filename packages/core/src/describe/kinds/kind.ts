/**
 * What a kind of parameter has to say of itself: one record a kind, one file a record. Everything that treats kinds
 * differently asks here; the index of kinds is generated from this folder.
 */
import type { Value, Way } from '../ways.ts'

/** How a parameter is named and read where that follows other settings of its module: those, and what it is at them. */
export interface Standing<Given> {
  readonly on: readonly string[]
  /** Settings by name; empty where they stand at what they are without. */
  readonly as: (setting: (param: string) => string) => Given
}

/** What all parameters have. */
export interface ParamCommon {
  readonly name: string
  readonly label: string
  /** True where a change may re-plan: no cable, not smoothed. */
  readonly setOnly?: boolean
  /** Shown in words under the field. */
  readonly help?: string
}

/** How modulation moves a value: added, in octaves, in octaves of a time, or across a threshold. */
export type ParamMode = 'linear' | 'octaves' | 'time' | 'switch'

export interface ParamKind<Param extends ParamCommon & { readonly kind: string }> {
  readonly kind: Param['kind']
  /** True where a cable may move it (unless it is set only). */
  readonly isSignal: boolean
  /** How a kernel reads one that is no signal: as a whole number, as a float, or not at all. */
  readonly stored: 'i32' | 'f32' | undefined
  readonly mode: (param: Param) => ParamMode
  /** Changes on the exact sample instead of over 15 ms. */
  readonly isExact: (param: Param) => boolean
  /** It has values between any two: it glides. Words change at once, in a copy that fades. */
  readonly isContinuous: boolean
  /** Can something move it while it plays, where it is not set only? */
  readonly isMovable: boolean
  /** What is wrong with a value, as a sentence's end; undefined when nothing is. */
  readonly fault: (param: Param, value: unknown) => string | undefined
  /** A value as the number kernels read. */
  readonly plain: (param: Param, value: unknown) => number
  /** A value from what was typed, unchecked. */
  readonly read: (text: string) => Value
  /** The way between two values, in the parameter's unit; undefined where there is nothing between. */
  readonly way: (param: Param, from: number, to: number) => Way | undefined
  /** Its range, default and modulation unit in words, for documents. */
  readonly range: (param: Param) => string
  readonly standard: (param: Param) => string
  readonly moved: (param: Param) => string
  /** Name of the field it is shown by; the page maps it to a component. */
  readonly editor: string
}
