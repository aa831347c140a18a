/** Ranges in words, in each field's own unit, for every document that lists them. */
import type { ParamDescription } from './types.ts'

/** A number as it stands in a patch file, with the field's own unit: seconds are seconds, shares 0 … 1. */
export const ownNumber = (value: number, unit: string): string =>
  `${value}${unit && unit !== '%' ? ` ${unit}` : ''}`

export const rangeOf = (param: ParamDescription): string => {
  if (param.kind === 'number') {
    const { follows } = param
    const plain = `${ownNumber(param.min, param.unit)} … ${ownNumber(param.max, param.unit)}${param.log ? ', logarithmic' : ''}`
    if (!follows) return plain
    return [
      plain,
      ...Object.entries(follows.ranges).map(
        ([word, { min, max, unit }]) =>
          `with ${follows.choice} ${word}: ${ownNumber(min, unit)} … ${ownNumber(max, unit)}`,
      ),
    ].join('; ')
  }
  if (param.kind === 'choice') return param.choices.join(', ')
  return param.kind === 'switch' ? 'on, off' : 'a name'
}

export const defaultOf = (param: ParamDescription): string => {
  if (param.kind === 'number') return ownNumber(param.default, param.unit)
  if (param.kind === 'switch') return param.default ? 'on' : 'off'
  return param.default === '' ? 'none' : param.default
}
