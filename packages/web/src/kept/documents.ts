/** Everything kept: listed, made, put aside, taken back, thrown away; and what stands beside the documents. */
import { type Patch, PATCH_VERSION } from '@ypsilon/core'
import { audioHashesOf } from './audio-assets.ts'
import type { KeptAudio } from './audio-store.ts'
import { type Box, type Database, keysUnder, type Notebook } from './database.ts'
import type { Clock } from './keeper.ts'
import { eraseMirrors, mirroredIds, readMirror } from './mirror.ts'
import { type Read, readDocument } from './reading.ts'
import {
  bodyKey,
  freshHead,
  type Head,
  headKey,
  type PatchBody,
  type Version,
  versionKey,
  versionsKey,
  writeBody,
} from './records.ts'

const DAY_MS = 24 * 3600 * 1000
/** What is put aside goes for good after this long. */
export const ASIDE_MS = 30 * DAY_MS
/** Versions kept by themselves, for each document; those kept by hand stay. */
const AUTOMATIC_VERSIONS = 20
/** Audio that nothing names is thrown away only after this long: it may be on its way into a patch. */
const FRESH_AUDIO_MS = DAY_MS
/** When it was last looked for. */
const AUDIO_TIDIED = 'ypsilon-audio-tidied'

export interface DocumentsParts {
  readonly database: Database
  readonly notebook: Notebook
  readonly clock: Clock
}

const newestFirst = (a: Head, b: Head): number => b.used - a.used

export class Documents {
  readonly box: Box
  private readonly notebook: Notebook
  private readonly clock: Clock
  private readonly database: Database

  constructor({ database, notebook, clock }: DocumentsParts) {
    this.database = database
    this.box = database.documents
    this.notebook = notebook
    this.clock = clock
  }

  private async keysUnder(prefix: string): Promise<string[]> {
    return keysUnder(this.box, prefix)
  }
  private async allUnder<T>(prefix: string): Promise<T[]> {
    const all = await Promise.all((await this.keysUnder(prefix)).map((key) => this.box.get<T>(key)))
    return all.filter((item) => item !== null)
  }

  /** Heads of all documents, those used last first; what was put aside as well. */
  async heads(): Promise<Head[]> {
    return (await this.allUnder<Head>('head/')).sort(newestFirst)
  }

  read(id: string): Promise<Read> {
    return readDocument(this.box, this.notebook, id)
  }

  /** What is stored of a document, whatever state it is in. */
  bodyAsIs(id: string): Promise<unknown> {
    return this.box.get(bodyKey(id))
  }

  /** The whole of a new document, not written yet. */
  bodyOf(patch: Patch): PatchBody {
    const head = { ...freshHead('patch', patch.name, this.clock.now()), tags: patch.tags ?? [] }
    return { head, format: PATCH_VERSION, steps: 0, patch, past: [], future: [] }
  }

  private write(body: PatchBody): Promise<void> {
    return writeBody(this.box, body)
  }

  /** Keeps a patch as a new document; its id. */
  async make(patch: Patch): Promise<string> {
    const body = this.bodyOf(patch)
    await this.write(body)
    return body.head.id
  }

  /** A document is taken over by this tab: what others still write for it no longer counts. */
  async takeOver(id: string): Promise<void> {
    const read = await this.read(id)
    if (!read.ok) return
    const { patch, history } = read
    const head = { ...read.head, revision: read.head.revision + 1 }
    await this.write({ head, format: PATCH_VERSION, steps: 0, patch, ...history })
    await this.eraseSteps(id)
  }

  private async eraseSteps(id: string): Promise<void> {
    for (const key of await this.keysUnder(`step/${id}/`)) await this.box.remove(key)
    eraseMirrors(this.notebook, id)
  }

  /** The head stands by itself as well: a document whose whole is damaged can be put aside all the same. */
  private async changeHead(id: string, change: (head: Head) => Head): Promise<void> {
    const head = await this.box.get<Head>(headKey(id))
    if (head) await this.box.set(headKey(id), change(head))
  }

  /** Moves a document to what is put aside; nothing of it is deleted. */
  async putAside(id: string, fault?: string): Promise<void> {
    await this.changeHead(id, (head) => ({
      ...head,
      putAside: this.clock.now(),
      ...(fault === undefined ? {} : { fault }),
    }))
  }

  async takeBack(id: string): Promise<void> {
    await this.changeHead(id, (head) => {
      const back = { ...head, used: this.clock.now() }
      delete back.putAside
      delete back.fault
      return back
    })
  }

  /** Deletes a document with all that belongs to it. */
  async erase(id: string): Promise<void> {
    await this.box.remove(headKey(id))
    await this.box.remove(bodyKey(id))
    for (const key of await this.keysUnder(versionsKey(id))) await this.box.remove(key)
    await this.eraseSteps(id)
  }

  /** Versions of a document, newest first. */
  async versions(id: string): Promise<Version[]> {
    return (await this.allUnder<Version>(versionsKey(id))).sort((a, b) => b.at - a.at)
  }

  /** Keeps a version; of those kept by themselves the oldest make room. */
  async keepVersion(id: string, name: string, patch: Patch, isAutomatic: boolean): Promise<void> {
    const earlier = await this.versions(id)
    const at = Math.max(this.clock.now(), (earlier[0]?.at ?? 0) + 1)
    await this.box.set(versionKey(id, at), { at, name, isAutomatic, patch } satisfies Version)
    const old = earlier.filter((version) => version.isAutomatic).slice(AUTOMATIC_VERSIONS - 1)
    for (const version of old) await this.box.remove(versionKey(id, version.at))
  }

  /** Documents that were made just before a page ended stand in the notebook alone: they are written. */
  async recover(): Promise<void> {
    for (const { id, revision } of mirroredIds(this.notebook)) {
      const { body } = readMirror(this.notebook, id, revision)
      if (body && !(await this.box.get(headKey(id)))) await this.write(body)
    }
  }

  /** What an earlier version of the page kept becomes documents; nothing of it is lost. */
  async takeOldBenches(old: Box): Promise<void> {
    for (const key of await old.keys()) {
      const stored = await old.get<{ patch?: Patch; at?: number }>(key)
      const patch = stored?.patch
      if (patch && typeof patch === 'object') {
        const body = this.bodyOf(patch)
        const times = { made: stored.at ?? body.head.made, changed: stored.at ?? body.head.changed }
        const name = typeof patch.name === 'string' ? patch.name : 'Untitled'
        await this.write({ ...body, head: { ...body.head, ...times, used: times.changed, name } })
        if (key.startsWith('aside-')) await this.putAside(body.head.id)
      }
      await old.remove(key)
    }
  }

  /** Throws away what was put aside long ago, and once a day audio that nothing names any more. */
  async tidy(): Promise<void> {
    const now = this.clock.now()
    for (const head of await this.heads())
      if (head.putAside !== undefined && now - head.putAside > ASIDE_MS) await this.erase(head.id)
    if (now - Number(this.notebook.read(AUDIO_TIDIED) ?? -Infinity) < DAY_MS) return
    await this.eraseUnnamedAudio(now)
    this.notebook.write(AUDIO_TIDIED, String(now))
  }

  /** Audio that no document, step or version names: the whole store is read for it. */
  private async eraseUnnamedAudio(now: number): Promise<void> {
    const named = new Set<string>()
    for (const key of await this.box.keys()) {
      if (key.startsWith('head/')) continue
      for (const hash of audioHashesOf(await this.box.get(key))) named.add(hash)
    }
    // Steps the store has not confirmed name audio as well.
    for (const { id, revision } of mirroredIds(this.notebook))
      for (const hash of audioHashesOf(readMirror(this.notebook, id, revision))) named.add(hash)
    for (const hash of await this.database.audio.keys()) {
      if (named.has(hash)) continue
      const { at = 0 } = (await this.database.audio.get<Partial<KeptAudio>>(hash)) ?? {}
      if (now - at > FRESH_AUDIO_MS) await this.database.audio.remove(hash)
    }
  }
}
