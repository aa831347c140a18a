/* eslint max-lines: ["error", 500] -- one format: the shape of the patch file */
import { array, object } from 'yup'
import { between, faultsOf, finite, flag, list, record, text, typeError, word } from './shape.ts'
import type { Fault } from './types.ts'
import { described, MOST_AMOUNT } from './values.ts'

/** Shape of the file. What depends on the catalogue (ids, ports, ranges) is checked in validate.ts. */
const ID = /^[a-z][A-Za-z0-9_]*$/

/** Limits of a patch, groups opened. */
export const MOST_MODULES = 5000
export const MOST_CABLES = 20000
/** What moves parameters, and how many of each there may be. */
const MOVERS = ['macros', 'controllers', 'snapshots'] as const
const MOST_MOVERS = 2000

const moduleSchema = object({
  id: text()
    .required('is missing')
    .matches(
      ID,
      ({ value }) => `${described(value)} is not an id (a small letter, then letters, digits or _)`,
    )
    .max(64, 'is longer than 64 characters'),
  type: text().required('is missing'),
  label: text(),
  params: record(),
  data: record(),
  bypass: flag(),
  x: finite(),
  y: finite(),
  inside: record(),
  face: array().strict().typeError(typeError('a list')),
})
  .strict()
  .typeError(typeError('a module'))

const cableSchema = object({
  id: text().max(64, 'is longer than 64 characters'),
  from: text().required('is missing'),
  to: text().required('is missing'),
  amount: between(-MOST_AMOUNT, MOST_AMOUNT),
  muted: flag(),
  color: text(),
})
  .strict()
  .typeError(typeError('a cable'))

const share = () => finite().min(0, 'is below 0').max(1, 'is above 1')
const bend = () => finite().min(-1, 'is below -1').max(1, 'is above 1')

const macroSchema = object({
  id: text()
    .required('is missing')
    .matches(ID, ({ value }) => `${described(value)} is not an id`),
  name: text().required('is missing'),
  value: share(),
  default: share(),
  step: share(),
  low: finite(),
  high: finite(),
  unit: text(),
  scale: word(['linear', 'log']),
  locked: flag(),
  targets: list(
    object({
      param: text().required('is missing'),
      from: between(-MOST_AMOUNT, MOST_AMOUNT).required('is missing'),
      to: between(-MOST_AMOUNT, MOST_AMOUNT).required('is missing'),
      curve: bend(),
    })
      .strict()
      .typeError(typeError('a target')),
  ),
})
  .strict()
  .typeError(typeError('a macro'))

const controllerSchema = object({
  id: text(),
  target: text().required('is missing'),
  source: object({
    kind: word(['control', 'pressure', 'bend', 'slide', 'note', 'program']).required('is missing'),
    number: between(0, 127).integer('is not a whole number'),
    channel: between(0, 16).integer('is not a whole number'),
    device: text(),
  })
    .strict()
    .default(undefined)
    .typeError(typeError('an object')),
  // The older form.
  controller: between(0, 127).integer('is not a whole number'),
  channel: between(0, 16).integer('is not a whole number'),
  mode: word(['absolute', 'scaled', 'relative']),
  pickup: flag(),
  low: between(-MOST_AMOUNT, MOST_AMOUNT),
  high: between(-MOST_AMOUNT, MOST_AMOUNT),
  curve: bend(),
  encoding: word(['twos', 'offset', 'sign']),
})
  .strict()
  .typeError(typeError('a controller'))

const snapshotSchema = object({
  id: text().required('is missing'),
  name: text(),
  key: text(),
  scope: list(text()),
  params: record(),
  data: record(),
  bypass: record(),
  over: between(0, 3600),
  fire: record(),
})
  .strict()
  .typeError(typeError('a snapshot'))

export const patchSchema = object({
  format: text()
    .required('is missing')
    .oneOf(['ypsilon/patch'], ({ value }) => `${described(value)} is not "ypsilon/patch"`),
  version: finite().required('is missing').integer('is not a whole number').min(1, 'is below 1'),
  app: text(),
  name: text(),
  description: text(),
  tags: array(text()).strict().typeError(typeError('a list')),
  tempo: finite()
    .min(20, ({ value }) => `${value} is below 20 bpm`)
    .max(300, ({ value }) => `${value} is above 300 bpm`),
  seed: finite().integer('is not a whole number'),
  tuning: text(),
  modules: list(moduleSchema).required('is missing').max(MOST_MODULES),
  cables: list(cableSchema).max(MOST_CABLES),
  macros: list(macroSchema),
  controllers: list(controllerSchema),
  snapshots: list(snapshotSchema),
  stage: object({
    items: list(
      object({ id: text().required('is missing'), kind: text().required('is missing') })
        .strict()
        .typeError(typeError('an item')),
    ),
  })
    .strict()
    .default(undefined)
    .typeError(typeError('an object')),
  vary: object({
    seed: finite().integer('is not a whole number'),
    chance: share(),
    spread: share(),
    limits: record(),
  })
    .strict()
    .default(undefined)
    .typeError(typeError('an object')),
  assets: record(),
  view: record(),
})
  .strict()
  .typeError(typeError('a patch'))

const insideSchema = object({ modules: list(moduleSchema).required('is missing'), cables: list(cableSchema) })
  .strict()
  .typeError(typeError('an object with modules and cables'))

/** Kinds of assets, and what their files are named by. */
const assetFaults = (assets: unknown): Fault[] =>
  Object.entries((assets ?? {}) as Record<string, unknown>).flatMap(([id, value]): Fault[] => {
    const place = `assets.${id}`
    if (typeof value !== 'object' || value === null || Array.isArray(value))
      return [{ place, message: `expected an object, found ${described(value)}` }]
    const asset = new Map(Object.entries(value))
    const faults: Fault[] = []
    if (!['audio', 'table', 'tuning'].includes(String(asset.get('kind'))))
      faults.push({
        place: `${place}.kind`,
        message: `${described(asset.get('kind'))} is not one of audio, table, tuning`,
      })
    for (const name of ['file', 'hash', 'keysFile', 'scale', 'keys'])
      if (asset.has(name) && typeof asset.get(name) !== 'string')
        faults.push({
          place: `${place}.${name}`,
          message: `expected a text, found ${described(asset.get(name))}`,
        })
    if (asset.get('kind') !== 'tuning' && !asset.has('file') && !asset.has('hash'))
      faults.push({ place: `${place}.file`, message: 'is missing' })
    return faults
  })

/** Lists and objects in each other: deeper than any patch has a reason for. */
const MOST_NESTING = 200

/** Whether what was read is nested too deeply to be walked; without recursion. */
export const nestingFault = (value: unknown): Fault | undefined => {
  let level: unknown[] = [value]
  for (let depth = 0; level.length > 0; depth += 1) {
    if (depth > MOST_NESTING)
      return { place: '', message: `lists and objects are nested deeper than ${MOST_NESTING}` }
    level = level.flatMap((item) =>
      typeof item === 'object' && item !== null ? (Object.values(item) as unknown[]) : [],
    )
  }
  return undefined
}

/** Groups in groups deeper than this are refused. */
const DEEPEST = 32

/** Faults inside the groups of a list of modules. */
const groupFaults = (modules: unknown, place: string, depth: number): Fault[] =>
  (Array.isArray(modules) ? modules : []).flatMap(
    (module: { inside?: { modules?: unknown } } | null, index): Fault[] => {
      if (module?.inside === undefined || module.inside === null) return []
      const here = `${place}[${index}].inside`
      if (depth > DEEPEST) return [{ place: here, message: `groups are nested deeper than ${DEEPEST}` }]
      const faults = faultsOf(insideSchema, module.inside, here)
      return faults.length > 0 ? faults : groupFaults(module.inside.modules, `${here}.modules`, depth + 1)
    },
  )

const lengthOf = (value: unknown): number => (Array.isArray(value) ? value.length : 0)

/** Faults of sheer size, before anything is looked at closely: groups opened. */
const lengthFaults = (value: unknown): Fault[] => {
  const file = (value ?? {}) as Record<string, unknown>
  let modules = 0,
    cables = 0
  const open = [file]
  for (const inside of open) {
    modules += lengthOf(inside['modules'])
    cables += lengthOf(inside['cables'])
    if (modules > MOST_MODULES || cables > MOST_CABLES) break
    const list = Array.isArray(inside['modules'])
      ? (inside['modules'] as ({ inside?: unknown } | null)[])
      : []
    for (const module of list)
      if (typeof module?.inside === 'object' && module.inside !== null)
        open.push(module.inside as Record<string, unknown>)
  }
  const others = MOVERS.filter((name) => lengthOf(file[name]) > MOST_MOVERS)
  return [
    ...sizeFaults(modules, cables),
    ...others.map((place) => ({ place, message: `holds more than ${MOST_MOVERS}` })),
    ...(lengthOf((file['stage'] as Record<string, unknown> | null | undefined)?.['items']) > MOST_MOVERS
      ? [{ place: 'stage.items', message: `holds more than ${MOST_MOVERS}` }]
      : []),
  ]
}

/** Faults of more modules or cables, groups opened, than a patch may have. */
export const sizeFaults = (modules: number, cables: number): Fault[] => [
  ...(modules > MOST_MODULES
    ? [{ place: 'modules', message: `there are more than ${MOST_MODULES}, groups opened` }]
    : []),
  ...(cables > MOST_CABLES
    ? [{ place: 'cables', message: `there are more than ${MOST_CABLES}, groups opened` }]
    : []),
]

/** Faults of the shape of the file, in file order, groups included. */
export const shapeFaults = (value: unknown): Fault[] => {
  const long = lengthFaults(value)
  if (long.length > 0) return long
  const faults = faultsOf(patchSchema, value, '')
  if (faults.length > 0) return faults
  const { modules, assets } = value as { modules?: unknown; assets?: unknown }
  return [...groupFaults(modules, 'modules', 1), ...assetFaults(assets)]
}
