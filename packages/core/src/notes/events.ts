import type { Fault, Result } from '../patch/types.ts'
import { described, numberIn } from '../patch/values.ts'
import { parseNote } from '../units/units.ts'
import { append } from '../units/append.ts'
import { own } from '../units/own.ts'

interface At {
  /** Seconds from the start. */
  readonly t: number
}
interface OnChannel {
  /** 1…16; 0 or left out: any. */
  readonly channel?: number
}
interface Glides {
  /** Seconds of the way to the new value; left out: as the parameter says, 15 ms for most. */
  readonly over?: number
}
interface NoteEvent extends At, OnChannel {
  readonly note: number
  /** 0…1. */
  readonly velocity?: number
  readonly id?: number
}

/** What a player did, as in the event file. */
export type PlayerEvent =
  | (NoteEvent & { readonly type: 'on' })
  | (NoteEvent & { readonly type: 'off' })
  | (At &
      OnChannel & {
        readonly type: 'pressure' | 'slide' | 'bend'
        readonly value: number
        readonly note?: number
      })
  | (At & OnChannel & { readonly type: 'control'; readonly controller: number; readonly value: number })
  | (At & OnChannel & { readonly type: 'program'; readonly program: number })
  | (At &
      Glides & { readonly type: 'param'; readonly target: string; readonly value: number | string | boolean })
  | (At & Glides & { readonly type: 'macro'; readonly target: string; readonly value: number })
  | (At & Glides & { readonly type: 'snapshot'; readonly target: string })
  | (At & { readonly type: 'blend'; readonly target: string; readonly x: number; readonly y: number })
  /** One entry of a list, or without an index all of it. */
  | (At & {
      readonly type: 'data'
      readonly target: string
      readonly index?: number
      readonly value: unknown
    })
  | (At & { readonly type: 'bypass'; readonly target: string; readonly value: boolean })
  | (At & { readonly type: 'tempo'; readonly value: number })
  | (At & { readonly type: 'transport'; readonly value: 'start' | 'stop' | 'continue' })
  | (At & { readonly type: 'clock'; readonly value: 'tick' | 'start' | 'stop' | 'continue' })
  /** `value` false: what was silenced plays on. */
  | (At & { readonly type: 'silence'; readonly value?: boolean })

/** What an event file says besides its events: where they were played. */
export interface EventHeader {
  /** SHA-256 of the patch they were played on. */
  readonly patch?: string
  readonly rate?: number
  readonly quality?: 'live' | 'best'
  /** Version of the engine. */
  readonly engine?: string
  readonly tempo?: number
  /** False: it did not start from a reset engine, so rendering it gives another sound than was heard. */
  readonly repeatable?: boolean
}

export interface EventFile {
  readonly header: EventHeader
  readonly events: readonly PlayerEvent[]
}

interface Field {
  readonly name: string
  readonly low: number
  readonly high: number
  readonly required?: true
  readonly whole?: true
}
/** Later than this nothing happens: 115 days. */
export const LAST_SECOND = 1e7
const T: Field = { name: 't', low: 0, high: LAST_SECOND, required: true }
const NOTE: Field = { name: 'note', low: 0, high: 127 }
const CHANNEL: Field = { name: 'channel', low: 0, high: 16, whole: true }
const VALUE: Field = { name: 'value', low: 0, high: 1, required: true }
const VELOCITY: Field = { name: 'velocity', low: 0, high: 1 }
const ID: Field = { name: 'id', low: -(2 ** 53), high: 2 ** 53, whole: true }
const OVER: Field = { name: 'over', low: 0, high: 3600 }
const TEMPO: Field = { name: 'value', low: 20, high: 300, required: true }
const FIELDS = new Map<string, readonly Field[]>([
  ['on', [T, { ...NOTE, required: true }, VELOCITY, ID, CHANNEL]],
  ['off', [T, { ...NOTE, required: true }, VELOCITY, ID, CHANNEL]],
  ['pressure', [T, NOTE, VALUE, CHANNEL]],
  ['slide', [T, NOTE, VALUE, CHANNEL]],
  ['bend', [T, NOTE, { ...VALUE, low: -1 }, CHANNEL]],
  ['control', [T, { name: 'controller', low: 0, high: 127, required: true, whole: true }, VALUE, CHANNEL]],
  ['program', [T, { name: 'program', low: 0, high: 127, required: true, whole: true }, CHANNEL]],
  ['param', [T, OVER]],
  ['macro', [T, VALUE, OVER]],
  ['snapshot', [T, OVER]],
  ['blend', [T, { ...VALUE, name: 'x' }, { ...VALUE, name: 'y' }]],
  ['data', [T, { name: 'index', low: 0, high: 4095, whole: true }]],
  ['bypass', [T]],
  ['tempo', [T, TEMPO]],
  ['transport', [T]],
  ['clock', [T]],
  ['silence', [T]],
])
/** Types that name what they move. */
const AIMED = new Set(['param', 'macro', 'snapshot', 'blend', 'data', 'bypass'])

const fieldFault = ({ low, high, required, whole }: Field, value: unknown): string | undefined => {
  if (value === undefined) return required ? 'is missing' : undefined
  if (typeof value === 'number' && Number.isFinite(value) && (value < low || value > high))
    return `${value} is outside ${low}…${high}`
  return (
    numberIn(value, low, high) ??
    (whole && !Number.isInteger(value) ? `${String(value)} is not a whole number` : undefined)
  )
}

const wordFault = (value: unknown, words: readonly string[]): string | undefined =>
  words.includes(value as string) ? undefined : `${described(value)} is not one of ${words.join(', ')}`

const flagFault = (value: unknown): string | undefined =>
  typeof value === 'boolean' ? undefined : `expected true or false, found ${described(value)}`

/** What is wrong with the value of an event, by its type, beside what its fields say. */
const VALUES: ReadonlyMap<string, (value: unknown) => string | undefined> = new Map([
  ['bypass', flagFault],
  ['silence', (value) => (value === undefined ? undefined : flagFault(value))],
  ['data', (value) => (value === undefined ? 'is missing' : undefined)],
  ['transport', (value) => wordFault(value, ['start', 'stop', 'continue'])],
  ['clock', (value) => wordFault(value, ['tick', 'start', 'stop', 'continue'])],
  ['param', (value) => (['number', 'string', 'boolean'].includes(typeof value) ? undefined : 'is missing')],
])

const eventFaults = (event: unknown, place: string): Fault[] => {
  if (typeof event !== 'object' || event === null)
    return [{ place, message: 'expected an event, an object with t and type' }]
  const record = event as Record<string, unknown>
  const type = record['type'],
    fields = FIELDS.get(type as string)
  if (!fields)
    return [
      {
        place: `${place}.type`,
        message: `${described(type)} is not one of ${[...FIELDS.keys()].join(', ')}`,
      },
    ]
  const faults: Fault[] = []
  const note = (name: string, message: string | undefined): void => {
    if (message) faults.push({ place: `${place}.${name}`, message })
  }
  for (const field of fields) note(field.name, fieldFault(field, own(record, field.name)))
  if (AIMED.has(type as string) && typeof record['target'] !== 'string') note('target', 'is missing')
  note('value', VALUES.get(type as string)?.(record['value']))
  return faults
}

/** Faults of a list of events, wherever they came from. */
export const checkEvents = (events: readonly unknown[], place = 'events'): Fault[] =>
  events.flatMap((event, index) => eventFaults(event, `${place}[${index}]`))

const refused = (place: string, message: string): { readonly ok: false; readonly faults: Fault[] } => ({
  ok: false,
  faults: [{ place, message }],
})

const HEADER: ReadonlyMap<string, (value: unknown) => string | undefined> = new Map([
  [
    'patch',
    (value) => (typeof value === 'string' ? undefined : `expected a text, found ${described(value)}`),
  ],
  [
    'engine',
    (value) => (typeof value === 'string' ? undefined : `expected a text, found ${described(value)}`),
  ],
  ['rate', (value) => numberIn(value, 8000, 192000)],
  ['tempo', (value) => numberIn(value, TEMPO.low, TEMPO.high)],
  ['quality', (value) => wordFault(value, ['live', 'best'])],
  [
    'repeatable',
    (value) => (typeof value === 'boolean' ? undefined : `expected true or false, found ${described(value)}`),
  ],
])

/** Reads an event file with its header. Fields it does not know are kept. */
export const parseEventFile = (text: string): Result<EventFile> => {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    return refused('', 'this is not JSON; an event file is a JSON text')
  }
  const { format, version, events, ...rest } = (value ?? {}) as Record<string, unknown>
  if (format !== 'ypsilon/events') return refused('format', `${described(format)} is not "ypsilon/events"`)
  if (version !== 1)
    return refused('version', `version ${described(version)} is not known; this application reads version 1`)
  if (!Array.isArray(events)) return refused('events', 'expected a list')
  const faults = [...HEADER].flatMap(([name, fault]): Fault[] => {
    const given = own(rest, name)
    const message = given === undefined ? undefined : fault(given)
    return message ? [{ place: name, message }] : []
  })
  append(faults, checkEvents(events))
  return faults.length > 0
    ? { ok: false, faults }
    : { ok: true, value: { header: rest as EventHeader, events: events as PlayerEvent[] }, warnings: [] }
}

/** The events of an event file. */
export const parseEvents = (text: string): Result<readonly PlayerEvent[]> => {
  const file = parseEventFile(text)
  return file.ok ? { ok: true, value: file.value.events, warnings: file.warnings } : file
}

/** An event file's text: one line an event. */
export const eventFileText = ({ header, events }: EventFile): string => {
  const head = JSON.stringify({ format: 'ypsilon/events', version: 1, ...header })
  const lines = events.map((event) => `    ${JSON.stringify(event)}`).join(',\n')
  return `${head.slice(0, -1)},\n  "events": [${lines ? `\n${lines}\n  ` : ''}] }\n`
}

/** Reads `60@0+1.5:0.8 C#3@0.5+1`: NOTE@START+LENGTH[:VELOCITY]. */
export const parsePlay = (text: string): Result<PlayerEvent[]> => {
  const events: PlayerEvent[] = [],
    faults: Fault[] = []
  text
    .trim()
    .split(/\s+/)
    .filter(Boolean)
    .forEach((word, index) => {
      const match = /^([^@]+)@([\d.]+)\+([\d.]+)(?::([\d.]+))?$/.exec(word)
      const note = match ? parseNote(match[1]!) : undefined
      const [start, length, velocity] = [Number(match?.[2]), Number(match?.[3]), Number(match?.[4] ?? 1)]
      if (
        !match ||
        note === undefined ||
        note < 0 ||
        note > 127 ||
        ![start, length, velocity].every(Number.isFinite) ||
        velocity > 1 ||
        start + length > LAST_SECOND
      ) {
        faults.push({
          place: `--play, note ${index + 1}`,
          message: `"${word}" is not NOTE@START+LENGTH[:VELOCITY], such as 60@0+1.5:0.8 or C#3@0.5+1`,
        })
        return
      }
      events.push(
        { t: start, type: 'on', note, velocity, id: index + 1 },
        { t: start + length, type: 'off', note, id: index + 1 },
      )
    })
  return faults.length > 0 ? { ok: false, faults } : { ok: true, value: events, warnings: [] }
}

/** What happens at one time: ends of notes move before the first that begins, all else stays as given. */
const offsFirst = <T extends { readonly event: PlayerEvent }>(list: readonly T[]): readonly T[] => {
  const first = list.findIndex(({ event }) => event.type === 'on')
  if (first < 0) return list
  const later = list.slice(first)
  return [
    ...list.slice(0, first),
    ...later.filter(({ event }) => event.type === 'off'),
    ...later.filter(({ event }) => event.type !== 'off'),
  ]
}

/** In time; at one time offs come before ons, else the given order. Each with the sample it takes effect on. */
export const inOrder = (
  events: readonly PlayerEvent[],
  sampleRate: number,
): { frame: number; event: PlayerEvent }[] => {
  const sorted = events
    .map((event, index) => ({ event, index }))
    .sort((a, b) => a.event.t - b.event.t || a.index - b.index)
  const ordered: { frame: number; event: PlayerEvent }[] = []
  for (let from = 0, to = 0; from < sorted.length; from = to) {
    const { t } = sorted[from]!.event
    while (to < sorted.length && sorted[to]!.event.t === t) to += 1
    const frame = Math.round(t * sampleRate)
    for (const { event } of offsFirst(sorted.slice(from, to))) ordered.push({ frame, event })
  }
  return ordered
}
