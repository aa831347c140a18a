/** Files from outside: patches and archives become the document, audio, MIDI and scales come into it. */
import {
  addModule,
  Archive,
  CATALOGUE,
  faultText,
  freshId,
  isArchive,
  mib,
  oneLine,
  parseKeys,
  parsePatch,
  parseScale,
  pathFault,
  type Patch,
  type PatchModule,
  readWav,
} from '@ypsilon/core'
import type { Draft } from 'immer'
import { toast } from 'sonner'
import { engine } from '../audio/engine-client.ts'
import { chartCentre } from '../bench/centre.ts'
import { useDocument } from '../store/document.ts'
import { useSession } from '../store/session.ts'
import { keepAudio } from './audio-store.ts'

const MOST_PATCH = 16 * 2 ** 20
const MOST_AUDIO = 2 ** 30
const MOST_MIDI = 16 * 2 ** 20
/** The chart's grid. */
const GRID = 12

/** Why a file did not come in. */
class Refused extends Error {}

const bytesOf = async (file: File, most: number): Promise<Uint8Array> => {
  if (file.size > most) throw new Refused(`it has ${mib(file.size)}, more than ${mib(most)}`)
  return new Uint8Array(await file.arrayBuffer())
}

/** An id for an asset from the name of its file. */
const assetId = (patch: Patch, name: string): string => {
  const plain = name
    .replace(/\.[^.]*$/, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
  return freshId(new Set(Object.keys((patch['assets'] ?? {}) as object)), plain || 'sound')
}

const addAsset = (draft: Draft<Patch>, id: string, asset: object): void => {
  const assets = (draft['assets'] ?? {}) as object
  Object.assign(draft, { assets: { ...assets, [id]: asset } })
}

const keep = async (bytes: Uint8Array, room: number): Promise<{ hash: string; taken: number }> => {
  const result = readWav(bytes, room)
  if (!result.ok) throw new Refused(faultText(result.fault))
  const taken = result.sound.channels.reduce((sum, channel) => sum + channel.byteLength, 0)
  try {
    return { hash: await keepAudio(bytes, result.sound), taken }
  } catch {
    throw new Refused('the browser has no room to keep this audio')
  }
}

const openArchive = async (bytes: Uint8Array, name: string): Promise<void> => {
  const opened = Archive.open(bytes)
  if (!opened.ok) throw new Refused(faultText(opened.fault))
  const { archive } = opened
  const text = archive.read('patch.json', MOST_PATCH)
  if (!text.ok) throw new Refused(faultText(text.fault))
  const parsed = parsePatch(new TextDecoder().decode(text.bytes))
  if (!parsed.ok) {
    await useDocument.getState().openResult(parsed, name)
    return
  }
  const assets = new Map(
    Object.entries((parsed.value['assets'] ?? {}) as Record<string, { kind?: string; file?: string }>),
  )
  let room = MOST_AUDIO
  for (const [id, asset] of assets) {
    if (asset.kind === 'tuning' || asset.file === undefined) continue
    const wrong = pathFault(asset.file)
    if (wrong) throw new Refused(`assets.${id}: ${wrong}`)
    if (!archive.has(asset.file)) {
      toast.warning(`assets.${id}: there is no ${asset.file} in the archive; what needs it is silent.`)
      continue
    }
    const audio = archive.read(asset.file, MOST_AUDIO)
    if (!audio.ok) throw new Refused(faultText(audio.fault))
    const { hash, taken } = await keep(audio.bytes, room)
    room -= taken
    assets.set(id, { ...asset, ...{ hash } })
  }
  await useDocument
    .getState()
    .openResult({ ...parsed, value: { ...parsed.value, assets: Object.fromEntries(assets) } }, name)
}

/** The selected module of a type, or a new one in the middle of what is seen. */
const moduleFor = (draft: Draft<Patch>, type: string): Draft<PatchModule> => {
  const { selection } = useSession.getState()
  const selected = draft.modules.find((module) => module.type === type && selection.includes(module.id))
  if (selected) return selected
  const { x, y } = chartCentre()
  const id = addModule(draft, type, Math.round(x / GRID) * GRID, Math.round(y / GRID) * GRID)
  return draft.modules.find((module) => module.id === id)!
}

/** One change, one undo step; the module it was made in is selected. */
const changeModule = (
  name: string,
  type: string,
  recipe: (module: Draft<PatchModule>, draft: Draft<Patch>) => void,
): string => {
  let id = ''
  useDocument.getState().change(name, (draft) => {
    const module = moduleFor(draft, type)
    id = module.id
    recipe(module, draft)
  })
  useSession.getState().select([id])
  return id
}

const importWav = async (bytes: Uint8Array, name: string): Promise<void> => {
  const { hash } = await keep(bytes, MOST_AUDIO)
  const asset = assetId(useDocument.getState().patch, name)
  const data = CATALOGUE.get('wavetable')!.description.data!.find((item) => item.kind === 'table')!
  const id = changeModule(`Import ${name}`, 'wavetable', (module, draft) => {
    addAsset(draft, asset, { kind: 'table', file: `assets/${asset}.wav`, hash })
    Object.assign(module, { data: { ...module.data, [data.name]: asset } })
  })
  toast.success(`${name} is the table of ${id} now.`)
}

const importMidi = async (bytes: Uint8Array, name: string): Promise<void> => {
  const { readClip } = await import('@ypsilon/core/formats/clip.ts')
  const result = readClip(bytes)
  if (!result.ok) throw new Refused(result.faults.map(faultText).join('; '))
  for (const warning of result.warnings) toast.warning(faultText(warning))
  const { notes, bars, voices } = result.value
  const id = changeModule(`Import ${name}`, 'pattern', (module) => {
    Object.assign(module, { data: { ...module.data, notes }, params: { ...module.params, bars, voices } })
  })
  toast.success(`${notes.length} notes of ${name} stand in ${id} now: ${bars} bars, ${voices} voices.`)
}

const importScale = (text: string, name: string): void => {
  const isKeys = /\.kbm$/i.test(name)
  const result = isKeys ? parseKeys(text) : parseScale(text)
  if (!result.ok) throw new Refused(`${result.fault.place}: ${result.fault.message}`)
  const { patch } = useDocument.getState()
  const assets = new Map(Object.entries((patch['assets'] ?? {}) as Record<string, object>))
  const tuning = typeof patch['tuning'] === 'string' ? patch['tuning'] : 'equal'
  if (isKeys && !assets.has(tuning))
    throw new Refused('a keyboard map belongs to a scale; import the .scl file first')
  const id = isKeys ? tuning : assetId(patch, name)
  useDocument.getState().change(isKeys ? `Map the keys by ${name}` : `Tune to ${name}`, (draft) => {
    addAsset(draft, id, isKeys ? { ...assets.get(id), keys: text } : { kind: 'tuning', scale: text })
    Object.assign(draft, { tuning: id })
  })
  toast.success(isKeys ? `The keys are mapped by ${name}.` : `The patch is tuned to ${name}.`)
}

const importOne = async (file: File): Promise<void> => {
  const head = new Uint8Array(await file.slice(0, 12).arrayBuffer())
  const word = String.fromCharCode(...head.subarray(0, 4))
  if (isArchive(head)) return openArchive(await bytesOf(file, MOST_AUDIO), file.name)
  if (word === 'RIFF' || word === 'RF64') return importWav(await bytesOf(file, MOST_AUDIO), file.name)
  if (word === 'MThd') return importMidi(await bytesOf(file, MOST_MIDI), file.name)
  const text = new TextDecoder().decode(await bytesOf(file, MOST_PATCH))
  if (/\.(scl|kbm)$/i.test(file.name)) {
    importScale(text, file.name)
    return
  }
  await useDocument.getState().openText(text, file.name)
}

/** Takes files in, one after the other; what cannot be read is said and changes nothing. */
export const importFiles = async (files: Iterable<File>): Promise<void> => {
  for (const file of files) {
    try {
      await importOne(file)
    } catch (error) {
      const known = error instanceof Refused
      toast.error(`${oneLine(file.name)} was not opened; your patch is unchanged.`, {
        description: known ? error.message : `It could not be read: ${oneLine(String(error))}`,
        duration: 20000,
      })
    }
  }
  engine.reloadAssets()
}

/** Files the page takes. */
export const ACCEPTED =
  '.json,.zip,.wav,.mid,.midi,.scl,.kbm,application/json,application/zip,audio/wav,audio/midi'
