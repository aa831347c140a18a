import type {
  ChoiceParam,
  Help,
  InputDescription,
  NumberParam,
  OutputDescription,
  ParamUnit,
  SignalKind,
  SwitchParam,
} from './types.ts'

type Rest = Partial<Omit<NumberParam, 'kind' | 'name' | 'min' | 'max' | 'default' | 'unit'>>

const labelOf = (name: string): string => {
  const words = name.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase()
  return words.charAt(0).toUpperCase() + words.slice(1)
}

export const number = (
  name: string,
  min: number,
  max: number,
  value: number,
  unit: ParamUnit,
  rest: Rest = {},
): NumberParam => ({
  kind: 'number',
  label: labelOf(name),
  ...rest,
  name,
  min,
  max,
  default: value,
  unit,
})

/** A frequency: logarithmic, 0.001..20000 Hz unless told otherwise. */
export const frequency = (
  name: string,
  value: number,
  min = 0.001,
  max = 20000,
  rest: Rest = {},
): NumberParam => number(name, min, max, value, 'Hz', { log: true, ...rest })

/** A time in seconds, modulated in octaves. */
export const seconds = (name: string, max: number, value: number, rest: Rest = {}): NumberParam =>
  number(name, 0, max, value, 's', { time: true, ...rest })

/** 0..1, shown in percent. */
export const share = (name: string, value: number, min = 0, max = 1, rest: Rest = {}): NumberParam =>
  number(name, min, max, value, '%', rest)

export const level = (value = 1): NumberParam => share('level', value)

export const choice = (
  name: string,
  choices: readonly string[],
  value = choices[0]!,
  rest: Partial<Omit<ChoiceParam, 'kind' | 'name'>> = {},
): ChoiceParam => ({
  kind: 'choice',
  label: labelOf(name),
  ...rest,
  name,
  choices,
  default: value,
})

export const toggle = (name: string, value: boolean, label = labelOf(name)): SwitchParam => ({
  kind: 'switch',
  name,
  label,
  default: value,
})

export const input = (name: string, kind: SignalKind, normalled?: string): InputDescription =>
  normalled === undefined ? { name, kind } : { name, kind, normalled }

export const output = (name: string, kind: SignalKind, sides?: 1 | 2): OutputDescription =>
  sides === undefined ? { name, kind } : { name, kind, sides }

/** A control output that never goes below 0. */
export const positive = (name: string): OutputDescription => ({ name, kind: 'control', oneSided: true })

/** Octave, semitones, fine: the tuning every pitched source has. */
export const tuning: readonly NumberParam[] = [
  number('octave', -5, 5, 0, 'oct'),
  number('semitones', -24, 24, 0, 'st'),
  number('fine', -100, 100, 0, 'ct'),
]

const PLAIN = [
  [1, '1'],
  [2, '2'],
  [4, '4'],
  [8, '8'],
  [16, '16'],
  [32, '32'],
  [64, '64'],
] as const

/** Note values 1/1 … 1/64, each plain, dotted and triplet. */
export const NOTE_VALUES: readonly string[] = PLAIN.flatMap(([, word]) => [
  `1/${word}`,
  `1/${word}.`,
  `1/${word}t`,
])

/** Own values for every voice that a random source ends up in, or the same for all. */
export const per: ChoiceParam = choice('per', ['voice', 'patch'], 'voice', {
  label: 'Values per',
  setOnly: true,
  help: 'Voice: every voice it ends up in has values of its own. Patch: all share them.',
})

export const help = (does: string, how: string, ranges: string, start: string): Help => ({
  does,
  how,
  ranges,
  start,
})
