import { help, input, number, output } from '../../../describe/helpers.ts'
import type { ModuleDescription, ParamDescription, ShapeContext } from '../../../describe/types.ts'
import { MAIL_BYTES, MAIL_CONTROLS } from '../../../kernels/abi.ts'
import { DEVICE_FRAMES } from '../../../outboard/device.ts'
import { deviceNumber, DEVICES } from '../../../outboard/devices.ts'

const CONTROLS = Array.from({ length: MAIL_CONTROLS }, (_, n) => n + 1)
/** Bytes of what the kernel keeps for itself behind the mailbox, and for each voice. */
const OWN_BYTES = 64,
  VOICES = 16
/** Stands for no parameter, and no device. */
const NOTHING = 0xffffffff

const deviceParam: ParamDescription = {
  kind: 'text',
  name: 'device',
  label: 'Device',
  default: DEVICES[0]!.id,
  offers: DEVICES.map(({ id }) => id),
  setOnly: true,
  help: `${DEVICES.map(({ id, does }) => `${id}: ${does}`).join('. ')}.`,
}

/** Which of the device's parameters a control sets: the one named, or the one of the same number that no other names. */
const targetOf = (context: ShapeContext, control: number): number => {
  const device = DEVICES[deviceNumber(context.choice('device'))],
    name = context.choice(`control${control}`)
  if (!device) return NOTHING
  const named = new Set(CONTROLS.map((n) => context.choice(`control${n}`))),
    same = device.parameters[control - 1]
  const found =
    name !== ''
      ? device.parameters.findIndex(({ id }) => id === name)
      : same && !named.has(same.id)
        ? control - 1
        : -1
  return found >= 0 && found < device.parameters.length ? found : NOTHING
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
  inputs: [
    input('in', 'audio'),
    input('pitch', 'pitch'),
    input('gate', 'gate'),
    input('velocity', 'control', '1'),
  ],
  outputs: [{ ...output('out', 'audio', 1), sides: 2 }],
  params: [
    deviceParam,
    ...CONTROLS.map((n) => number(`p${n}`, 0, 1, 0.5, '%', { label: `Control ${n}` })),
    ...CONTROLS.map((n): ParamDescription => ({
      kind: 'text',
      name: `control${n}`,
      label: `Control ${n} sets`,
      default: '',
      setOnly: true,
      help: 'A parameter of the device by its name; empty is the one of the same number.',
    })),
  ],
  shape: { sides: 2, endsVoices: true },
  memory: () => MAIL_BYTES + OWN_BYTES + 4 * VOICES,
  table: (context) => {
    const device = deviceNumber(context.choice('device'))
    const words = Uint32Array.of(
      device < 0 ? NOTHING : device,
      ...CONTROLS.map((control) => targetOf(context, control)),
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
  picture: 'signal',
  cost: [300, 300, 10],
  bound: 200,
}
