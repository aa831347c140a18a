/* eslint max-lines: ["error", 500] -- one command, from its options to its files */
import {
  APP_VERSION,
  append,
  own,
  type BitDepth,
  CATALOGUE,
  kindOf,
  faultText,
  isLongWav,
  meaningFaults,
  ownership,
  type EventHeader,
  type ParamValue,
  parsePlay,
  type Patch,
  planRender,
  type PlayerEvent,
  readWav,
  type RenderPlan,
  type RenderReport,
  resample,
  type Sound,
  targetOf,
  targetValueFault,
  wavBytes,
  WavEncoder,
  wavHeader,
  type WavShape,
  withSettings,
} from '@ypsilon/core'
import { patchHash } from '@ypsilon/core/perform/hash.ts'
import { listOption, numberOption, readArguments, type Values, wordOption } from './arguments.ts'
import { BadInput } from './bad-input.ts'
import { loadEventFile, loadMidi, warn } from './events.ts'
import { kernels, loadPatch, readBytes } from './files.ts'
import { checkSpace, sizeWords, type Target, takeAll, targetsFor } from './targets.ts'

export const RENDER_HELP = `Usage: ./ypsilon render PATCH --out F.wav [options]

  --events E.json        what a player did (ypsilon/events)
  --midi M.mid           notes, touch, controls, programs and tempo of a MIDI file
  --play "60@0+1.5:0.8"  notes as NOTE@START+LENGTH[:VELOCITY], separated by spaces; NOTE a number or a name (C4 = 60)
  --seconds S            exactly round(S × rate) frames; without it: last event and the tail until −60 dB, 30 s at most
  --rate 48000           frames per second, 8000…192000; left out, what the event file says
  --bits 16|24|32f       depth of the WAV files' samples (24)
  --seed N               seed of everything random, instead of the patch's
  --set osc.fine=7       sets a parameter, a cable's amount (cable:ID=0.5) or a macro (macro:ID=0.5), whatever
                         else would move it at the start; may be given often
  --tap osc.saw=F2.wav   writes an output port besides, before the guard, 32-bit float, a channel for every
                         lane; also of a group (group.port) or a bus (busout.out)
  --input IN.wav         what the input modules hear, of any rate
  --quality live|best    oversampling of shapers (live, or what the event file says)
  --progress             says from the start how far it is, and how fast; without it from 10 s on
  --force                renders more than 6 hours, or files of more than 16 GB
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
  force: { type: 'boolean' },
} as const

const splitAt = (text: string, option: string): [string, string] => {
  const at = text.indexOf('=')
  if (at < 1 || at === text.length - 1) throw new BadInput([`--${option}: "${text}" is not NAME=VALUE`])
  return [text.slice(0, at), text.slice(at + 1)]
}

const settingOf = (patch: Patch, text: string): [string, ParamValue] => {
  const [name, value] = splitAt(text, 'set'),
    target = targetOf(patch, name, CATALOGUE)
  const plain: ParamValue =
    target.kind === 'param'
      ? kindOf(target.param).read(value)
      : value.trim() === '' || Number.isNaN(Number(value))
        ? value
        : Number(value)
  const fault = targetValueFault(target, plain)
  if (fault) throw new BadInput([`--set ${name}: ${fault}`])
  return [name, plain]
}

/**
 * The patch with what was set by hand, which must be as valid as before: formulas may go round in a circle. What a macro
 * owns is set over what that gives at load.
 */
const withSet = (
  patch: Patch,
  texts: readonly string[],
): { readonly patch: Patch; readonly presets: ReadonlyMap<string, ParamValue> } => {
  const settings = texts.map((text) => settingOf(patch, text))
  const set = withSettings(patch, settings)
  const { faults } = meaningFaults(set)
  if (faults.length > 0) throw new BadInput(faults.map((fault) => `--set: ${faultText(fault)}`))
  const { owner } = ownership(set)
  return { patch: set, presets: new Map(settings.filter(([target]) => owner.has(target))) }
}

/** What is played, and what the event file says of where it was played. */
const eventsOf = (values: Values): { readonly header: EventHeader; readonly events: PlayerEvent[] } => {
  const events: PlayerEvent[] = []
  let header: EventHeader = {}
  if (values['events'] !== undefined) {
    const file = loadEventFile(String(values['events']))
    header = file.header
    append(events, file.events)
  }
  if (values['midi'] !== undefined) append(events, loadMidi(String(values['midi'])))
  if (values['play'] !== undefined) {
    const result = parsePlay(String(values['play']))
    if (!result.ok) throw new BadInput(result.faults.map(faultText))
    append(events, result.value)
  }
  return { header, events }
}

/** Where a recorded performance would not sound as it did: another patch, another engine, no clean start. */
const sayDifferences = async (header: EventHeader, patch: Patch): Promise<void> => {
  if (header.patch !== undefined && header.patch !== (await patchHash(patch)))
    warn('warning: these events were played on another patch, or on this one before it was changed')
  if (header.engine !== undefined && header.engine !== APP_VERSION)
    warn(`warning: these events were played on engine ${header.engine}; this is ${APP_VERSION}`)
  if (header.repeatable === false)
    warn('warning: the recording did not start from a reset engine: it may have sounded otherwise')
}

const inputOf = (values: Values, rate: number): Sound | undefined => {
  if (values['input'] === undefined) return undefined
  const file = String(values['input'])
  const result = readWav(readBytes(file))
  if (!result.ok) throw new BadInput([`${file}: ${faultText(result.fault)}`])
  return resample(result.sound, rate)
}

/** What could not be done, and what the ear guard did, for the user to know. */
const reportWords = ({ limited, limitedDb, stopped, faults }: RenderReport, rate: number): string[] => [
  ...faults.map((fault) => `what was played could not be done: ${faultText(fault)}`),
  ...(limited > 0
    ? [
        `the ear guard limited ${(limited / rate).toFixed(2)} s of this, by ${limitedDb.toFixed(1)} dB at the most; turn the output down to keep the sound as it is`,
      ]
    : []),
  ...(stopped ? ['the ear guard ended the sound: it stayed above +24 dB before the guard'] : []),
]

/** Longest render and largest files without --force. */
const MOST_HOURS = 6
const MOST_BYTES = 16e9

/** A file of a render: where its sound goes, and the shape of it. */
interface Output {
  readonly target: Target
  readonly shape: WavShape
  readonly encoder: WavEncoder
  written: number
}

/** Refuses what nobody can have meant, unless it is forced, and what does not fit onto the disk. */
const checkSize = (plan: RenderPlan, outputs: readonly Output[], force: boolean): void => {
  const hours = plan.frames / plan.rate / 3600
  const bytes = outputs.reduce((sum, { shape }) => sum + wavBytes(shape), 0)
  if (!force && hours > MOST_HOURS)
    throw new BadInput([
      `this is ${plan.exact ? '' : 'up to '}${hours.toFixed(1)} hours of sound, more than ${MOST_HOURS}; --force renders it all the same`,
    ])
  if (!force && bytes > MOST_BYTES)
    throw new BadInput([
      `the files take up to ${sizeWords(bytes)}, more than ${sizeWords(MOST_BYTES)}; --force renders them all the same`,
    ])
  checkSpace(outputs.map(({ target, shape }) => ({ target, bytes: wavBytes(shape) })))
}

/** After this long a render says how far it is, though nobody asked. */
const SAY_AFTER_MS = 10_000
/** Between two words about progress. */
const SAY_EVERY_MS = 2000

class Progress {
  private readonly start = performance.now()
  private said = 0
  constructor(
    private readonly plan: RenderPlan,
    private readonly asked: boolean,
  ) {}

  say(done: number): void {
    const now = performance.now() - this.start
    if (!this.asked && now < SAY_AFTER_MS) return
    if (now - this.said < SAY_EVERY_MS && this.said > 0) return
    this.said = now
    const { frames, rate, exact } = this.plan
    const speed = done / rate / (now / 1000),
      left = (frames - done) / rate / Math.max(speed, 1e-9)
    process.stderr.write(
      `${Math.min(100, Math.floor((100 * done) / Math.max(1, frames)))} %, ${speed.toFixed(1)} × real time, ${exact ? '' : 'at most '}${Math.ceil(left)} s left\n`,
    )
  }
}

/** Renders into the files, in bounded memory; other work (signals) gets its turn between the steps. */
const renderInto = async (
  plan: RenderPlan,
  outputs: readonly Output[],
  asked: boolean,
): Promise<RenderReport> => {
  const progress = new Progress(plan, asked)
  const [main, ...taps] = outputs,
    byKey = new Map([...plan.taps.keys()].map((key, index) => [key, taps[index]!]))
  const write = (output: Output, channels: readonly Float32Array[], frames: number): void => {
    output.target.write(output.encoder.encode(channels, 0, frames))
    output.written += frames
  }
  for (const { target, shape } of outputs) {
    target.open()
    target.write(wavHeader(shape))
  }
  const steps = plan.run({
    output: (channels, frames) => {
      write(main!, channels, frames)
    },
    tap: (key, channels, frames) => {
      write(byKey.get(key)!, channels, frames)
    },
  })
  let step = steps.next()
  for (; !step.done; step = steps.next()) {
    progress.say(step.value)
    await new Promise(setImmediate)
  }
  for (const { target, shape, written } of outputs) {
    // Outputs come in pairs and taps in four bytes: there is never an odd byte to be filled up.
    target.patch(wavHeader({ ...shape, frames: written }, isLongWav(shape)))
  }
  return step.value
}

/** Ports to be kept, with their files. */
const tapsOf = (values: Values): (readonly [port: string, file: string])[] => {
  const taps = listOption(values, 'tap').map((text) => splitAt(text, 'tap'))
  const twice = taps.find(([port], index) => taps.some(([other], at) => at < index && other === port))
  if (twice) throw new BadInput([`--tap ${twice[0]}: is given twice`])
  return taps
}

/** The sound first, then the taps: those are exact. */
const outputsTo = (
  targets: readonly Output['target'][],
  taps: readonly (readonly [port: string, file: string])[],
  plan: RenderPlan,
  bits: BitDepth,
): Output[] =>
  targets.map((target, index) => {
    const port = taps[index - 1]?.[0]
    const depth = port === undefined ? bits : '32f'
    const channels = port === undefined ? plan.channels : plan.taps.get(port)!
    return {
      target,
      shape: { rate: plan.rate, channels, frames: plan.frames, bits: depth },
      encoder: new WavEncoder(depth),
      written: 0,
    }
  })

export const renderCommand = async (args: string[]): Promise<void> => {
  const { values, names } = readArguments(args, OPTIONS, ['PATCH'])
  const out = values['out']
  if (typeof out !== 'string') throw new BadInput(['--out FILE.wav is missing; see --help'])
  const { header, events } = eventsOf(values)
  const rate = numberOption(values, 'rate', 8000, 192000, true) ?? header.rate ?? 48000
  const bits = (wordOption(values, 'bits', ['16', '24', '32f']) ?? '24') as BitDepth
  const seconds = numberOption(values, 'seconds', 0, 1e7)
  const seed = numberOption(values, 'seed', -(2 ** 53), 2 ** 53, true)
  const best = (wordOption(values, 'quality', ['live', 'best']) ?? header.quality) === 'best'
  const { patch: loaded, warnings, assets, files } = loadPatch(names[0]!)
  for (const warning of warnings) warn(`warning: ${warning}`)
  const { patch, presets } = withSet(
    seed === undefined ? loaded : { ...loaded, seed },
    listOption(values, 'set'),
  )
  const taps = tapsOf(values)
  const input = inputOf(values, rate)
  await sayDifferences(header, loaded)
  const result = planRender(kernels(), patch, {
    rate,
    best,
    assets,
    events,
    presets,
    ...(header.tempo === undefined ? {} : { tempo: header.tempo }),
    taps: taps.map(([port]) => port),
    ...(seconds === undefined ? {} : { seconds }),
    ...(input ? { input } : {}),
  })
  if (!result.ok) throw new BadInput(result.faults.map(faultText))
  const plan = result.value
  const read = ['events', 'midi', 'input'].flatMap((name) =>
    own(values, name) === undefined ? [] : [String(own(values, name))],
  )
  const targets = targetsFor([out, ...taps.map(([, file]) => file)], [...files, ...read])
  const outputs = outputsTo(targets, taps, plan, bits)
  const drop = (): void => {
    for (const target of targets) target.drop()
  }
  const stop = (): void => {
    drop()
    process.exit(130)
  }
  process.once('SIGINT', stop).once('SIGTERM', stop)
  try {
    checkSize(plan, outputs, values['force'] === true)
    const report = await renderInto(plan, outputs, values['progress'] === true)
    takeAll(targets)
    for (const text of reportWords(report, rate)) warn(text)
  } finally {
    drop()
    process.off('SIGINT', stop).off('SIGTERM', stop)
  }
}
