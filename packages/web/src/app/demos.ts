import type { Patch } from '@ypsilon/core'
import type { Demo } from '../store/desk.ts'

/** What is on the bench at the very first start. */
const FIRST = 'Reed Lamp'

const names = import.meta.glob<string>('@demo/patches/*.ypatch.json', { eager: true, import: 'name' }),
  tags = import.meta.glob<readonly string[]>('@demo/patches/*.ypatch.json', { eager: true, import: 'tags' }),
  urls = import.meta.glob<string>('@demo/patches/*.ypatch.json', {
    eager: true,
    import: 'default',
    query: '?url',
  })

const fetched = async (url: string): Promise<Patch> => {
  const response = await fetch(url)
  if (!response.ok) throw new Error(`the server answered with ${response.status}`)
  return (await response.json()) as Patch
}

const tagsOf = new Map(Object.entries(tags)),
  urlOf = new Map(Object.entries(urls))

/** Every patch of the demo folder: the first one, then by name. */
export const demos = (): readonly Demo[] =>
  Object.entries(names)
    .map(([file, name]): Demo => {
      let patch: Promise<Patch> | undefined
      return {
        name,
        tag: tagsOf.get(file)?.[0],
        patch: () => {
          patch ??= fetched(urlOf.get(file)!).catch((error: unknown) => {
            patch = undefined
            throw error
          })
          return patch
        },
      }
    })
    .sort((a, b) => Number(b.name === FIRST) - Number(a.name === FIRST) || a.name.localeCompare(b.name))
