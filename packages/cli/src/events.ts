import { type EventFile, faultText, oneLine, parseEventFile, type PlayerEvent } from '@ypsilon/core'
import { readMidi } from '@ypsilon/core/formats/midi.ts'
import { BadInput } from './bad-input.ts'
import { readBytes } from './files.ts'

/** Largest event and MIDI files. */
const MOST_EVENTS = 256 * 2 ** 20

export const warn = (text: string): void => {
  process.stderr.write(`${oneLine(`ypsilon: ${text}`)}\n`)
}

/** Reads an event file, or stops with its faults. */
export const loadEventFile = (file: string): EventFile => {
  const result = parseEventFile(new TextDecoder().decode(readBytes(file, MOST_EVENTS)))
  if (!result.ok) throw new BadInput(result.faults.map((fault) => `${file}: ${faultText(fault)}`))
  return result.value
}

/** Reads a MIDI file, or stops with its faults; warnings are said. */
export const loadMidi = (file: string): readonly PlayerEvent[] => {
  const result = readMidi(readBytes(file, MOST_EVENTS))
  if (!result.ok) throw new BadInput(result.faults.map((fault) => `${file}: ${faultText(fault)}`))
  for (const fault of result.warnings) warn(`warning: ${file}: ${faultText(fault)}`)
  return result.value
}

const MIDI_HEAD = 'MThd'
/** Is it a MIDI file, by its first bytes? */
export const isMidi = (file: string): boolean =>
  new TextDecoder('latin1').decode(readBytes(file, MOST_EVENTS).subarray(0, 4)) === MIDI_HEAD
