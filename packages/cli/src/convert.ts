import { eventFileText } from '@ypsilon/core'
import { writeMidiFile } from '@ypsilon/core/formats/midi.ts'
import { readArguments } from './arguments.ts'
import { BadInput } from './bad-input.ts'
import { isMidi, loadEventFile, loadMidi, warn } from './events.ts'
import { checkSpace, takeAll, type Target, targetsFor } from './targets.ts'

export const CONVERT_HELP = `Usage: ./ypsilon convert E.events.json F.mid
       ./ypsilon convert F.mid E.events.json

Turns what a player did into a MIDI file, or a MIDI file into an event file. Notes, touch, controls, programs, bends,
tempo and silence go both ways, in MIDI's steps of 1/127. What MIDI cannot say (moves of parameters and macros,
snapshots, blends, lists, bypasses, touch of single notes but pressure) is named and left out.
`

const isMidiName = (file: string): boolean => /\.midi?$/i.test(file)

const writeOut = (target: Target, bytes: Uint8Array): void => {
  try {
    checkSpace([{ target, bytes: bytes.length }])
    target.open()
    target.write(bytes)
    takeAll([target])
  } finally {
    target.drop()
  }
}

export const convertCommand = (args: string[]): void => {
  const { names } = readArguments(args, {}, ['FROM', 'TO'])
  const [from = '', to = ''] = names
  const toMidi = !isMidi(from)
  if (toMidi && !isMidiName(to))
    throw new BadInput([`${to}: an event file becomes a MIDI file; name it F.mid`])
  if (!toMidi && isMidiName(to))
    throw new BadInput([`${to}: a MIDI file becomes an event file; name it E.events.json`])
  const [target] = targetsFor([to], [from])
  if (!toMidi) {
    const text = eventFileText({ header: {}, events: loadMidi(from) })
    writeOut(target!, new TextEncoder().encode(text))
    return
  }
  const { bytes, lost } = writeMidiFile(loadEventFile(from))
  writeOut(target!, bytes)
  if (lost.length > 0) warn(`warning: ${from}: a MIDI file cannot say ${lost.join(', ')}; left out`)
}
