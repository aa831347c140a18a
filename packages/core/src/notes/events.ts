import type { Fault, Result } from '../patch/types.ts'
import { described, numberIn } from '../patch/values.ts'
import { parseNote } from '../units/units.ts'
import { own } from '../units/own.ts'

/** What a player did, as in the event file. Times in seconds. */
export type PlayerEvent =
  | {
      readonly t: number
      readonly type: 'on'
      readonly note: number
      readonly velocity?: number
      readonly id?: number
      readonly channel?: number
    }
  | {
      readonly t: number
      readonly type: 'off'
      readonly note: number
      readonly velocity?: number
      readonly id?: number
      readonly channel?: number
    }
  | {
      readonly t: number
      readonly type: 'pressure' | 'slide' | 'bend'
      readonly value: number
      readonly note?: number
      readonly channel?: number
    }
  | {
      readonly t: number
      readonly type: 'control'
      readonly controller: number
      readonly value: number
      readonly channel?: number
    }
  | {
      readonly t: number
      readonly type: 'param'
      readonly target: string
      readonly value: number | string | boolean
    }
  | { readonly t: number; readonly type: 'macro'; readonly target: string; readonly value: number }
  | { readonly t: number; readonly type: 'snapshot'; readonly target: string; readonly over?: number }
  | { readonly t: number; readonly type: 'transport'; readonly value: string }
  | { readonly t: number; readonly type: 'clock'; readonly value: 'tick' | 'start' | 'stop' | 'continue' }

interface Field {
  readonly name: string
  readonly low: number
  readonly high: number
  readonly required?: true
  readonly whole?: true
}
/** Later than this nothing happens: 115 days. */
const LAST_SECOND = 1e7
const T: Field = { name: 't', low: 0, high: LAST_SECOND, required: true }
const NOTE: Field = { name: 'note', low: 0, high: 127 }
const CHANNEL: Field = { name: 'channel', low: 0, high: 16, whole: true }
const VALUE: Field = { name: 'value', low: 0, high: 1, required: true }
const VELOCITY: Field = { name: 'velocity', low: 0, high: 1 }
const ID: Field = { name: 'id', low: -(2 ** 53), high: 2 ** 53, whole: true }
const FIELDS = new Map<string, readonly Field[]>([
  ['on', [T, { ...NOTE, required: true }, VELOCITY, ID, CHANNEL]],
  ['off', [T, { ...NOTE, required: true }, VELOCITY, ID, CHANNEL]],
  ['pressure', [T, NOTE, VALUE, CHANNEL]],
  ['slide', [T, NOTE, VALUE, CHANNEL]],
  ['bend', [T, NOTE, { ...VALUE, low: -1 }, CHANNEL]],
  ['control', [T, { name: 'controller', low: 0, high: 127, required: true, whole: true }, VALUE, CHANNEL]],
  ['param', [T]],
  ['macro', [T, VALUE]],
  ['snapshot', [T, { name: 'over', low: 0, high: 3600 }]],
  ['transport', [T]],
  ['clock', [T]],
])

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
  if ((type === 'param' || type === 'macro' || type === 'snapshot') && typeof record['target'] !== 'string')
    note('target', 'is missing')
  if (type === 'transport') note('value', wordFault(record['value'], ['start', 'stop', 'continue']))
  if (type === 'clock') note('value', wordFault(record['value'], ['tick', 'start', 'stop', 'continue']))
  if (type === 'param' && !['number', 'string', 'boolean'].includes(typeof record['value']))
    note('value', 'is missing')
  return faults
}

/** Faults of a list of events, wherever they came from. */
export const checkEvents = (events: readonly unknown[], place = 'events'): Fault[] =>
  events.flatMap((event, index) => eventFaults(event, `${place}[${index}]`))

/** Reads an event file. */
export const parseEvents = (text: string): Result<PlayerEvent[]> => {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    return { ok: false, faults: [{ place: '', message: 'this is not JSON; an event file is a JSON text' }] }
  }
  const file = (value ?? {}) as { format?: unknown; version?: unknown; events?: unknown }
  if (file.format !== 'ypsilon/events')
    return {
      ok: false,
      faults: [{ place: 'format', message: `${described(file.format)} is not "ypsilon/events"` }],
    }
  if (file.version !== 1)
    return {
      ok: false,
      faults: [
        {
          place: 'version',
          message: `version ${described(file.version)} is not known; this application reads version 1`,
        },
      ],
    }
  if (!Array.isArray(file.events))
    return { ok: false, faults: [{ place: 'events', message: 'expected a list' }] }
  const faults = checkEvents(file.events)
  return faults.length > 0
    ? { ok: false, faults }
    : { ok: true, value: file.events as PlayerEvent[], warnings: [] }
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

/** In time; at one sample offs come before ons, else the given order. */
export const inOrder = (
  events: readonly PlayerEvent[],
  sampleRate: number,
): { frame: number; event: PlayerEvent }[] =>
  events
    .map((event, index) => ({ frame: Math.round(event.t * sampleRate), event, index }))
    .sort(
      (a, b) =>
        a.frame - b.frame ||
        Number(b.event.type === 'off') - Number(a.event.type === 'off') ||
        a.index - b.index,
    )
