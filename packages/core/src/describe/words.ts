/** Numbers in words, and back. */

/** A number as it stands in a patch file, with the field's own unit: seconds are seconds, shares 0 … 1. */
export const ownNumber = (value: number, unit: string): string =>
  `${value}${unit && unit !== '%' ? ` ${unit}` : ''}`

/** A number where a text is one, else the text. */
export const readNumber = (text: string): number | string =>
  text.trim() !== '' && Number.isFinite(Number(text)) ? Number(text) : text
