/** Eight controls and the parameters of a device that they set: which, in what unit, and how one learns another. */
import type { NumberParam, ParamUnit } from '../../../describe/types.ts'
import { MAIL_CONTROLS } from '../../../kernels/abi.ts'
import { type Device, type DeviceParameter, shareAt, valueAt } from '../../../outboard/device.ts'
import { deviceNumber, DEVICES } from '../../../outboard/devices.ts'

export const CONTROLS: readonly number[] = Array.from({ length: MAIL_CONTROLS }, (_, n) => n + 1)

/** What a module's settings are, by name; empty where they stand at what they are without. */
export type Setting = (param: string) => string

export const deviceAt = (setting: Setting): Device | undefined => {
  const id = setting('device')
  return id === '' ? DEVICES[0] : DEVICES[deviceNumber(id)]
}

/**
 * The place of the parameter that a control sets: the one it names, or the one of the same number that no other names; −1
 * where there is none.
 */
export const targetOf = (setting: Setting, control: number): number => {
  const parameters = deviceAt(setting)?.parameters ?? [],
    name = setting(`control${control}`)
  if (name !== '') return parameters.findIndex(({ id }) => id === name)
  const same = parameters[control - 1]
  const isNamed = same && CONTROLS.some((n) => setting(`control${n}`) === same.id)
  return same && !isNamed ? control - 1 : -1
}

const UNITS: ReadonlySet<string> = new Set<ParamUnit>([
  'Hz',
  'dB',
  's',
  'ms',
  'ct',
  'st',
  'oct',
  'bpm',
  '%',
  'deg',
])
const isUnit = (unit: string): unit is ParamUnit => UNITS.has(unit)
/** What has no unit and goes no further is shown as a share. */
const MOST_SHARE = 2

/** A parameter of a device as fields show numbers, in its own unit; one that fields do not know stands in its name. */
export const ownParam = (parameter: DeviceParameter): NumberParam => {
  const { id, label, unit, min, max, log = false, whole = false } = parameter
  const isShare = unit === '' && !whole && max <= MOST_SHARE
  return {
    kind: 'number',
    name: id,
    label: unit === '' || isUnit(unit) ? label : `${label}, ${unit}`,
    min,
    max,
    default: valueAt(parameter, 0.5),
    unit: isShare ? '%' : isUnit(unit) ? unit : '',
    ...(log ? { log } : {}),
    ...(whole ? { whole } : {}),
  }
}

/** What a control's row is called and how its share reads, at the settings of its module. */
export const controlAt = (
  setting: Setting,
  control: number,
): { readonly label: string; readonly help: string; readonly shown?: NumberParam['shown'] } => {
  const device = deviceAt(setting),
    parameter = device?.parameters[targetOf(setting, control)]
  if (!device || !parameter) return { label: `Control ${control}`, help: 'It sets nothing.' }
  return {
    label: parameter.label,
    help: `Control ${control} sets ${parameter.id} of ${device.label.toLowerCase()}.`,
    shown: {
      param: ownParam(parameter),
      value: (share) => valueAt(parameter, share),
      share: (value) => shareAt(parameter, value),
    },
  }
}

/** The control that sets a parameter of the device, by its place; undefined where none does. */
export const controlOf = (setting: Setting, parameter: number): number | undefined =>
  CONTROLS.find((control) => targetOf(setting, control) === parameter)

/** A control that sets nothing. */
export const freeControl = (setting: Setting): number | undefined =>
  CONTROLS.find((control) => targetOf(setting, control) < 0)

/** What to set so that a control sets a parameter and no other control does: by name. */
export const learned = (setting: Setting, control: number, id: string): readonly [string, string][] => [
  ...CONTROLS.filter((n) => n !== control && setting(`control${n}`) === id).map((n): [string, string] => [
    `control${n}`,
    '',
  ]),
  [`control${control}`, id],
]
