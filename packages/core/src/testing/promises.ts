/** The ids a module was released with: none may ever be dropped or renamed. Kept beside the module, in its test. */
import { expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'

/** Names, separated by spaces. */
export interface Ids {
  readonly inputs: string
  readonly outputs: string
  readonly params: string
  readonly data?: string
}

const list = (names: string): string[] => names.split(' ').filter(Boolean)

/** Holds a module to its ids; more may be added. */
export const promises = (type: string, { inputs, outputs, params, data = '' }: Ids): void => {
  it(`${type} holds every id it ever had`, () => {
    const entry = CATALOGUE.get(type)!
    expect(list(inputs).filter((name) => !entry.inputs.has(name))).toEqual([])
    expect(list(outputs).filter((name) => !entry.outputs.has(name))).toEqual([])
    expect(list(params).filter((name) => !entry.params.has(name))).toEqual([])
    const names = (entry.description.data ?? []).map((item) => item.name)
    expect(list(data).filter((name) => !names.includes(name))).toEqual([])
  })
}
