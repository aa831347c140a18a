/** What makes the devices' processors, by the devices' ids. */
import type { DeviceMaker } from './device.ts'
import { makeEcho, wornEcho } from './echo.ts'
import { farPlate, makePlate } from './plate.ts'
import { makeStrings, reedStrings } from './strings.ts'

export const MAKERS: ReadonlyMap<string, DeviceMaker> = new Map([
  [wornEcho.id, makeEcho],
  [farPlate.id, makePlate],
  [reedStrings.id, makeStrings],
])
