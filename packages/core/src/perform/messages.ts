/** Player events that are messages of an instrument: what controls hear of them, and what their moves are as events. */
import type { EngineEvent } from '../engine/runtime.ts'
import type { PlayerEvent } from '../notes/events.ts'
import type { ParamValue } from '../patch/types.ts'
import { CONTROL_SECONDS, type Message } from './controllers.ts'
import type { Untimed } from './recorder.ts'

/** Events that are messages of an instrument: controls may map them. */
export type MessageEvent = Extract<
  PlayerEvent,
  { readonly type: 'on' | 'off' | 'pressure' | 'slide' | 'bend' | 'control' | 'program' }
>
const MESSAGES: ReadonlySet<string> = new Set([
  'on',
  'off',
  'pressure',
  'slide',
  'bend',
  'control',
  'program',
])
export const isMessage = (event: PlayerEvent): event is MessageEvent => MESSAGES.has(event.type)

/** What a control did to a target, as an event of its own. */
export const moveEvent = (target: string, value: ParamValue): Untimed =>
  target.startsWith('macro:')
    ? { type: 'macro', target: target.slice(6), value: Number(value), over: CONTROL_SECONDS }
    : { type: 'param', target, value, over: CONTROL_SECONDS }

/** What an event says to controls; touch of single notes is no control's. */
export const messageOf = (event: PlayerEvent, device: string | undefined): Message | undefined => {
  const from = {
    ...('channel' in event && event.channel !== undefined ? { channel: event.channel } : {}),
    ...(device === undefined ? {} : { device }),
  }
  switch (event.type) {
    case 'on':
      return { kind: 'note', number: event.note, value: event.velocity ?? 1, ...from }
    case 'off':
      return { kind: 'note', number: event.note, value: 0, ...from }
    case 'control':
      return { kind: 'control', number: event.controller, value: event.value, ...from }
    case 'program':
      return { kind: 'program', number: event.program, value: 1, ...from }
    case 'pressure':
    case 'slide':
    case 'bend':
      return event.note === undefined ? { kind: event.type, value: event.value, ...from } : undefined
    default:
      return undefined
  }
}

/** What is for time and for everything at once. */
type TimeEvent = Extract<PlayerEvent, { readonly type: 'tempo' | 'transport' | 'clock' | 'silence' }>

export const timeEvent = (event: TimeEvent): EngineEvent => {
  switch (event.type) {
    case 'tempo':
      return { type: 'tempo', bpm: event.value }
    case 'transport':
      return { type: 'transport', value: event.value }
    case 'clock':
      return { type: 'clock', value: event.value }
    case 'silence':
      return { type: event.value === false ? 'resume' : 'silence' }
  }
}

/** What is for the notes and for time: nothing holds it up. */
export const NEVER_WAITS: ReadonlySet<string> = new Set([
  'on',
  'off',
  'pressure',
  'slide',
  'bend',
  'tempo',
  'transport',
  'clock',
  'silence',
])
