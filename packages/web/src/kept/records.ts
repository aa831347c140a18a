/**
 * What is kept of a document, and under which names:
 *
 * - `head/ID`: what lists show, and alone whether it is put aside. Written after every body.
 * - `body/ID`: the whole as it was after so many steps, with its undo history.
 * - `step/ID/REVISION/N`: one step each since then, numbered without gaps.
 * - `version/ID/TIME`: the patch as it was once, to come back to.
 *
 * The revision grows when another tab takes a document over: steps of a tab that has lost it never mix with later ones.
 */
import type { Change, History, Patch } from '@ypsilon/core'
import type { Box } from './database.ts'

export type DocumentKind = 'patch' | 'section' | 'module' | 'preset' | 'table' | 'sample' | 'take' | 'map'

/** What is known of a document without reading it. Times in milliseconds since 1970. */
export interface Head {
  readonly id: string
  readonly kind: DocumentKind
  readonly name: string
  readonly tags: readonly string[]
  readonly note: string
  readonly made: number
  readonly changed: number
  /** When it was last on the bench. */
  readonly used: number
  readonly revision: number
  /** The type of module that settings are for. */
  readonly of?: string
  /** How long a take or sample lasts. */
  readonly seconds?: number
  /** A take that is still being recorded, or broke off. */
  isOpen?: true
  /** When it was put aside; it goes for good 30 days later. */
  putAside?: number
  /** What was wrong with it, where it was put aside because it could not be read. */
  fault?: string
}

/** A patch as a whole. */
export interface PatchBody {
  readonly head: Head
  /** Version of the patch format it was written in. */
  readonly format: number
  /** Number of the last step that is in it. */
  readonly steps: number
  readonly patch: Patch
  readonly past: History['past']
  readonly future: History['future']
}

/** One step of a document as it is kept. */
export type KeptStep =
  /** `isGrown`: it is the last change before it, grown by a further part of its gesture. */
  | { readonly do: 'change'; readonly change: Change; readonly isGrown?: boolean }
  | { readonly do: 'undo' }
  | { readonly do: 'redo' }
  /** The last change was given up, as if it had not been made. */
  | { readonly do: 'drop' }

/** Writes a whole of any kind, then what lists show of it. */
export const writeBody = async <Body extends { readonly head: Head }>(
  box: Box,
  body: Body,
): Promise<void> => {
  await box.set(bodyKey(body.head.id), body)
  await box.set(headKey(body.head.id), body.head)
}

export type NumberedStep = readonly [n: number, step: KeptStep]

export interface Version {
  readonly at: number
  readonly name: string
  /** Kept by itself, not by hand. */
  readonly isAutomatic: boolean
  readonly patch: Patch
}

/** Undo steps that are kept across reloads. */
export const KEPT_STEPS = 500

const DIGITS = 9
export const headKey = (id: string): string => `head/${id}`
export const bodyKey = (id: string): string => `body/${id}`
export const stepsKey = (id: string, revision: number): string => `step/${id}/${revision}/`
export const stepKey = (id: string, revision: number, n: number): string =>
  `${stepsKey(id, revision)}${String(n).padStart(DIGITS, '0')}`
export const versionsKey = (id: string): string => `version/${id}/`
export const versionKey = (id: string, at: number): string => `${versionsKey(id)}${at}`

export const freshHead = (kind: DocumentKind, name: string, now: number): Head => ({
  id: crypto.randomUUID(),
  kind,
  name,
  tags: [],
  note: '',
  made: now,
  changed: now,
  used: now,
  revision: 1,
})
