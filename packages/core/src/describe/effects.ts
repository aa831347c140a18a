/** What finished effects share: they sum the voices first unless told otherwise, give two sides, and mix dry and wet. */
import { choice, share } from './helpers.ts'
import type { BypassRule, ChoiceParam, NumberParam, ShapeRule } from './types.ts'

export const EFFECT_SHAPE: ShapeRule = { sumsVoices: 'unless apart', sides: 2 }

/** What rings in an effect goes on when it is bypassed. */
export const bypassTo = (output: string): BypassRule => ({ from: 'in', to: output, tail: true })

/** Whether voices are summed before the effect, or keep one each. */
export const apart: ChoiceParam = choice('per', ['sum', 'voice'], 'sum', {
  label: 'Voices',
  setOnly: true,
  help: 'Sum: all voices go through one effect, which costs once. Voice: each has its own, and stays apart.',
})

export const mix = (value: number): NumberParam =>
  share('mix', value, 0, 1, { help: 'Share of the effect: at 0 what comes in alone, at 1 the effect alone.' })
