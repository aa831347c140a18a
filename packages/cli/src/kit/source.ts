/** What a kit is made from: its description, its patch and the patches of its chain, read from files. */
import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { dirname, resolve } from 'node:path'
import { append, APP_VERSION, faultText, own } from '@ypsilon/core'
import { type KitDescription, parseKit } from '@ypsilon/core/takes/kit/description.ts'
import type { StepPatch } from '@ypsilon/core/takes/step.ts'
import { BadInput } from '../bad-input.ts'
import { warn } from '../events.ts'
import { kernelsFile, type LoadedPatch, loadPatch, readBytes } from '../files.ts'

/** Plain data that every worker gets. */
export interface KitMaterial {
  readonly kit: KitDescription
  readonly source: StepPatch
  /** Patches of its chain by the names they have there. */
  readonly others: ReadonlyMap<string, StepPatch>
}

export interface LoadedKit extends KitMaterial {
  /** Everything that was read: none of it may be written over. */
  readonly files: readonly string[]
}

const MOST_DESCRIPTION = 2 ** 20

type Fields = Readonly<Record<string, unknown>>

/** A kit's description; undefined where the file is something else. */
const descriptionIn = (file: string): Fields | undefined => {
  if (!/\.json$/i.test(file)) return undefined
  let value: unknown
  try {
    value = JSON.parse(new TextDecoder().decode(readBytes(file, 16 * MOST_DESCRIPTION)))
  } catch (error) {
    if (error instanceof BadInput) throw error
    // The patch's reader says what is wrong with it.
    return undefined
  }
  const isObject = typeof value === 'object' && value !== null && !Array.isArray(value)
  return isObject && own(value as Fields, 'format') === 'ypsilon/kit' ? (value as Fields) : undefined
}

const loaded = (file: string): LoadedPatch => {
  const patch = loadPatch(file)
  for (const warning of patch.warnings) warn(`warning: ${file}: ${warning}`)
  return patch
}

/** Patches that the steps of a chain name, by those names. */
const othersOf = (
  kit: KitDescription,
  folder: string,
): { readonly others: Map<string, StepPatch>; readonly files: string[] } => {
  const others = new Map<string, StepPatch>(),
    files: string[] = []
  for (const step of kit.chain) {
    const name = own(step, 'patch')
    if (step?.kind !== 'patch' || step.on === false || typeof name !== 'string' || others.has(name)) continue
    const other = loaded(resolve(folder, name))
    others.set(name, { patch: other.patch, assets: other.assets })
    append(files, other.files)
  }
  return { others, files }
}

/** A kit from a description or from a patch alone; `flags` come before what the description says. */
export const loadKit = (file: string, flags: Fields): LoadedKit => {
  const found = descriptionIn(file)
  const fields = { format: 'ypsilon/kit', version: 1, ...(found ?? { patch: file }), ...flags }
  const parsed = parseKit(fields)
  const place = (at: string): string => {
    const first = /^[A-Za-z]*/.exec(at)![0]
    return own(flags, first) === undefined ? `${file}: ${at}` : `--${at}`
  }
  if (!parsed.ok)
    throw new BadInput(parsed.faults.map((fault) => faultText({ ...fault, place: place(fault.place) })))
  for (const fault of parsed.warnings) warn(`warning: ${faultText({ ...fault, place: place(fault.place) })}`)
  const kit = parsed.value,
    folder = found ? dirname(file) : ''
  const patch = loaded(found ? resolve(folder, kit.patch) : file),
    { others, files } = othersOf(kit, folder)
  return {
    kit,
    source: { patch: patch.patch, assets: patch.assets },
    others,
    files: [file, ...patch.files, ...files],
  }
}

/** What makes the sound of a kit, as one number in hexadecimal: with another one nothing of it can be gone on with. */
export const fingerprint = ({ kit, source, others }: KitMaterial): string => {
  const hash = createHash('sha256')
  // How its files are put together is no part of their sound.
  hash.update(JSON.stringify([APP_VERSION, { ...kit, sfz: false, zip: false, patch: '' }]))
  hash.update(readFileSync(kernelsFile()))
  for (const [name, { patch, assets }] of [['', source] as const, ...others]) {
    hash.update(JSON.stringify([name, patch]))
    for (const [id, { rate, channels }] of assets) {
      hash.update(JSON.stringify([id, rate, channels.length]))
      for (const channel of channels)
        hash.update(new Uint8Array(channel.buffer, channel.byteOffset, channel.byteLength))
    }
  }
  return hash.digest('hex')
}
