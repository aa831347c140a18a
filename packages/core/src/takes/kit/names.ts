/** Names of a kit's files: a pattern with places for what tells them apart. */
import { oneLine } from '../../patch/types.ts'
import { append } from '../../units/append.ts'
import { described } from '../../units/described.ts'
import { noteName } from '../../units/units.ts'

/** What a name may say. */
export interface NameParts {
  readonly patch: string
  readonly note: number
  /** 1…127. */
  readonly velocity: number
  /** From 1 on. */
  readonly take: number
  readonly variation: number
}

export interface NameCounts {
  readonly notes: number
  readonly velocities: number
  readonly takes: number
  readonly variations: number
}

const LONGEST = 200
/** Names that one system or another takes for a device. */
const DEVICES = /^(con|prn|aux|nul|com\d|lpt\d)$/i

/** A text as a part of a file's name that every system takes: letters, digits and `_ . + -`. */
export const fileWord = (text: string): string => {
  const plain = oneLine(text)
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .replace(/[^A-Za-z0-9_.+-]+/g, '_')
    .replace(/^[_.]+|[_.]+$/g, '')
    .slice(0, 80)
  return plain === '' || DEVICES.test(plain) ? `patch${plain === '' ? '' : `_${plain}`}` : plain
}

const PARTS = new Map<string, (parts: NameParts) => string>([
  ['patch', ({ patch }) => fileWord(patch)],
  ['note', ({ note }) => String(note)],
  ['key', ({ note }) => noteName(note).replace('#', 's').replace('−', '-')],
  ['velocity', ({ velocity }) => String(velocity)],
  ['take', ({ take }) => String(take)],
  ['variation', ({ variation }) => String(variation)],
])
const PLACE = /\{([^{}]*)\}/g

/** The name of one file, without its ending. */
export const nameOf = (pattern: string, parts: NameParts): string =>
  pattern.replace(PLACE, (whole, name: string) => PARTS.get(name)?.(parts) ?? whole)

/** A pattern that says whatever there is more than one of. */
export const standardName = ({ velocities, takes, variations }: Omit<NameCounts, 'notes'>): string =>
  [
    '{patch}',
    ...(variations > 1 ? ['{variation}'] : []),
    '{note}',
    ...(velocities > 1 ? ['{velocity}'] : []),
    ...(takes > 1 ? ['{take}'] : []),
  ].join('-')

const pathFaults = (pattern: string): string[] => {
  const parts = pattern.split('/')
  if (pattern.includes('\\') || /[\u0000-\u001f<>:"|?*#]/.test(pattern))
    return ['holds what no file name may hold: control characters or one of \\ < > : " | ? * #']
  if (parts.some((part) => part === '' || part === '.' || part === '..'))
    return [`${described(pattern)} does not stay in the kit's folder`]
  if (parts.some((part) => /^[ .]|[ .]$/.test(part)))
    return ['a part of it begins or ends with a dot or a space, which some systems drop']
  return parts.some((part) => DEVICES.test(part)) ? ['some systems take this name for a device'] : []
}

/** What is wrong with a pattern for so many of everything, as sentences' ends. */
export const nameFaults = (pattern: string, counts: NameCounts): string[] => {
  const used = new Set([...pattern.matchAll(PLACE)].map(([, name]) => name!))
  const unknown = [...used].filter((name) => !PARTS.has(name))
  const faults = unknown.map(
    (name) => `{${name}} is not known; there are ${[...PARTS.keys()].map((part) => `{${part}}`).join(' ')}`,
  )
  const needs: readonly (readonly [count: number, what: string, names: readonly string[]])[] = [
    [counts.notes, 'notes', ['note', 'key']],
    [counts.velocities, 'velocities', ['velocity']],
    [counts.takes, 'takes', ['take']],
    [counts.variations, 'variations', ['variation']],
  ]
  for (const [count, what, names] of needs)
    if (count > 1 && !names.some((name) => used.has(name)))
      faults.push(
        `{${names[0]}} is missing: there are ${count} ${what}, and one file would be written over by the next`,
      )
  // What stands between the places; those give nothing that a name may not hold.
  const plain = pattern.replace(PLACE, 'x')
  if (/[{}]/.test(plain)) faults.push('a brace has no other')
  if (pattern.length > LONGEST) faults.push(`is longer than ${LONGEST} characters`)
  if (plain.trim() === '') faults.push('is empty')
  else append(faults, pathFaults(plain))
  return faults
}
