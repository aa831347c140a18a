/** Files from outside: patches and archives become documents, audio, MIDI and scales come into the one on the bench. */
import {
  addModule,
  Archive,
  CATALOGUE,
  faultText,
  freePlace,
  freshId,
  isArchive,
  levelPatch,
  mib,
  moduleIn,
  modulesAmong,
  oneLine,
  own,
  parseKeys,
  parsePatch,
  parseScale,
  type Patch,
  patchIndex,
  type PatchModule,
  pathFault,
} from '@ypsilon/core'
import type { Draft } from 'immer'
import type { App } from '../app/app.ts'
import { type ReadSound, whySilent } from '../kept/audio-store.ts'

const MOST_PATCH = 16 * 2 ** 20
const MOST_AUDIO = 2 ** 30
const MOST_MIDI = 16 * 2 ** 20

/** What files need of the page. */
type ImportParts = Pick<App, 'audio' | 'chart' | 'desk' | 'document' | 'engine' | 'notifier' | 'workspace'>

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
  Object.assign(draft, { assets: { ...(draft['assets'] as object | undefined), [id]: asset } })
}

const keep = async (
  { audio }: ImportParts,
  bytes: Uint8Array,
  read: ReadSound,
): Promise<{ hash: string; taken: number }> => {
  const channels = read.result.ok ? read.result.sound.channels : [],
    taken = channels.reduce((sum, channel) => sum + channel.byteLength, 0)
  try {
    return { hash: await audio.keepSound(bytes, read), taken }
  } catch {
    throw new Refused('the browser has no room to keep this audio')
  }
}

const openArchive = async (parts: ImportParts, bytes: Uint8Array, name: string): Promise<void> => {
  const opened = Archive.open(bytes)
  if (!opened.ok) throw new Refused(faultText(opened.fault))
  const { archive } = opened
  const text = archive.read('patch.json', MOST_PATCH)
  if (!text.ok) throw new Refused(faultText(text.fault))
  const parsed = parsePatch(new TextDecoder().decode(text.bytes))
  if (!parsed.ok) {
    await parts.desk.importResult(parsed, name)
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
      parts.notifier.warning(
        `assets.${id}: there is no ${asset.file} in the archive; what needs it is silent.`,
      )
      continue
    }
    const audio = archive.read(asset.file, MOST_AUDIO)
    if (!audio.ok) throw new Refused(faultText(audio.fault))
    const read = await parts.audio.readSound(audio.bytes, room),
      fault = whySilent(read)
    // It is kept as it is, and leaves with the patch again.
    if (fault !== undefined)
      parts.notifier.warning(`assets.${id} (${oneLine(asset.file)}): ${fault}; what needs it is silent.`)
    const { hash, taken } = await keep(parts, audio.bytes, read)
    room -= taken
    assets.set(id, { ...asset, ...{ hash } })
  }
  await parts.desk.importResult(
    { ...parsed, value: { ...parsed.value, assets: Object.fromEntries(assets) } },
    name,
  )
}

/** The selected module of a type, or a new one in the middle of what is seen. */
const moduleFor = (
  { workspace, document, chart }: ImportParts,
  draft: Draft<Patch>,
  type: string,
  named: string | undefined,
): Draft<PatchModule> => {
  const { selection } = workspace.getState()
  const selected = modulesAmong(draft, new Set(named === undefined ? selection : [named])).find(
    (module) => module.type === type,
  )
  if (selected) return selected
  const centre = chart.centre(),
    { group } = workspace.getState(),
    { x, y } = freePlace(levelPatch(document.getState().patch, group), type, centre.x, centre.y)
  const id = addModule(draft, type, x, y, group)
  return moduleIn(draft, id)!
}

/** One change, one undo step; the module it was made in is selected. */
const changeModule = (
  parts: ImportParts,
  name: string,
  type: string,
  recipe: (module: Draft<PatchModule>, draft: Draft<Patch>) => void,
  named?: string,
): string => {
  let id = ''
  parts.document.getState().change(name, (draft) => {
    const module = moduleFor(parts, draft, type, named)
    id = module.id
    recipe(module, draft)
  })
  parts.workspace.getState().select([id])
  return id
}

/** How a module takes a recording, where it does: the parameter or the data that names one. */
const takerOf = ({ type }: PatchModule): Taker | undefined => {
  const entry = CATALOGUE.get(type)
  const param = entry?.description.params.find((one) => one.kind === 'text' && one.recording)
  if (param) return { kind: 'audio', param: param.name }
  const data = entry?.description.data?.find(({ kind }) => kind === 'table' || kind === 'zones')
  return (
    data && {
      kind: data.kind === 'table' ? 'table' : 'audio',
      data: data.name,
      isList: data.kind === 'zones',
    }
  )
}
interface Taker {
  readonly kind: 'audio' | 'table'
  readonly param?: string
  readonly data?: string
  readonly isList?: boolean
}

/** A recording goes to the module, in the way it takes one. */
const give = (module: Draft<PatchModule>, taker: Taker, asset: string): void => {
  if (taker.param !== undefined) {
    // What could hear something else instead hears the recording now.
    const source = CATALOGUE.get(module.type)!.params.get('source')
    const chosen = source?.kind === 'choice' && source.choices.includes('asset') ? { source: 'asset' } : {}
    Object.assign(module, { params: { ...module.params, ...chosen, [taker.param]: asset } })
    return
  }
  const name = taker.data!,
    before = own(module.data, name)
  const now = taker.isList ? [...(Array.isArray(before) ? (before as object[]) : []), { asset }] : asset
  Object.assign(module, { data: { ...module.data, [name]: now } })
}

/** What a recording is brought to: the module that is named, the selected one that takes recordings, else a new player. */
const importWav = async (parts: ImportParts, bytes: Uint8Array, name: string, to?: string): Promise<void> => {
  const read = await parts.audio.readSound(bytes, MOST_AUDIO),
    fault = whySilent(read)
  if (fault !== undefined) throw new Refused(fault)
  const { hash } = await keep(parts, bytes, read)
  const { patch } = parts.document.getState(),
    wanted = to === undefined ? parts.workspace.getState().selection : [to]
  const chosen = patchIndex(patch).modules.find(
    ({ module }) => wanted.includes(module.id) && takerOf(module),
  )?.module
  const type = chosen?.type ?? 'player',
    kind = chosen ? takerOf(chosen)!.kind : 'audio',
    // The same recording is not brought twice.
    [same] = Object.entries((patch['assets'] ?? {}) as Record<string, { kind?: string; hash?: string }>)
      .filter(([, known]) => known.hash === hash && known.kind === kind)
      .map(([id]) => id)
  const asset = same ?? assetId(patch, name)
  const id = changeModule(
    parts,
    `Import ${name}`,
    type,
    (module, draft) => {
      const taker = takerOf(module as PatchModule)!
      if (same === undefined) addAsset(draft, asset, { kind: taker.kind, file: `assets/${asset}.wav`, hash })
      give(module, taker, asset)
    },
    chosen?.id,
  )
  parts.notifier.success(`${name} is in ${id} now.`)
}

/** A recording from a file, for one module. */
export const importRecording = async (parts: ImportParts, file: File, module: string): Promise<void> => {
  await taking(parts, file, async () => {
    await keepBefore(parts, file.name)
    await importWav(parts, await bytesOf(file, MOST_AUDIO), file.name, module)
  })
  parts.engine.reloadAssets()
}

const importMidi = async (parts: ImportParts, bytes: Uint8Array, name: string): Promise<void> => {
  const { readClip } = await import('@ypsilon/core/formats/clip.ts')
  const result = readClip(bytes)
  if (!result.ok) throw new Refused(result.faults.map(faultText).join('; '))
  for (const warning of result.warnings) parts.notifier.warning(faultText(warning))
  const { notes, bars, voices } = result.value
  const id = changeModule(parts, `Import ${name}`, 'pattern', (module) => {
    Object.assign(module, { data: { ...module.data, notes }, params: { ...module.params, bars, voices } })
  })
  parts.notifier.success(
    `${notes.length} notes of ${name} stand in ${id} now: ${bars} bars, ${voices} voices.`,
  )
}

const importScale = (parts: ImportParts, text: string, name: string): void => {
  const isKeys = /\.kbm$/i.test(name)
  const result = isKeys ? parseKeys(text) : parseScale(text)
  if (!result.ok) throw new Refused(`${result.fault.place}: ${result.fault.message}`)
  const { patch } = parts.document.getState()
  const assets = new Map(Object.entries((patch['assets'] ?? {}) as Record<string, object>))
  const tuning = typeof patch['tuning'] === 'string' ? patch['tuning'] : 'equal'
  if (isKeys && !assets.has(tuning))
    throw new Refused('a keyboard map belongs to a scale; import the .scl file first')
  const id = isKeys ? tuning : assetId(patch, name)
  parts.document.getState().change(isKeys ? `Map the keys by ${name}` : `Tune to ${name}`, (draft) => {
    addAsset(draft, id, isKeys ? { ...assets.get(id), keys: text } : { kind: 'tuning', scale: text })
    Object.assign(draft, { tuning: id })
  })
  parts.notifier.success(isKeys ? `The keys are mapped by ${name}.` : `The patch is tuned to ${name}.`)
}

/** What a file changes in the patch can be come back from by a version, too. */
const keepBefore = ({ desk }: ImportParts, name: string): Promise<void> =>
  desk.keeping.keepVersion(`Before importing ${name}`, true)

const importOne = async (parts: ImportParts, file: File): Promise<void> => {
  const head = new Uint8Array(await file.slice(0, 12).arrayBuffer())
  const word = String.fromCharCode(...head.subarray(0, 4))
  if (isArchive(head)) return openArchive(parts, await bytesOf(file, MOST_AUDIO), file.name)
  if (word === 'RIFF' || word === 'RF64') {
    await keepBefore(parts, file.name)
    return importWav(parts, await bytesOf(file, MOST_AUDIO), file.name)
  }
  if (word === 'MThd') {
    await keepBefore(parts, file.name)
    return importMidi(parts, await bytesOf(file, MOST_MIDI), file.name)
  }
  const text = new TextDecoder().decode(await bytesOf(file, MOST_PATCH))
  if (/\.(scl|kbm)$/i.test(file.name)) {
    await keepBefore(parts, file.name)
    importScale(parts, text, file.name)
    return
  }
  await parts.desk.importText(text, file.name)
}

/** Does something with a file; what cannot be read is said and changes nothing. */
const taking = async (parts: ImportParts, file: File, act: () => Promise<void>): Promise<void> => {
  try {
    await act()
  } catch (error) {
    const known = error instanceof Refused
    parts.notifier.error(`${oneLine(file.name)} was not opened; your patch is unchanged.`, {
      description: known ? error.message : `It could not be read: ${oneLine(String(error))}`,
      duration: 20000,
    })
  }
}

/** Takes files in, one after the other. */
export const importFiles = async (parts: ImportParts, files: Iterable<File>): Promise<void> => {
  for (const file of files) await taking(parts, file, () => importOne(parts, file))
  parts.engine.reloadAssets()
}
