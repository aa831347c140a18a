/** What comes with a plan: words, data and bypasses on their way. */
import type { ParamValue } from '../patch/types.ts'
import type { Recall } from './recall.ts'

type Lists = Readonly<Record<string, unknown>>

/** All that waits at one time comes in one plan. */
export class Coming {
  readonly values = new Map<string, ParamValue>()
  readonly data = new Map<string, Lists | undefined>()
  readonly bypass = new Map<string, boolean | undefined>()

  get isEmpty(): boolean {
    return this.values.size + this.data.size + this.bypass.size === 0
  }
  take(other: Coming): void {
    for (const [target, value] of other.values) this.values.set(target, value)
    for (const [id, lists] of other.data) this.data.set(id, lists)
    for (const [id, value] of other.bypass) this.bypass.set(id, value)
  }
  /** What another move decides anew waits no longer. */
  forget({ numbers, words, data, bypass }: Recall): void {
    for (const target of [...numbers.keys(), ...words.keys()]) this.values.delete(target)
    for (const id of data.keys()) this.data.delete(id)
    for (const id of bypass.keys()) this.bypass.delete(id)
  }
}
