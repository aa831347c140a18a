import { PUBLIC_MODULES } from './catalogue.ts'
import { isSignalParam } from './describe/slots.ts'
import type { ModuleDescription, ParamDescription } from './describe/types.ts'
import { patchSchema } from './patch/schema.ts'
import { printNumber } from './units/units.ts'

const FAMILIES: readonly (readonly [string, string])[] = [
  ['playing', 'Playing and time'], ['sources', 'Sources'], ['filters', 'Filters'], ['level', 'Level and waveshape'], ['modulators', 'Envelopes and modulators'], ['routing', 'Maths and routing'], ['space', 'Delay and space'], ['looking', 'Looking'],
]

const rangeOf = (param: ParamDescription): string => {
  if (param.kind === 'number') return `${printNumber(param, param.min)} … ${printNumber(param, param.max)}${param.log ? ', logarithmic' : ''}`
  if (param.kind === 'choice') return param.choices.join(', ')
  return param.kind === 'switch' ? 'on, off' : 'a name'
}

const modulationOf = (param: ParamDescription): string => {
  if (!isSignalParam(param)) return 'no cable'
  if (param.kind === 'switch') return 'on above 0.5'
  if (param.kind !== 'number') return ''
  return param.log || param.time ? 'octaves' : param.unit === '%' ? '0…1' : param.unit || 'its own number'
}

const section = (module: ModuleDescription): string => [
  `### ${module.label} (\`${module.type}\`)`, '', `${module.help.does}. ${module.help.how}`, '', `*${module.help.ranges} ${module.help.start}*`, '',
  `In: ${module.inputs.map((port) => `\`${port.name}\` (${port.kind}${port.normalled === undefined ? '' : `, unconnected: ${port.normalled}`})`).join(', ') || 'none'}. Out: ${module.outputs.map((port) => `\`${port.name}\` (${port.kind})`).join(', ') || 'none'}.`, '',
  ...(module.params.length === 0 ? [] : ['| parameter | range | default | moved in |', '|---|---|---|---|', ...module.params.map((param) => `| \`${param.name}\` | ${rangeOf(param)} | ${param.kind === 'number' ? printNumber(param, param.default) : String(param.default)} | ${modulationOf(param)} |`), '']),
].join('\n')

/** The module reference as Markdown. */
export const moduleReference = (): string => `# Modules\n\nGenerated from the descriptions by \`node scripts/documents.mjs\`.\n\n${FAMILIES.map(([family, title]) => {
  const modules = PUBLIC_MODULES.filter((module) => module.family === family)
  return modules.length === 0 ? '' : `## ${title}\n\n${modules.map(section).join('\n')}\n`
}).join('')}`

interface Described { readonly type: string; readonly fields?: Record<string, Described>; readonly innerType?: Described; readonly oneOf?: readonly unknown[]; readonly tests?: readonly { readonly name?: string; readonly params?: Record<string, unknown> }[]; readonly optional?: boolean }

/** JSON Schema of one Yup description. */
const schemaOf = (item: Described): Record<string, unknown> => {
  const limits = Object.fromEntries((item.tests ?? []).flatMap(({ name, params }): [string, unknown][] => {
    const number = item.type === 'number', list = item.type === 'array'
    if (name === 'min') return [[number ? 'minimum' : list ? 'minItems' : 'minLength', params?.['min']]]
    if (name === 'max') return [[number ? 'maximum' : list ? 'maxItems' : 'maxLength', params?.['max']]]
    if (name === 'matches') return [['pattern', String(params?.['regex']).replace(/^\/|\/[a-z]*$/g, '')]]
    return []
  }))
  if (item.type === 'object') {
    const fields = Object.entries(item.fields ?? {})
    const required = fields.filter(([, field]) => field.optional === false).map(([name]) => name)
    return { type: 'object', properties: Object.fromEntries(fields.map(([name, field]) => [name, schemaOf(field)])), ...(required.length > 0 ? { required } : {}) }
  }
  if (item.type === 'array') return { type: 'array', items: item.innerType ? schemaOf(item.innerType) : {}, ...limits }
  if (item.type === 'mixed') return { type: 'object' }
  return { type: item.type, ...(item.oneOf && item.oneOf.length > 0 ? { enum: item.oneOf } : {}), ...limits }
}

/** JSON Schema of the patch file, from the schema the application itself checks with. */
export const patchJsonSchema = (): object => ({ $schema: 'https://json-schema.org/draft/2020-12/schema', title: 'Ypsilon patch', ...schemaOf(patchSchema.describe() as unknown as Described) })
