import {
  paramAt,
  type BitDepth,
  CATALOGUE,
  everyModule,
  faultText,
  parseEvents,
  parsePlay,
  type ParamValue,
  type Patch,
  type PlayerEvent,
  type Rendered,
  readWav,
  render,
  resample,
  type Sound,
  splitTarget,
  valueFault,
  withSettings,
  writeWav,
} from '@ypsilon/core'
import { listOption, numberOption, readArguments, type Values, wordOption } from './arguments.ts'
import { BadInput } from './bad-input.ts'
import { kernels, loadPatch, readBytes, writeBytes } from './files.ts'
import { readMidi } from './midi.ts'

export const RENDER_HELP = `Usage: ./ypsilon render PATCH --out F.wav [options]

  --events E.json        what a player did (ypsilon/events)
  --midi M.mid           notes, controllers and bends of a MIDI file
  --play "60@0+1.5:0.8"  notes as NOTE@START+LENGTH[:VELOCITY], separated by spaces; NOTE a number or a name (C4 = 60)
  --seconds S            exactly round(S × rate) frames; without it: last event and the tail until −60 dB, 30 s at most
  --rate 48000           frames per second, 8000…192000
  --bits 16|24|32f       depth of the WAV files' samples (24)
  --seed N               seed of everything random, instead of the patch's
  --set osc.fine=7       sets a parameter or a cable's amount (cable:ID=0.5); may be given often
  --tap osc.saw=F2.wav   writes an output port besides, before the guard, 32-bit float, a channel for every
                         lane; also of a group (group.port) or a bus (busout.out)
  --input IN.wav         what the input modules hear, of any rate
  --quality live|best    oversampling of shapers (live)
  --progress             says how far it is
`

const OPTIONS = {
  out: { type: 'string' },
  events: { type: 'string' },
  midi: { type: 'string' },
  play: { type: 'string' },
  seconds: { type: 'string' },
  rate: { type: 'string' },
  bits: { type: 'string' },
  seed: { type: 'string' },
  set: { type: 'string', multiple: true },
  tap: { type: 'string', multiple: true },
  input: { type: 'string' },
  quality: { type: 'string' },
  progress: { type: 'boolean' },
} as const

const splitAt = (text: string, option: string): [string, string] => {
  const at = text.indexOf('=')
  if (at < 1 || at === text.length - 1) throw new BadInput([`--${option}: "${text}" is not NAME=VALUE`])
  return [text.slice(0, at), text.slice(at + 1)]
}

const settingOf = (patch: Patch, text: string): [string, ParamValue] => {
  const [target, value] = splitAt(text, 'set')
  if (target.startsWith('cable:')) {
    if (!patch.cables.some((cable) => cable.id === target.slice(6)))
      throw new BadInput([`--set ${target}: there is no cable with this id`])
    if (value.trim() === '' || !Number.isFinite(Number(value)))
      throw new BadInput([`--set ${target}: "${value}" is not a number`])
    return [target, Number(value)]
  }
  const [id, name] = splitTarget(target) ?? ['', '']
  const module = everyModule(patch).find((item) => item.module.id === id)?.module
  if (!module) throw new BadInput([`--set ${target}: there is no module "${id}"`])
  const known = CATALOGUE.get(module.type)?.params.get(name)
  const param = known && paramAt(known, module.params)
  if (!param) throw new BadInput([`--set ${target}: ${module.type} has no parameter "${name}"`])
  const plain: ParamValue =
    param.kind === 'switch'
      ? value === 'true' || value === 'on'
        ? true
        : value === 'false' || value === 'off'
          ? false
          : value
      : param.kind === 'number' && value.trim() !== '' && Number.isFinite(Number(value))
        ? Number(value)
        : value
  const fault = valueFault(param, plain)
  if (fault) throw new BadInput([`--set ${target}: ${fault}`])
  return [target, plain]
}

const eventsOf = (values: Values): PlayerEvent[] => {
  const events: PlayerEvent[] = []
  if (values['events'] !== undefined) {
    const file = String(values['events'])
    const result = parseEvents(new TextDecoder().decode(readBytes(file)))
    if (!result.ok) throw new BadInput(result.faults.map((fault) => `${file}: ${faultText(fault)}`))
    events.push(...result.value)
  }
  if (values['midi'] !== undefined)
    events.push(...readMidi(readBytes(String(values['midi'])), String(values['midi'])))
  if (values['play'] !== undefined) {
    const result = parsePlay(String(values['play']))
    if (!result.ok) throw new BadInput(result.faults.map(faultText))
    events.push(...result.value)
  }
  return events
}

const inputOf = (values: Values, rate: number): Sound | undefined => {
  if (values['input'] === undefined) return undefined
  const file = String(values['input'])
  const result = readWav(readBytes(file))
  if (!result.ok) throw new BadInput([`${file}: ${faultText(result.fault)}`])
  return resample(result.sound, rate)
}

/** What the ear guard did, for the user to know. */
const guardWords = ({ limited, limitedDb, stopped, sound }: Rendered): string[] => [
  ...(limited > 0
    ? [
        `the ear guard limited ${(limited / sound.rate).toFixed(2)} s of this, by ${limitedDb.toFixed(1)} dB at the most; turn the output down to keep the sound as it is`,
      ]
    : []),
  ...(stopped ? ['the ear guard ended the sound: it stayed above +24 dB before the guard'] : []),
]

export const renderCommand = (args: string[]): void => {
  const { values, names } = readArguments(args, OPTIONS, ['PATCH'])
  const out = values['out']
  if (typeof out !== 'string') throw new BadInput(['--out FILE.wav is missing; see --help'])
  const rate = numberOption(values, 'rate', 8000, 192000) ?? 48000
  if (!Number.isInteger(rate)) throw new BadInput([`--rate: ${rate} is not a whole number`])
  const bits = (wordOption(values, 'bits', ['16', '24', '32f']) ?? '24') as BitDepth
  const seconds = numberOption(values, 'seconds', 0, 36000)
  const seed = numberOption(values, 'seed', -(2 ** 53), 2 ** 53)
  const best = wordOption(values, 'quality', ['live', 'best']) === 'best'
  const { patch: loaded, warnings, assets } = loadPatch(names[0]!)
  for (const warning of warnings) process.stderr.write(`ypsilon: warning: ${warning}\n`)
  const seeded = seed === undefined ? loaded : { ...loaded, seed }
  const patch = withSettings(
    seeded,
    listOption(values, 'set').map((text) => settingOf(loaded, text)),
  )
  const taps = listOption(values, 'tap').map((text) => splitAt(text, 'tap'))
  const input = inputOf(values, rate)
  const progress = values['progress']
    ? (done: number, total: number): void => {
        process.stderr.write(`${Math.min(100, Math.floor((100 * done) / total))} %\n`)
      }
    : undefined
  const result = render(kernels(), patch, {
    rate,
    best,
    assets,
    events: eventsOf(values),
    taps: taps.map(([port]) => port),
    ...(seconds === undefined ? {} : { seconds }),
    ...(input ? { input } : {}),
    ...(progress ? { progress } : {}),
  })
  if (!result.ok) throw new BadInput(result.faults.map(faultText))
  for (const text of guardWords(result.value)) process.stderr.write(`ypsilon: ${text}\n`)
  for (const [port, file] of taps) writeBytes(file, writeWav(result.value.taps.get(port)!, '32f'))
  writeBytes(out, writeWav(result.value.sound, bits))
}
