/** What a sounding shows within its card's box: name, values, picture, mark, as they fit at a distance. */
import {
  CARD_WIDTH,
  descriptionOf,
  moduleLabel,
  own,
  paramAt,
  type PatchModule,
  printValue,
} from '@ypsilon/core'
import type { Distance } from './distance.ts'
import type { PlacedCard } from './places.ts'
import type { Box } from './routing.ts'
import { fontsCome, textWidth } from './text-width.ts'

/** Sizes on the screen, in pixels. */
const NAME_PX = 12,
  VALUE_PX = 11,
  NAME_LINE = 16,
  VALUE_LINE = 14
const TOP = 5,
  SIDE = 7,
  GAP = 3
/** A picture lower than this says nothing, and one higher than this share of its width no more. */
const LEAST_PICTURE = 14,
  MOST_PICTURE = 0.75
const MARK_PX = 16

export interface SoundingParts {
  /** Lines the name takes: none where it does not fit. */
  readonly nameLines: 0 | 1 | 2
  /** Headline values, as many of them as fit beside one another. */
  readonly values: string
  /** Are name or values too long for it? */
  readonly isCut: boolean
  readonly hasMark: boolean
  /** Where the picture stands on the chart. */
  readonly picture: Box | undefined
}

export const labelOfCard = ({ module }: PlacedCard): string => moduleLabel(module)

/** Lines of a name that has so many pixels: two only where it can be parted. */
const linesOf = (label: string, across: number, most: 1 | 2): 0 | 1 | 2 => {
  if (textWidth(label, NAME_PX, 600) <= across) return 1
  if (most === 1) return 1
  const words = label.split(' ')
  for (let n = 1; n < words.length; n += 1) {
    const [first, second] = [words.slice(0, n).join(' '), words.slice(n).join(' ')]
    if (textWidth(first, NAME_PX, 600) <= across && textWidth(second, NAME_PX, 600) <= across) return 2
  }
  return 1
}

/** A headline value as it is set, in words. */
const valueWords = (module: PatchModule, name: string): string => {
  const known = descriptionOf(module)?.params.find((param) => param.name === name)
  if (!known) return ''
  const param = paramAt(known, module.params ?? {})
  return printValue(param, own(module.params, name) ?? param.default)
}

/** The first headline values that fit. */
const valuesIn = (module: PatchModule, most: number, across: number): string => {
  const words = (descriptionOf(module)?.headline ?? [])
    .slice(0, most)
    .map((name) => valueWords(module, name))
    .filter(Boolean)
  const both = words.join(' · ')
  return textWidth(both, VALUE_PX, 400, 'mono') <= across ? both : (words[0] ?? '')
}

const partsOf = (card: PlacedCard, distance: Distance, scale: number): SoundingParts => {
  const { x, y, layout, module } = card
  const width = CARD_WIDTH / scale,
    height = layout.height / scale,
    across = width - 2 * SIDE
  const label = labelOfCard(card)
  if (distance === 'far') {
    const fits = textWidth(label, NAME_PX, 600) <= across && height >= MARK_PX + NAME_LINE + TOP
    return { nameLines: fits ? 1 : 0, values: '', isCut: false, hasMark: true, picture: undefined }
  }
  const nameLines = linesOf(
    label,
    across,
    distance === 'small' && height >= 2 * NAME_LINE + TOP + LEAST_PICTURE ? 2 : 1,
  )
  let top = TOP + nameLines * NAME_LINE
  const values = height - top >= VALUE_LINE ? valuesIn(module, distance === 'middle' ? 2 : 1, across) : ''
  if (values) top += VALUE_LINE
  const room = height - top - GAP
  const high = Math.min(room, width * MOST_PICTURE)
  const picture: Box | undefined =
    high >= LEAST_PICTURE
      ? { left: x, right: x + CARD_WIDTH, top: y + (height - high) * scale, bottom: y + layout.height }
      : undefined
  const isCut =
    (nameLines === 1 && textWidth(label, NAME_PX, 600) > across) ||
    textWidth(values, VALUE_PX, 400, 'mono') > across
  return { nameLines, values, isCut, hasMark: false, picture }
}

interface Known {
  readonly distance: Distance
  readonly scale: number
  readonly fonts: number
  readonly parts: SoundingParts
}
const known = new WeakMap<PlacedCard, Known>()

/** `scale`: chart pixels that a pixel of the screen is. Worked out once for a card as it is. */
export const soundingParts = (card: PlacedCard, distance: Distance, scale: number): SoundingParts => {
  const before = known.get(card),
    fonts = fontsCome()
  if (before?.distance === distance && before.scale === scale && before.fonts === fonts) return before.parts
  const parts = partsOf(card, distance, scale)
  known.set(card, { distance, scale, fonts, parts })
  return parts
}

/** What of it fits, in one word: soundings are drawn anew only when it is another. */
export const partsWord = (card: PlacedCard, distance: Distance, scale: number): string => {
  const { nameLines, values, isCut, hasMark } = soundingParts(card, distance, scale)
  return `${nameLines} ${hasMark ? 'mark' : isCut ? 'cut' : 'whole'} ${values}`
}
