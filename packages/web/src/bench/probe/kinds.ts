/** What a slot can show, by name. */
import type { ProbeKind } from '@ypsilon/core/probe/settings.ts'

export const KIND_LABELS: Readonly<Record<ProbeKind, string>> = {
  scope: 'Scope',
  spectrum: 'Spectrum',
  tuner: 'Tuner',
  level: 'Level',
  stereo: 'Stereo',
  spectrogram: 'Spectrogram',
  decay: 'Decay',
  density: 'Echo density',
  impulse: 'Impulse',
  magnitude: 'Magnitude',
  phase: 'Phase',
  delay: 'Group delay',
}
export const KINDS = Object.keys(KIND_LABELS) as readonly ProbeKind[]
/** Kinds that say nothing of a signal alone: they are measured along a path from the first. */
export const PATH_KINDS: ReadonlySet<ProbeKind> = new Set(['impulse', 'magnitude', 'phase', 'delay'])
