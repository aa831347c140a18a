/** The command line in a folder of its own: files in, files out. */
import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, relative } from 'node:path'
import { readWav, type Sound } from '../../packages/core/src/formats/wav.ts'
import { ROOT } from './browser.ts'

export const PROGRAM = join(ROOT, 'ypsilon')
export const run = (...args: readonly string[]) =>
  spawnSync(process.execPath, [PROGRAM, ...args], { encoding: 'utf8' })

/** Every file of a folder by its path, what is hidden as well. */
export const filesIn = (place: string): string[] =>
  readdirSync(place, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => relative(place, join(entry.parentPath, entry.name)))
    .sort()
/** All bytes of all of them. */
export const hashOf = (place: string): string =>
  filesIn(place)
    .map(
      (name) =>
        `${name} ${createHash('sha256')
          .update(readFileSync(join(place, name)))
          .digest('hex')}`,
    )
    .join('\n')

export interface WorkFolder {
  readonly folder: string
  readonly at: (...names: readonly string[]) => string
  readonly save: (name: string, value: unknown) => string
  readonly wav: (...names: readonly string[]) => Sound
}
export const workFolder = (name: string): WorkFolder => {
  const folder = mkdtempSync(join(tmpdir(), `ypsilon-${name}-`))
  const at = (...names: readonly string[]): string => join(folder, ...names)
  return {
    folder,
    at,
    save: (file, value) => {
      writeFileSync(at(file), JSON.stringify(value))
      return at(file)
    },
    wav: (...names) => {
      const read = readWav(new Uint8Array(readFileSync(at(...names))))
      if (!read.ok) throw new Error(read.fault.message)
      return read.sound
    },
  }
}

/** A steady voice with a little noise. */
export const SLIP_REED = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'Slip Reed',
  seed: 4,
  modules: [
    { id: 'notes', type: 'notes' },
    { id: 'osc', type: 'oscillator' },
    { id: 'noise', type: 'noise' },
    { id: 'filter', type: 'filter', params: { cutoff: 2000 } },
    {
      id: 'env',
      type: 'envelope',
      params: { attack: 0.01, sustain: 0.9, release: 0.2, velocityAmount: 0.7 },
    },
    { id: 'amp', type: 'amplifier' },
    { id: 'out', type: 'output' },
  ],
  cables: [
    { from: 'notes.pitch', to: 'osc.pitch' },
    { from: 'notes.gate', to: 'env.gate' },
    { from: 'notes.velocity', to: 'env.velocity' },
    { from: 'osc.saw', to: 'filter.in' },
    { from: 'noise.pink', to: 'filter.in', amount: 0.002 },
    { from: 'filter.low', to: 'amp.in' },
    { from: 'env.env', to: 'amp.cv' },
    { from: 'amp.out', to: 'out.in' },
  ],
}
