/** Finding parts by what people call them: names and trade words first, then what a part does. */
import { COMING, type Coming } from './coming.ts'
import type { ModuleDescription } from './types.ts'

type Part = Pick<ModuleDescription, 'type' | 'label' | 'family' | 'words' | 'help'>

/** A part that was found, or one that is not there yet. */
export type Found<P extends Part = ModuleDescription> =
  { readonly kind: 'part'; readonly part: P } | { readonly kind: 'coming'; readonly coming: Coming }

/** Small letters without signs: "Low-Pass" and "low pass" are the same. */
const plain = (text: string): string =>
  text
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9&]+/g, ' ')
    .trim()
/** Without spaces: "lowpass" is "low pass". */
const squeezed = (text: string): string => text.replaceAll(' ', '')

/** How well a name answers what was typed, 0…1. */
const fit = (name: string, typed: string): number => {
  if (name === typed || squeezed(name) === squeezed(typed)) return 1
  if (name.startsWith(typed)) return 0.8
  if (squeezed(name).startsWith(squeezed(typed))) return 0.75
  if (name.includes(` ${typed}`)) return 0.6
  return 0
}

/** Weights: what a part is called, what it is known as, what it does. */
const LABEL = 1,
  TYPE = 0.98,
  WORD = 0.92,
  DOES = 0.4,
  FAMILY = 0.35
/** Earlier words are nearer to what a part is. */
const LATER = 0.012
/** What is found below this is filler; so is what is far below the best. */
const LEAST = 0.2,
  FAR_BELOW = 0.42

/** How well a part answers one text, 0…1. */
const scoreOf = (part: Part, typed: string): number =>
  Math.max(
    LABEL * fit(plain(part.label), typed),
    TYPE * fit(plain(part.type), typed),
    ...part.words.map((word, index) => Math.max(0, WORD - LATER * index) * fit(plain(word), typed)),
    DOES * (` ${plain(part.help.does)}`.includes(` ${typed}`) ? 1 : 0),
    FAMILY * fit(plain(part.family), typed),
  )

/** The whole phrase, or every word of it somewhere. */
const phraseScore = (score: (typed: string) => number, typed: string): number => {
  const whole = score(typed),
    words = typed.split(' ')
  if (words.length === 1) return whole
  const each = words.map(score)
  const together = each.every((one) => one > 0) ? each.reduce((sum, one) => sum + one, 0) / each.length : 0
  // Words that stand together mean more than words that are both there.
  return Math.max(whole, 0.7 * together)
}

const comingScore = ({ label, words }: Coming, typed: string): number =>
  Math.max(
    LABEL * fit(plain(label), typed),
    ...words.map((word, index) => (WORD - LATER * index) * fit(plain(word), typed)),
  )

/**
 * Parts that answer what was typed, best first; all of them, in their order, for an empty text. A name of something that
 * is not built yet says so, with what does something like it.
 */
export const findParts = <P extends Part>(parts: readonly P[], text: string): Found<P>[] => {
  const typed = plain(text)
  if (typed === '') return parts.map((part) => ({ kind: 'part', part }))
  const scored = [
    ...parts.map((part) => ({
      score: phraseScore((word) => scoreOf(part, word), typed),
      found: { kind: 'part', part } as Found<P>,
    })),
    ...COMING.map((coming) => ({
      score: phraseScore((word) => comingScore(coming, word), typed),
      found: { kind: 'coming', coming } as Found<P>,
    })),
  ].sort((a, b) => b.score - a.score)
  const best = scored[0]?.score ?? 0
  return scored.filter(({ score }) => score >= LEAST && score >= FAR_BELOW * best).map(({ found }) => found)
}
