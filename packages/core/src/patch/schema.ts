import { array, boolean, mixed, number, object, string, type Schema, ValidationError } from 'yup'
import type { Fault } from './types.ts'

/** Shape of the file. What depends on the catalogue (ids, ports, ranges) is checked in validate.ts. */
const ID = /^[a-z][A-Za-z0-9_]*$/

const described = (value: unknown): string => {
  if (value === undefined) return 'nothing'
  if (Array.isArray(value)) return 'a list'
  if (value === null) return 'null'
  if (typeof value === 'object') return 'an object'
  const text = JSON.stringify(value) ?? String(value)
  return text.length > 40 ? `${text.slice(0, 37)}…` : text
}

const typeError =
  (what: string) =>
  ({ value }: { value?: unknown }): string =>
    `expected ${what}, found ${described(value)}`

const text = () => string().strict().typeError(typeError('a text'))
const finite = () =>
  number()
    .strict()
    .typeError(typeError('a number'))
    .test('finite', 'is not a finite number', (value) => value === undefined || Number.isFinite(value))
const flag = () => boolean().strict().typeError(typeError('true or false'))
const record = () =>
  mixed().test(
    'record',
    ({ value }) => `expected an object, found ${described(value)}`,
    (value) => value === undefined || (typeof value === 'object' && value !== null && !Array.isArray(value)),
  )
const list = <T extends Schema>(item: T) =>
  array()
    .of(item as Schema)
    .strict()
    .typeError(typeError('a list'))

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
  amount: finite(),
  muted: flag(),
  color: text(),
})
  .strict()
  .typeError(typeError('a cable'))

const macroSchema = object({
  id: text()
    .required('is missing')
    .matches(ID, ({ value }) => `${described(value)} is not an id`),
  name: text().required('is missing'),
  value: finite().min(0, 'is below 0').max(1, 'is above 1'),
  step: finite(),
  targets: list(
    object({
      param: text().required('is missing'),
      from: finite().required('is missing'),
      to: finite().required('is missing'),
      curve: finite().min(-1, 'is below -1').max(1, 'is above 1'),
    })
      .strict()
      .typeError(typeError('a target')),
  ),
})
  .strict()
  .typeError(typeError('a macro'))

const controllerSchema = object({
  target: text().required('is missing'),
  controller: finite(),
  channel: finite(),
  low: finite(),
  high: finite(),
})
  .strict()
  .typeError(typeError('a controller'))

const snapshotSchema = object({
  id: text().required('is missing'),
  name: text(),
  key: text(),
  params: record(),
  data: record(),
  bypass: record(),
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
  modules: list(moduleSchema).required('is missing').max(5000, 'holds more than 5,000 modules'),
  cables: list(cableSchema).max(20000, 'holds more than 20,000 cables'),
  macros: list(macroSchema),
  controllers: list(controllerSchema),
  snapshots: list(snapshotSchema),
  assets: record(),
  view: record(),
})
  .strict()
  .typeError(typeError('a patch'))

const insideSchema = object({ modules: list(moduleSchema).required('is missing'), cables: list(cableSchema) })
  .strict()
  .typeError(typeError('an object with modules and cables'))

const faultsOf = (schema: Schema, value: unknown, place: string): Fault[] => {
  try {
    schema.validateSync(value, { abortEarly: false, strict: true })
    return []
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error
    const inner = error.inner.length > 0 ? error.inner : [error]
    return inner.map((fault) => ({
      place: [place, fault.path ?? ''].filter(Boolean).join('.'),
      message: String(fault.errors[0]),
    }))
  }
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

/** Faults of the shape of the file, in file order, groups included. */
export const shapeFaults = (value: unknown): Fault[] => {
  const faults = faultsOf(patchSchema, value, '')
  return faults.length > 0 ? faults : groupFaults((value as { modules?: unknown }).modules, 'modules', 1)
}
