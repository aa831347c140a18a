import type { Patch } from '@ypsilon/core'
import type { Demo } from '../store/desk.ts'

/** What is on the bench at the very first start. */
const FIRST = 'Reed Lamp'

const names = import.meta.glob<string>('@demo/*/*.ypatch.json', { eager: true, import: 'name' }),
  tags = import.meta.glob<readonly string[]>('@demo/*/*.ypatch.json', { eager: true, import: 'tags' }),
  urls = import.meta.glob<string>('@demo/*/*.ypatch.json', {
    eager: true,
    import: 'default',
    query: '?url',
  })

/** Recordings by folder and name, as a patch of the folder names them. */
const recordings = new Map(
  Object.entries(
    import.meta.glob<string>('@demo/*/assets/*.wav', { eager: true, import: 'default', query: '?url' }),
  ).map(([file, url]) => [file.split('/').slice(-3).join('/'), url]),
)

const got = async (url: string): Promise<Response> => {
  const response = await fetch(url)
  if (!response.ok) throw new Error(`the server answered with ${response.status}`)
  return response
}

/** Keeps a recording; the hash it is found by. */
type KeepRecording = (bytes: Uint8Array) => Promise<string>

/** A demo with its recordings kept in the browser, as those of an archive are. */
const fetched = async (folder: string, url: string, keep: KeepRecording): Promise<Patch> => {
  const patch = (await (await got(url)).json()) as Patch
  const assets = Object.entries((patch['assets'] ?? {}) as Record<string, { readonly file?: string }>)
  if (assets.length === 0) return patch
  const kept = assets.map(async ([id, asset]): Promise<[string, object]> => {
    const from = recordings.get(`${folder}/${asset.file ?? ''}`)
    if (from === undefined) return [id, asset]
    const bytes = new Uint8Array(await (await got(from)).arrayBuffer())
    // A browser that keeps nothing has the patch without its sound, which is said where audio is brought.
    const hash = await keep(bytes).catch(() => '')
    return [id, { ...asset, ...(hash === '' ? {} : { hash }) }]
  })
  return { ...patch, assets: Object.fromEntries(await Promise.all(kept)) }
}

const tagsOf = new Map(Object.entries(tags)),
  urlOf = new Map(Object.entries(urls))

/** Every patch of a folder beside the page: the first one, then by name. */
const shipped = (folder: string, keep: KeepRecording): readonly Demo[] =>
  Object.entries(names)
    .filter(([file]) => file.includes(`/${folder}/`))
    .map(([file, name]): Demo => {
      let patch: Promise<Patch> | undefined
      return {
        name,
        tag: tagsOf.get(file)?.[0],
        patch: () => {
          patch ??= fetched(folder, urlOf.get(file)!, keep).catch((error: unknown) => {
            patch = undefined
            throw error
          })
          return patch
        },
      }
    })
    .sort((a, b) => Number(b.name === FIRST) - Number(a.name === FIRST) || a.name.localeCompare(b.name))

/** Patches of Marram Point to play with. */
export const demos = (keep: KeepRecording): readonly Demo[] => shipped('patches', keep)

/** Patches to begin from. */
export const templates = (keep: KeepRecording): readonly Demo[] => shipped('templates', keep)
