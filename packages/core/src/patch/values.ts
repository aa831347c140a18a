/** Single values of a patch: what may stand where a parameter or an entry of a module's data is set. */
import { dataKindOf, isSignalParam, kindOf } from '../describe/kinds/index.ts'
import type { DataDescription, ParamDescription } from '../describe/types.ts'
import { fieldFault, isFormula } from './formulas.ts'
import type { Fault } from './types.ts'

export { described, numberIn } from '../units/described.ts'

/** Greatest size of a cable's amount, and of whatever else multiplies a signal. */
export const MOST_AMOUNT = 1e6

/** What is wrong with a value for a parameter, as a sentence's end; undefined when nothing is. */
export const valueFault = (param: ParamDescription, value: unknown): string | undefined =>
  isFormula(value) && isSignalParam(param) ? fieldFault(value) : kindOf(param).fault(param, value)

/** What is wrong with one entry of a module's data. */
export const dataFaults = (data: DataDescription, value: unknown, place: string): Fault[] =>
  dataKindOf(data)
    .faults(data, value)
    .map(([at, message]) => ({ place: `${place}${at}`, message }))
