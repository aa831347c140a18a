/** Reads a document as it was left: the whole, and the steps made since, from the store and from the notebook. */
import {
  applyChange,
  checkPatch,
  dropped,
  EMPTY_HISTORY,
  faultText,
  type History,
  oneLine,
  type Patch,
  PATCH_VERSION,
  redo,
  revertChange,
  undo,
} from '@ypsilon/core'
import { type Box, keysUnder, type Notebook } from './database.ts'
import { readMirror } from './mirror.ts'
import { bodyKey, type Head, type KeptStep, type NumberedStep, type PatchBody, stepsKey } from './records.ts'

export interface Opened {
  readonly head: Head
  readonly patch: Patch
  readonly history: History
  /** Number of the last step. */
  readonly steps: number
  /** Number of the first step that is in no whole. */
  readonly from: number
  /** Steps that stand in the notebook alone: the store is still to have them. */
  readonly unwritten: readonly NumberedStep[]
  /** The patch as an older version of the format wrote it, whose undo history ends with it. */
  readonly older?: Patch
}

export type Read =
  | ({ readonly ok: true } & Opened)
  /** `body` as it was found, for a file. */
  | { readonly ok: false; readonly message: string; readonly body?: PatchBody }

/** Steps of a document by number: the store's. */
const storedSteps = async (box: Box, id: string, revision: number): Promise<Map<number, KeptStep>> => {
  const prefix = stepsKey(id, revision)
  const found = new Map<number, KeptStep>()
  for (const key of await keysUnder(box, prefix)) {
    const step = await box.get<KeptStep>(key)
    if (step) found.set(Number(key.slice(prefix.length)), step)
  }
  return found
}

const SHOWN_FAULTS = 3

interface State {
  readonly patch: Patch
  readonly history: History
}

/** A document after one more step. */
export const replayed = ({ patch, history }: State, step: KeptStep): State => {
  if (step.do === 'undo') return undo(patch, history) ?? { patch, history }
  if (step.do === 'redo') return redo(patch, history) ?? { patch, history }
  if (step.do === 'drop') return dropped(patch, history) ?? { patch, history }
  const last = history.past.at(-1)
  const before = step.isGrown && last ? revertChange(patch, last) : patch,
    past = step.isGrown ? history.past.slice(0, -1) : history.past
  return {
    patch: applyChange(before, step.change),
    history: { past: [...past, step.change], future: [] },
  }
}

/** The whole with the steps made since, up to the first gap. */
const allOf = (body: PatchBody, steps: ReadonlyMap<number, KeptStep>): State & { readonly last: number } => {
  let state: State = { patch: body.patch, history: { past: body.past, future: body.future } },
    last = body.steps
  for (let step = steps.get(last + 1); step; step = steps.get(last + 1)) {
    state = replayed(state, step)
    last += 1
  }
  return { ...state, last }
}

/** Reads a document; what cannot be read says why and stays as it is. */
export const readDocument = async (box: Box, notebook: Notebook, id: string): Promise<Read> => {
  const body = (await box.get<PatchBody>(bodyKey(id))) ?? bodyOfMirror(notebook, id)
  if (!body) return { ok: false, message: 'It is not in this browser any more.' }
  try {
    const { revision } = body.head
    const { steps: mirrored } = readMirror(notebook, id, revision)
    const steps = new Map([...(await storedSteps(box, id, revision)), ...mirrored])
    const { patch, history, last } = allOf(body, steps)
    const checked = checkPatch(patch)
    if (!checked.ok)
      return { ok: false, message: checked.faults.slice(0, SHOWN_FAULTS).map(faultText).join('\n'), body }
    const isOlder = body.format < PATCH_VERSION
    return {
      ok: true,
      head: body.head,
      patch: isOlder ? checked.value : patch,
      // Steps speak of places in the older format.
      history: isOlder ? EMPTY_HISTORY : history,
      steps: last,
      from: body.steps + 1,
      unwritten: isOlder ? [] : mirrored.filter(([n]) => n > body.steps && n <= last),
      ...(isOlder ? { older: patch } : {}),
    }
  } catch (error) {
    return { ok: false, message: oneLine(String(error)), body }
  }
}

/** A document that was made just before the page ended: it stands in the notebook alone. */
const bodyOfMirror = (notebook: Notebook, id: string): PatchBody | undefined =>
  readMirror(notebook, id, 1).body
