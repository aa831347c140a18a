import { analyze, faultText, noteName, noteOfHz, readWav, type SoundReport } from '@ypsilon/core'
import { readArguments } from './arguments.ts'
import { BadInput } from './bad-input.ts'
import { readBytes } from './files.ts'

export const ANALYZE_HELP = `Usage: ./ypsilon analyze F.wav [--json]

Measures a sound: level, true peak (four times oversampled), loudness and its range (EBU R128), pitch, decay time, also
by octave, the highest peaks of its spectrum, and echo density. --json writes one object; null where a sound has none.
`

const number = (x: number | null, unit: string, digits = 1): string =>
  x === null ? 'none' : `${x.toFixed(digits)} ${unit}`

const line = (name: string, ...parts: readonly string[]): string => `${name}: ${parts.join(', ')}`

const lines = (report: SoundReport): string[] => {
  const { seconds, channels, rate, pitchHz, decayOctaves, peaks, echoDensity } = report
  const octaves = decayOctaves.map((octave) => `${octave.hz} Hz ${octave.seconds.toFixed(2)} s`)
  const strongest = peaks.map(({ hz, db }) => `${hz.toFixed(1)} Hz ${db.toFixed(1)} dB`)
  return [
    `length: ${seconds.toFixed(3)} s, ${channels} ${channels === 1 ? 'channel' : 'channels'} at ${rate} Hz`,
    line(
      'peak',
      number(report.peakDb, 'dBFS'),
      `true peak ${number(report.truePeakDb, 'dBTP')}`,
      `effective ${number(report.rmsDb, 'dBFS')}`,
    ),
    line(
      'loudness',
      number(report.lufs, 'LUFS'),
      `momentary at most ${number(report.momentaryLufs, 'LUFS')}`,
      `short-term at most ${number(report.shortTermLufs, 'LUFS')}`,
      `range ${number(report.loudnessRange, 'LU')}`,
    ),
    `pitch: ${pitchHz === null ? 'none' : `${pitchHz.toFixed(2)} Hz, ${noteName(noteOfHz(pitchHz))}`}`,
    `decay: ${number(report.decaySeconds, 's', 2)}${octaves.length > 0 ? ` (${octaves.join(', ')})` : ''}`,
    line('spectrum', ...(strongest.length > 0 ? strongest : ['no peaks'])),
    `echo density: ${echoDensity.length === 0 ? 'none' : densityWords(report)}`,
  ]
}

/** When a tail gets dense, which is what one asks of it. */
const densityWords = ({ echoDensity, echoDensityStep }: SoundReport): string => {
  const at = echoDensity.findIndex((value) => value >= 0.9)
  const last = echoDensity.at(-1)!.toFixed(2)
  return at < 0
    ? `never above 0.9, ${last} at the end`
    : `0.9 after ${Math.round(at * echoDensityStep * 1000)} ms, ${last} at the end`
}

export const analyzeCommand = (args: string[]): void => {
  const { values, names } = readArguments(args, { json: { type: 'boolean' } }, ['F.wav'])
  const file = names[0]!
  const result = readWav(readBytes(file))
  if (!result.ok) throw new BadInput([`${file}: ${faultText(result.fault)}`])
  const report = analyze(result.sound)
  process.stdout.write(
    values['json'] ? `${JSON.stringify(report, null, 2)}\n` : `${lines(report).join('\n')}\n`,
  )
}
