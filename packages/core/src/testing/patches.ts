/** Patches that several tests play. */
import type { Patch } from '../patch/types.ts'
import { patchOf } from './bench.ts'

/** A voice of two, a drone and an echo, one of everything that events may touch. */
export const playedVoice = (more: object = {}): Patch =>
  patchOf(
    [
      ['notes', 'notes', { voices: 2, mode: 'poly', bendRange: 12 }],
      ['osc', 'oscillator'],
      ['env', 'envelope', { attack: 0.005, release: 2 }],
      ['amp', 'amplifier'],
      ['drone', 'oscillator', { tracking: false, frequency: 100 }],
      ['sum', 'mix', { amount2: 0 }],
      ['echo', 'delayline', { time: 80, feedback: 0.9 }],
      ['out', 'output', { level: -12 }],
    ],
    [
      'notes.pitch > osc.pitch',
      'notes.gate > env.gate',
      'osc.sine > amp.in',
      'env.env > amp.cv',
      'amp.out > sum.in1',
      'drone.sine > sum.in2',
      'sum.out > out.in',
      'sum.out > echo.in * 0.2',
      'echo.out > out.in',
    ],
    more,
  )

/** A sine into a filter, a drive and the output; one of everything a recall may touch. */
export const recalledVoice = (snapshots: object[], more: object = {}): Patch =>
  patchOf(
    [
      ['osc', 'oscillator', { tracking: false, frequency: 400 }],
      ['filter', 'filter', { cutoff: 2000 }],
      ['drive', 'drive', { gain: 12 }],
      ['amp', 'amplifier'],
      ['out', 'output', { level: -12 }],
    ],
    ['osc.sine > filter.in', 'filter.low > drive.in', 'loud: drive.out > amp.in', 'amp.out > out.in'],
    { snapshots, ...more },
  )
