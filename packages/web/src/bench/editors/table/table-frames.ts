/** Where the frames of a table come from, and where they go: built in, or a recording of the patch. */
import { moduleIn, own, type Patch, type PatchModule } from '@ypsilon/core'
import { frameOf, type Frames, framesOf, samplesOf } from '@ypsilon/core/describe/waves.ts'
import { writeWav } from '@ypsilon/core/formats/wav.ts'
import {
  BUILT_IN,
  builtInTable,
  FRAME_FLOATS,
  frameSizeOf,
  frameWave,
} from '@ypsilon/core/modules/sources/wavetable/tables.ts'
import type { App } from '../../../app/app.ts'

const RATE = 48000
/** What is drawn here is named by its content. */
const OWN = 'table-'

export const tableName = ({ data }: PatchModule, name: string, otherwise: unknown): string =>
  String(own(data, name) ?? otherwise)

/** The frames of a table by its name; undefined while its recording is not there. */
export const framesNamed = (app: App, patch: Patch, name: string): Frames | undefined => {
  if (BUILT_IN.includes(name)) {
    const table = builtInTable(name)
    return Array.from({ length: table.length / FRAME_FLOATS }, (_, n) => frameOf(frameWave(table, n)))
  }
  const samples = app.audio.soundsFor(patch).get(name)?.channels[0]
  return samples && framesOf(samples, frameSizeOf(samples.length))
}

type Assets = Record<string, { kind?: string; file?: string; hash?: string }>

/** Is a recording named by a module besides this one? */
const isUsed = (patch: Patch, asset: string, but: string): boolean =>
  patch.modules.some(({ id, data, params }) => {
    if (id === but) return false
    return JSON.stringify([data ?? {}, params ?? {}]).includes(JSON.stringify(asset))
  })

/**
 * Gives a module these frames as its table: a file of 32 bits that the patch brings along, kept before anything names it.
 * One step; the table that was drawn here before goes, unless something else reads it.
 */
export const keepFrames = async (
  app: App,
  module: string,
  data: string,
  frames: Frames,
  words: string,
): Promise<void> => {
  const bytes = writeWav({ rate: RATE, channels: [samplesOf(frames)] }, '32f'),
    read = await app.audio.readSound(bytes)
  const hash = await app.audio.keepSound(bytes, read),
    id = `${OWN}${hash.slice(0, 10)}`
  app.document.getState().change(words, (draft) => {
    const target = moduleIn(draft, module)
    if (!target) return
    const before = String(own(target.data as Record<string, unknown>, data) ?? '')
    const assets = new Map(Object.entries((draft['assets'] ?? {}) as Assets))
    assets.set(id, { kind: 'table', file: `assets/${id}.wav`, hash })
    target.data = { ...target.data, [data]: id }
    if (before.startsWith(OWN) && before !== id && !isUsed(draft as unknown as Patch, before, module))
      assets.delete(before)
    draft['assets'] = Object.fromEntries(assets)
  })
}
