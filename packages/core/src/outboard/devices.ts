/** Devices there are. */
import type { Device } from './device.ts'
import { wornEcho } from './echo.ts'
import { farPlate } from './plate.ts'
import { reedStrings } from './strings.ts'

export const DEVICES: readonly Device[] = [wornEcho, farPlate, reedStrings]

/** The place of a device in the list; −1 for one that is not known here. */
export const deviceNumber = (id: string): number => DEVICES.findIndex((device) => device.id === id)
