import { type Patch, PATCH_VERSION } from './types.ts'

/** One numbered step a version: `STEPS[n]` turns version n + 1 into n + 2. There is only version 1 so far. */
const STEPS: readonly ((patch: Patch) => Patch)[] = []

/** Brings an older patch to the present version; it is stamped only after every step succeeded. */
export const migrate = (patch: Patch, steps: readonly ((patch: Patch) => Patch)[] = STEPS): Patch => {
  let result = patch
  for (
    let version = patch.version;
    version < PATCH_VERSION + (steps === STEPS ? 0 : steps.length);
    version += 1
  ) {
    const step = steps[version - 1]
    if (!step) throw new RangeError(`No migration from version ${version}`)
    result = { ...step(result), version: version + 1 }
  }
  return result
}
