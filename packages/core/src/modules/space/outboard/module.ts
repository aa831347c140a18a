import { help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription, ParamDescription, ShapeContext } from '../../../describe/types.ts'
import { MAIL_BYTES } from '../../../kernels/abi.ts'
import { DEVICE_FRAMES } from '../../../outboard/device.ts'
import { deviceNumber, DEVICES } from '../../../outboard/devices.ts'
import { controlAt, CONTROLS, deviceAt, targetOf } from './controls.ts'

/** Bytes of what the kernel keeps for itself behind the mailbox, and for each voice. */
const OWN_BYTES = 64,
  VOICES = 16
/** Stands for no parameter, and no device. */
const NOTHING = 0xffffffff

/** Settings by which rows are named. */
const SETTINGS = ['device', ...CONTROLS.map((n) => `control${n}`)]

const deviceParam: ParamDescription = {
  kind: 'text',
  name: 'device',
  label: 'Device',
  default: DEVICES[0]!.id,
  offers: DEVICES.map(({ id }) => id),
  setOnly: true,
  help: `${DEVICES.map(({ id, does }) => `${id}: ${does}`).join('. ')}.`,
}

/** A number that kernels know for a parameter's place. */
const placeOf = (context: ShapeContext, control: number): number => {
  const place = targetOf(context.choice, control)
  return place < 0 ? NOTHING : place
}

export const outboard: ModuleDescription = {
  type: 'outboard',
  family: 'space',
  label: 'Outboard',
  mark: 'M2 4h12v8H2zM5 8h.01M8 8h.01M11 8h.01M2 2v2M14 12v2',
  words: [
    'external effect',
    'external instrument',
    'plug-in',
    'device',
    'hardware',
    'tape echo',
    'string machine',
  ],
  help: help(
    'A processor or instrument that is not ours',
    'What comes in goes to the device a block of 128 frames late, which is taken off where paths meet; all voices are summed. Pitch, gate and velocity come to it voice by voice. Eight controls set parameters of the device: the one named, or the one of the same number; what no control sets stands in the middle. Values are sent once a block. A device that is not known here is kept and stays silent.',
    'Each device says what its parameters mean.',
    'Worn echo: p1 60 %, p2 40 %, p7 40 %.',
  ),
  front: ['in', 'gate', 'p1', 'p2', 'out'],
  headline: ['device'],
  stays: 'all',
  inputs: [
    input('in', 'audio'),
    input('pitch', 'pitch'),
    input('gate', 'gate'),
    input('velocity', 'control', '1'),
  ],
  outputs: [{ ...output('out', 'audio', 1), sides: 2 }],
  params: [
    deviceParam,
    ...CONTROLS.map((n) =>
      number(`p${n}`, 0, 1, 0.5, '%', {
        label: `Control ${n}`,
        stands: { on: SETTINGS, as: (setting) => controlAt(setting, n) },
      }),
    ),
    ...CONTROLS.map((n): ParamDescription => ({
      kind: 'text',
      name: `control${n}`,
      label: `Control ${n} sets`,
      default: '',
      setOnly: true,
      help: 'A parameter of the device by its name; empty is the one of the same number.',
      stands: {
        on: ['device'],
        as: (setting) => ({ offers: ['', ...(deviceAt(setting)?.parameters ?? []).map(({ id }) => id)] }),
      },
    })),
  ],
  shape: { sides: 2, endsVoices: true },
  memory: () => MAIL_BYTES + OWN_BYTES + 4 * VOICES,
  table: (context) => {
    const device = deviceNumber(context.choice('device'))
    const words = Uint32Array.of(
      device < 0 ? NOTHING : device,
      ...CONTROLS.map((control) => placeOf(context, control)),
    )
    return new Float32Array(words.buffer)
  },
  latency: ({ choice }) => DEVICE_FRAMES + (DEVICES[deviceNumber(choice('device'))]?.latency ?? 0),
  remarks: (context) => {
    const device = DEVICES[deviceNumber(context.choice('device'))]
    if (!device)
      return [
        [
          'device',
          `"${context.choice('device')}" is not known here: it is kept, and silent. Known are ${DEVICES.map(({ id }) => id).join(', ')}`,
        ],
      ]
    return CONTROLS.flatMap((n) => {
      const name = context.choice(`control${n}`)
      return name === '' || device.parameters.some(({ id }) => id === name)
        ? []
        : [
            [
              `control${n}`,
              `${device.label} has no "${name}". It has ${device.parameters.map(({ id }) => id).join(', ')}`,
            ] as const,
          ]
    })
  },
  bypass: { from: 'in', to: 'out' },
  sounds: true,
  needs: [{ any: ['in', 'gate'], message: 'has nothing to do: connect a sound or a gate' }],
  panel: 'device',
  picture: 'signal',
  cost: [300, 300, 10],
  bound: 200,
}
