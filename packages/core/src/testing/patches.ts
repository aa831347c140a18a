/** Patches that several tests play. */
import { readdirSync, readFileSync } from 'node:fs'
import { parsePatch } from '../patch/validate.ts'
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

const DEMO = new URL('../../../../demo/', import.meta.url)
const ENDING = '.ypatch.json'

const namesIn = (folder: 'patches' | 'templates'): string[] =>
  readdirSync(new URL(`${folder}/`, DEMO))
    .filter((name) => name.endsWith(ENDING))
    .map((name) => name.slice(0, -ENDING.length))
/** Names of the shipped patches' files, and of those to begin from. */
export const DEMOS: readonly string[] = namesIn('patches')
export const TEMPLATES: readonly string[] = namesIn('templates')

/** A demo, or a template, by its file's name. */
export const demoPatch = (name: string, folder: 'patches' | 'templates' = 'patches'): Patch => {
  const read = parsePatch(readFileSync(new URL(`${folder}/${name}${ENDING}`, DEMO), 'utf8'))
  if (!read.ok) throw new Error(read.faults[0]!.message)
  return read.value
}

/** A saw through a filter, as steady as can be while its note is held; `more` modules and cables besides. */
export const steadyVoice = (
  modules: Parameters<typeof patchOf>[0] = [],
  cables: readonly string[] = [],
): Patch =>
  patchOf(
    [
      ['n', 'notes', { voices: 2, mode: 'poly' }],
      ['o', 'oscillator', {}],
      ['e', 'envelope', { attack: 0.01, sustain: 1, release: 0.2 }],
      ['f', 'filter', { cutoff: 1200 }],
      ['a', 'amplifier', {}],
      ['out', 'output', {}],
      ...modules,
    ],
    [
      'n.pitch > o.pitch',
      'n.gate > e.gate',
      'o.saw > f.in',
      'f.low > a.in',
      'e.env > a.cv',
      'a.out > out.in',
      ...cables,
    ],
  )
