/** A name: of a bus, a buffer, a key. */
import { described } from '../../units/described.ts'
import type { ParamCommon, ParamKind, Standing } from './kind.ts'

export interface Param extends ParamCommon {
  readonly kind: 'text'
  readonly default: string
  /** Names that are known; others may be given too. */
  readonly offers?: readonly string[]
  readonly stands?: Standing<{ readonly offers: readonly string[] }>
  /** It names a recording of the patch. */
  readonly recording?: true
}

export const kind: ParamKind<Param> = {
  kind: 'text',
  isSignal: false,
  stored: undefined,
  mode: () => 'linear',
  isExact: () => false,
  isContinuous: false,
  isMovable: false,
  fault: (_param, value) =>
    typeof value === 'string' ? undefined : `expected a text, found ${described(value)}`,
  plain: () => 0,
  read: (text) => text,
  way: () => undefined,
  range: () => 'a name',
  standard: (param) => (param.default === '' ? 'none' : param.default),
  moved: () => '',
  editor: 'text',
}
