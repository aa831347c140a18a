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

const lines = (report: SoundReport): string[] => [
  `length: ${report.seconds.toFixed(3)} s, ${report.channels} ${report.channels === 1 ? 'channel' : 'channels'} at ${report.rate} Hz`,
  `peak: ${number(report.peakDb, 'dBFS')}, true peak ${number(report.truePeakDb, 'dBTP')}, effective ${number(report.rmsDb, 'dBFS')}`,
  `loudness: ${number(report.lufs, 'LUFS')}, momentary at most ${number(report.momentaryLufs, 'LUFS')}, short-term at most ${number(report.shortTermLufs, 'LUFS')}, range ${number(report.loudnessRange, 'LU')}`,
  `pitch: ${report.pitchHz === null ? 'none' : `${report.pitchHz.toFixed(2)} Hz, ${noteName(noteOfHz(report.pitchHz))}`}`,
  `decay: ${number(report.decaySeconds, 's', 2)}${report.decayOctaves.length > 0 ? ` (${report.decayOctaves.map(({ hz, seconds }) => `${hz} Hz ${seconds.toFixed(2)} s`).join(', ')})` : ''}`,
  `spectrum: ${report.peaks.length === 0 ? 'no peaks' : report.peaks.map(({ hz, db }) => `${hz.toFixed(1)} Hz ${db.toFixed(1)} dB`).join(', ')}`,
  `echo density: ${report.echoDensity.length === 0 ? 'none' : densityWords(report)}`,
]

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
