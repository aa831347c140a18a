/** Where things are kept: one database of the browser, with documents and audio in two stores of it. */
import localforage from 'localforage'
import { oneLine } from '@ypsilon/core'

/** One store: values by name, each written whole or not at all. */
export interface Box {
  get<T>(key: string): Promise<T | null>
  set(key: string, value: unknown): Promise<void>
  remove(key: string): Promise<void>
  keys(): Promise<string[]>
}

/** Names in a store that begin so. */
export const keysUnder = async (box: Box, prefix: string): Promise<string[]> =>
  (await box.keys()).filter((key) => key.startsWith(prefix))

export interface Database {
  /** Heads, bodies, steps and versions of documents: see `records.ts`. */
  readonly documents: Box
  /** Audio by the SHA-256 of its bytes. */
  readonly audio: Box
}

/** A store that does not answer within this has failed. */
const ANSWER_MS = 8000

const answered = <T>(promise: Promise<T>): Promise<T> =>
  new Promise((resolve, reject) => {
    const timer = setTimeout(() => {
      reject(new Error('it does not answer'))
    }, ANSWER_MS)
    promise.then(resolve, reject).finally(() => {
      clearTimeout(timer)
    })
  })

const boxOf = (storeName: string): Box => {
  const store = localforage.createInstance({ name: 'ypsilon', storeName })
  return {
    get: (key) => answered(store.getItem(key)),
    set: async (key, value) => {
      await answered(store.setItem(key, value))
    },
    remove: (key) => answered(store.removeItem(key)),
    keys: () => answered(store.keys()),
  }
}

/** The browser's database. Nothing is opened before something is asked for. */
export const openDatabase = (): Database => ({ documents: boxOf('documents'), audio: boxOf('audio') })

/** The store of earlier versions, which kept one patch a tab. */
export const openOldBenches = (): Box => boxOf('bench')

const STORE_WORDS = new Map([
  ['QuotaExceededError', 'no room left in the browser'],
  ['SecurityError', 'the browser allows no store'],
  ['InvalidStateError', 'the browser allows no store'],
])
/** Why a store failed, in words. */
export const failureWords = (error: unknown): string =>
  STORE_WORDS.get((error as Error | undefined)?.name ?? '') ??
  oneLine((error as Error | undefined)?.message ?? 'the browser does not say why')

/** Texts that are there at once, before the page can end: the browser's localStorage, or none. */
export interface Notebook {
  read(key: string): string | null
  /** False when it could not be written. */
  write(key: string, text: string): boolean
  erase(key: string): void
  keys(): string[]
}

/** A notebook over a storage that may be missing, full or forbidden. */
export const notebookOver = (storage: () => Storage): Notebook => {
  const attempt = <T>(act: (storage: Storage) => T, otherwise: T): T => {
    try {
      return act(storage())
    } catch {
      return otherwise
    }
  }
  return {
    read: (key) => attempt((store) => store.getItem(key), null),
    write: (key, text) =>
      attempt((store) => {
        store.setItem(key, text)
        return true
      }, false),
    erase: (key) => {
      attempt((store) => {
        store.removeItem(key)
      }, undefined)
    },
    keys: () => attempt((store) => Array.from({ length: store.length }, (_, i) => store.key(i)!), []),
  }
}
