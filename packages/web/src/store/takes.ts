/** Recording, and the list of what was recorded. */
import { oneLine, writeWav } from '@ypsilon/core'
import { createStore, type StoreApi } from 'zustand'
import type { AudioStore } from '../kept/audio-store.ts'
import { failureWords } from '../kept/database.ts'
import type { Documents } from '../kept/documents.ts'
import type { Clock } from '../kept/keeper.ts'
import type { Locks } from '../kept/locks.ts'
import type { Head } from '../kept/records.ts'
import { readTake, recoverTake, takeFile, TakeWriter } from '../kept/takes.ts'
import type { Notifier } from '../services/notifier.ts'
import type { Piece } from '../audio/tape.ts'

/** What recording needs of the engine. */
export interface RecordingEngine {
  readonly sampleRate: number
  start(): Promise<void>
  startRecording(take: (piece: Piece) => void): Promise<void>
  stopRecording(): void
}

export interface TakesParts {
  readonly engine: RecordingEngine
  readonly documents: Documents
  readonly audio: AudioStore
  readonly locks: Locks
  readonly clock: Clock
  readonly notifier: Notifier
  readonly patchName: () => string
  readonly download: (name: string, blob: Blob) => void
  readonly onListed: () => void
}

export interface TakesState {
  readonly isRecording: boolean
  /** When the recording began. */
  readonly since: number
  /** Starts or ends a recording. */
  toggle(): Promise<void>
  /** Hands a take out as a WAV file. */
  exportTake(head: Head): Promise<void>
  remove(head: Head): Promise<void>
}
export type TakesStore = StoreApi<TakesState>

/** Takes that are whole and not put aside, the latest first. */
export const takesOf = (heads: readonly Head[]): readonly Head[] =>
  heads.filter((head) => head.kind === 'take' && head.putAside === undefined && !head.isOpen)

/** Ends takes that broke off with their page; one that another tab records is left alone. */
export const recoverTakes = async ({ documents, audio, locks, onListed }: TakesParts): Promise<void> => {
  for (const head of await documents.heads()) {
    if (!head.isOpen) continue
    const hold = await locks.hold(head.id, 0)
    if (!hold) continue
    await recoverTake(documents.box, audio, head.id)
    hold.release()
    onListed()
  }
}

const name = (parts: TakesParts, heads: readonly Head[]): string => {
  const patch = parts.patchName(),
    taken = new Set(takesOf(heads).map((head) => head.name))
  let n = 1
  while (taken.has(`${patch} take ${n}`)) n += 1
  return `${patch} take ${n}`
}

/** What the browser did not keep leaves as a file at once. */
const sayFailed = (parts: TakesParts, writer: TakeWriter): void => {
  const { left, right } = writer.rest()
  parts.notifier.error(`${oneLine(writer.head.name)} could not be kept: ${failureWords(writer.failure)}`, {
    description: 'What was not kept is there until you close the page.',
    action: {
      label: 'Download it',
      onClick: () => {
        const bytes = writeWav({ rate: parts.engine.sampleRate, channels: [left, right] }, '24')
        parts.download(writer.head.name, new Blob([bytes as BlobPart], { type: 'audio/wav' }))
      },
    },
    duration: 120_000,
  })
}

/** The take is whole: it is in the list, or said not to be kept. */
const finish = async (parts: TakesParts, writer: TakeWriter): Promise<void> => {
  try {
    const take = await writer.finish()
    parts.notifier.success(`${take.head.name}, ${(take.frames / take.rate).toFixed(1)} s`, {
      description: 'It is in the list of takes beside the record button.',
    })
  } catch (error) {
    writer.failure ??= error
    sayFailed(parts, writer)
  } finally {
    parts.onListed()
  }
}

export const createTakesStore = (parts: TakesParts): TakesStore => {
  const { engine, documents, audio, locks, clock, notifier } = parts
  const begin = async (): Promise<void> => {
    await engine.start()
    const heads = await documents.heads().catch(() => [])
    const writer = new TakeWriter(documents.box, audio, name(parts, heads), engine.sampleRate, clock.now())
    const hold = await locks.hold(writer.head.id, 0)
    await engine.startRecording((piece) => {
      writer.add(piece)
      if (!piece.isLast) return
      store.setState({ isRecording: false })
      void finish(parts, writer).finally(() => hold?.release())
    })
    store.setState({ isRecording: true, since: clock.now() })
  }
  const store: TakesStore = createStore<TakesState>()((_set, get) => ({
    isRecording: false,
    since: 0,
    async toggle() {
      if (get().isRecording) engine.stopRecording()
      else await begin()
    },
    async exportTake(head) {
      try {
        const take = await readTake(documents.box, head.id)
        if (!take) throw new Error('This take is not in the browser any more.')
        parts.download(head.name, await takeFile(audio, take))
      } catch (error) {
        notifier.error(`${oneLine(head.name)}: ${failureWords(error)}`)
      }
    },
    async remove(head) {
      await documents.putAside(head.id)
      parts.onListed()
      notifier.message(`${oneLine(head.name)} is put aside for 30 days.`, {
        action: {
          label: 'Undo',
          onClick: () => {
            void documents.takeBack(head.id).then(parts.onListed)
          },
        },
      })
    },
  }))
  return store
}
