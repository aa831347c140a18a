/** One of several words. */
import { described } from '../../units/described.ts'
import { type Way, within } from '../ways.ts'
import type { ParamCommon, ParamKind } from './kind.ts'

export interface Param extends ParamCommon {
  readonly kind: 'choice'
  readonly choices: readonly string[]
  readonly default: string
}

/** Words a range covers: places in the list. Within 0…1 a range is a share of the whole list, beyond that it counts words. */
const wordsOf = (choices: readonly string[], from: number, to: number): readonly string[] => {
  const last = choices.length - 1
  const counted = Math.max(Math.abs(from), Math.abs(to)) > 1
  if (!counted) return from <= to ? choices : [...choices].reverse()
  const place = (x: number): number => Math.min(last, Math.max(0, Math.round(x)))
  const [low, high] = [place(Math.min(from, to)), place(Math.max(from, to))]
  const covered = choices.slice(low, high + 1)
  return from <= to ? covered : covered.reverse()
}

const wordWay = (choices: readonly string[], from: number, to: number): Way => {
  const words = wordsOf(choices, from, to)
  // A part of 0…1 is a part of the list: its bands stay where they are.
  const part = Math.max(Math.abs(from), Math.abs(to)) <= 1
  const [low, high] = part ? [Math.min(from, to), Math.max(from, to)] : [0, 1]
  const place = (share: number): number =>
    from <= to ? low + (high - low) * share : 1 - high + (high - low) * share
  return {
    at: (share) => words[Math.min(words.length - 1, Math.floor(within(place(share)) * words.length))]!,
    shareOf: (value) => {
      const middle = (words.indexOf(String(value)) + 0.5) / words.length
      const start = place(0)
      return high > low ? within((middle - start) / (high - low)) : 0
    },
  }
}

export const kind: ParamKind<Param> = {
  kind: 'choice',
  isSignal: false,
  stored: 'i32',
  mode: () => 'linear',
  isExact: () => false,
  isContinuous: false,
  isMovable: true,
  fault: (param, value) =>
    typeof value === 'string' && param.choices.includes(value)
      ? undefined
      : `${described(value)} is not one of ${param.choices.map((word) => `"${word}"`).join(', ')}`,
  plain: (param, value) => param.choices.indexOf(String(value)),
  read: (text) => text,
  way: (param, from, to) => wordWay(param.choices, from, to),
  range: (param) => param.choices.join(', '),
  standard: (param) => param.default,
  moved: () => '',
  editor: 'choice',
}
