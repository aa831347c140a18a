import type { Patch } from '@ypsilon/core'

/** What is on the bench at the very first start. */
const FIRST = 'Reed Lamp'

/** Every patch of the demo folder: the first one, then by name. */
export const demos = (): readonly Patch[] =>
  Object.values(
    import.meta.glob<Patch>('@demo/patches/*.ypatch.json', { eager: true, import: 'default' }),
  ).sort((a, b) => Number(b.name === FIRST) - Number(a.name === FIRST) || a.name.localeCompare(b.name))
