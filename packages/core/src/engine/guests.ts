/** Modules that look into another one's memory. */
import type { Plan } from '../compile/plan.ts'
import * as abi from '../kernels/abi.ts'
import type { Work } from './delta.ts'

/** Guests are told where the one is whose memory they look into. */
export const placeKeepers = ({ modules }: Plan, instances: readonly number[], work: Work): void => {
  modules.forEach(({ keeper }, guest) => {
    if (keeper === undefined) return
    const at = modules.findIndex(({ id }) => id === keeper)
    if (at >= 0) work.image(instances[guest]! + abi.INSTANCE_KEEPER, 4).u32(0, instances[at]!)
  })
}
