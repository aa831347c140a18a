import type { Fault, Result } from '../patch/types.ts'
import { parseNote } from '../units/units.ts'

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

type Field = readonly [name: string, low: number, high: number, required: boolean]
const T: Field = ['t', 0, 1e7, true]
const NOTE: Field = ['note', 0, 127, true]
const FIELDS: Readonly<Record<string, readonly Field[]>> = {
  on: [T, NOTE, ['velocity', 0, 1, false], ['id', -1e15, 1e15, false], ['channel', 0, 16, false]],
  off: [T, NOTE, ['velocity', 0, 1, false], ['id', -1e15, 1e15, false], ['channel', 0, 16, false]],
  pressure: [T, ['note', 0, 127, false], ['value', 0, 1, true], ['channel', 0, 16, false]],
  slide: [T, ['note', 0, 127, false], ['value', 0, 1, true], ['channel', 0, 16, false]],
  bend: [T, ['note', 0, 127, false], ['value', -1, 1, true], ['channel', 0, 16, false]],
  control: [T, ['controller', 0, 127, true], ['value', 0, 1, true], ['channel', 0, 16, false]],
  param: [T],
  macro: [T, ['value', 0, 1, true]],
  snapshot: [T, ['over', 0, 3600, false]],
  transport: [T],
  clock: [T],
}

const eventFaults = (event: unknown, place: string): Fault[] => {
  if (typeof event !== 'object' || event === null)
    return [{ place, message: 'expected an event, an object with t and type' }]
  const record = event as Record<string, unknown>
  const kind = record['type']
  const fields = typeof kind === 'string' && Object.hasOwn(FIELDS, kind) ? FIELDS[kind] : undefined
  if (!fields)
    return [
      {
        place: `${place}.type`,
        message: `${JSON.stringify(record['type'])} is not one of ${Object.keys(FIELDS).join(', ')}`,
      },
    ]
  const faults: Fault[] = []
  for (const [name, low, high, required] of fields) {
    const value = record[name]
    if (value === undefined) {
      if (required) faults.push({ place: `${place}.${name}`, message: 'is missing' })
    } else if (typeof value !== 'number' || !Number.isFinite(value))
      faults.push({ place: `${place}.${name}`, message: `expected a number, found ${JSON.stringify(value)}` })
    else if (value < low || value > high)
      faults.push({ place: `${place}.${name}`, message: `${value} is outside ${low}…${high}` })
  }
  const type = record['type']
  if ((type === 'param' || type === 'macro' || type === 'snapshot') && typeof record['target'] !== 'string')
    faults.push({ place: `${place}.target`, message: 'is missing' })
  if (type === 'transport' && !['start', 'stop', 'continue'].includes(record['value'] as string))
    faults.push({ place: `${place}.value`, message: 'is not one of start, stop, continue' })
  if (type === 'clock' && !['tick', 'start', 'stop', 'continue'].includes(record['value'] as string))
    faults.push({ place: `${place}.value`, message: 'is not one of tick, start, stop, continue' })
  if (type === 'param' && !['number', 'string', 'boolean'].includes(typeof record['value']))
    faults.push({ place: `${place}.value`, message: 'is missing' })
  return faults
}

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
      faults: [{ place: 'format', message: `${JSON.stringify(file.format)} is not "ypsilon/events"` }],
    }
  if (file.version !== 1)
    return {
      ok: false,
      faults: [
        {
          place: 'version',
          message: `version ${JSON.stringify(file.version)} is not known; this application reads version 1`,
        },
      ],
    }
  if (!Array.isArray(file.events))
    return { ok: false, faults: [{ place: 'events', message: 'expected a list' }] }
  const faults = file.events.flatMap((event, index) => eventFaults(event, `events[${index}]`))
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
        velocity > 1
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
