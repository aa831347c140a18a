/** The record of every kind of parameter and of data, by name. */
import { DATA_KIND_LIST, PARAM_KIND_LIST, type ParamDescription } from '../../generated/kinds.ts'
import type { DataDescription, DataKind } from '../data/kind.ts'
import type { ParamKind } from './kind.ts'

type AnyKind = ParamKind<ParamDescription>

const PARAM_KINDS: ReadonlyMap<string, AnyKind> = new Map(
  PARAM_KIND_LIST.map((kind) => [kind.kind, kind as unknown as AnyKind]),
)
const DATA_KINDS: ReadonlyMap<string, DataKind> = new Map(DATA_KIND_LIST.map((kind) => [kind.kind, kind]))

/** What a parameter's kind says of it. */
export const kindOf = (param: ParamDescription): AnyKind => PARAM_KINDS.get(param.kind)!

export const dataKindOf = (data: DataDescription): DataKind => {
  const kind = DATA_KINDS.get(data.kind)
  if (!kind) throw new Error(`${data.name}: there is no data of kind "${data.kind}"`)
  return kind
}

/** Parameters that are signals (cables may move them). */
export const isSignalParam = (param: ParamDescription): boolean => !param.setOnly && kindOf(param).isSignal

/** Range, default and modulation unit of a parameter in words. */
export const rangeOf = (param: ParamDescription): string => kindOf(param).range(param)
export const defaultOf = (param: ParamDescription): string => kindOf(param).standard(param)
export const modulationOf = (param: ParamDescription): string =>
  isSignalParam(param) ? kindOf(param).moved(param) : 'no cable'
