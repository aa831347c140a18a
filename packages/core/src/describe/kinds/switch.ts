/** On or off. */
import { described } from '../../units/described.ts'
import { within } from '../ways.ts'
import type { ParamCommon, ParamKind } from './kind.ts'

export interface Param extends ParamCommon {
  readonly kind: 'switch'
  readonly default: boolean
}

export const kind: ParamKind<Param> = {
  kind: 'switch',
  isSignal: true,
  stored: 'f32',
  mode: () => 'switch',
  isExact: () => true,
  isContinuous: false,
  isMovable: true,
  fault: (_param, value) =>
    typeof value === 'boolean' ? undefined : `expected true or false, found ${described(value)}`,
  plain: (_param, value) => (value === true ? 1 : 0),
  read: (text) => (['true', 'on'].includes(text) ? true : ['false', 'off'].includes(text) ? false : text),
  way: (_param, from, to) => ({
    at: (share) => from + (to - from) * within(share) >= 0.5,
    shareOf: (value) => (to === from ? 0 : within(((value === true ? 1 : 0) - from) / (to - from))),
  }),
  range: () => 'on, off',
  standard: (param) => (param.default ? 'on' : 'off'),
  moved: () => 'on above 0.5',
  editor: 'switch',
}
