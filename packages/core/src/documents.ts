import { FAMILIES, PUBLIC_MODULES } from './catalogue.ts'
import { dataKindOf, defaultOf, modulationOf, rangeOf } from './describe/kinds/index.ts'
import type { ModuleDescription } from './describe/types.ts'
import { patchSchema } from './patch/schema.ts'

/** Is there a picture of this module in docs/pictures? */
const hasPicture = (module: ModuleDescription): boolean => module.picture !== 'signal'

/** A module's picture at its defaults, as SVG. */
export const modulePicture = (module: ModuleDescription): string | undefined => {
  const value = (name: string): unknown => module.params.find((param) => param.name === name)?.default
  if (module.picture === 'signal') return undefined
  const picture = module.picture({
    number: (name) => Number(value(name)),
    choice: (name) => String(value(name)),
    data: (name) => module.data?.find((item) => item.name === name)?.default,
  })
  const width = 320,
    height = 120,
    pad = 8,
    x = (a: number): string => (pad + a * (width - 2 * pad)).toFixed(1),
    y = (b: number): string => (height - pad - Math.min(1, Math.max(0, b)) * (height - 2 * pad)).toFixed(1)
  const shapes = picture.curves.flatMap((curve, index) =>
    picture.kind === 'line'
      ? [
          `<polyline points="${curve.points.map(([a, b]) => `${x(a)},${y(b)}`).join(' ')}" fill="none" stroke="${index === 1 && picture.curves.length === 2 ? '#566874' : '#0b6e75'}" stroke-width="1.5"/>`,
        ]
      : curve.points.map(([a, b]) => {
          const w = Math.max(2, Math.min((width - 2 * pad) / curve.points.length - 2, width * 0.16))
          return `<rect x="${(Number(x(a)) - w / 2).toFixed(1)}" y="${y(b)}" width="${w.toFixed(1)}" height="${Math.max(1, height - pad - Number(y(b))).toFixed(1)}" fill="#0b6e75"/>`
        }),
  )
  const marks = (picture.marks ?? []).map(
    ([a, word]) =>
      `<line x1="${x(a)}" x2="${x(a)}" y1="1" y2="${height - 1}" stroke="#c6d1d6" stroke-dasharray="2 3"/><text x="${(Number(x(a)) + 3).toFixed(1)}" y="12" font-size="9" font-family="sans-serif" fill="#566874">${word}</text>`,
  )
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}"><title>${picture.title}</title><rect width="${width}" height="${height}" fill="#ffffff" stroke="#c6d1d6"/>${marks.join('')}${shapes.join('')}</svg>\n`
}

/** Every picture there is, by module type. */
export const modulePictures = (): ReadonlyMap<string, string> =>
  new Map(
    PUBLIC_MODULES.flatMap((module) => {
      const svg = modulePicture(module)
      return svg === undefined ? [] : [[module.type, svg] as const]
    }),
  )

const section = (module: ModuleDescription): string =>
  [
    `### ${module.label} (\`${module.type}\`)`,
    '',
    `${module.help.does}. ${module.help.how}`,
    '',
    `*${module.help.ranges} ${module.help.start}*`,
    '',
    ...(hasPicture(module) ? [`![${module.label}](pictures/${module.type}.svg)`, ''] : []),
    `In: ${module.inputs.map((port) => `\`${port.name}\` (${port.kind}${port.normalled === undefined ? '' : `, unconnected: ${port.normalled}`})`).join(', ') || 'none'}. Out: ${module.outputs.map((port) => `\`${port.name}\` (${port.kind})`).join(', ') || 'none'}.`,
    '',
    ...(module.params.length === 0
      ? []
      : [
          '| parameter | range | default | moved in |',
          '|---|---|---|---|',
          ...module.params.map(
            (param) =>
              `| \`${param.name}\` | ${rangeOf(param)} | ${defaultOf(param)} | ${modulationOf(param)} |`,
          ),
          '',
        ]),
    ...module.params.flatMap((param) => (param.help ? [`\`${param.name}\`: ${param.help}`, ''] : [])),
    ...(module.data && module.data.length > 0
      ? [
          `Data: ${module.data.map((data) => `\`${data.name}\` (${dataKindOf(data).words}${data.length === undefined || dataKindOf(data).isText ? '' : `, up to ${data.length}`})`).join(', ')}.`,
          '',
        ]
      : []),
  ].join('\n')

/** The module reference as Markdown. */
export const moduleReference = (): string =>
  `# Modules\n\nGenerated from the descriptions by \`node scripts/documents.mjs\`. Numbers stand here as they stand in a patch file, each in its field’s own unit; the screen may show them in another (0.3 s as 300 ms, 0.5 as 50 %). The last column is what a cable of amount 1 and a signal of 1 adds.\n\n${FAMILIES.map(
    ({ name, label }) => {
      const modules = PUBLIC_MODULES.filter((module) => module.family === name)
      return modules.length === 0 ? '' : `## ${label}\n\n${modules.map(section).join('\n')}\n`
    },
  ).join('')}`

interface Described {
  readonly type: string
  readonly fields?: Record<string, Described>
  readonly innerType?: Described
  readonly oneOf?: readonly unknown[]
  readonly tests?: readonly { readonly name?: string; readonly params?: Record<string, unknown> }[]
  readonly optional?: boolean
}

/** JSON Schema of one Yup description. */
const schemaOf = (item: Described): Record<string, unknown> => {
  const limits = Object.fromEntries(
    (item.tests ?? []).flatMap(({ name, params }): [string, unknown][] => {
      const number = item.type === 'number',
        list = item.type === 'array'
      if (name === 'min') return [[number ? 'minimum' : list ? 'minItems' : 'minLength', params?.['min']]]
      if (name === 'max') return [[number ? 'maximum' : list ? 'maxItems' : 'maxLength', params?.['max']]]
      if (name === 'matches') return [['pattern', String(params?.['regex']).replace(/^\/|\/[a-z]*$/g, '')]]
      return []
    }),
  )
  if (item.type === 'object') {
    const fields = Object.entries(item.fields ?? {})
    const required = fields.filter(([, field]) => field.optional === false).map(([name]) => name)
    return {
      type: 'object',
      properties: Object.fromEntries(fields.map(([name, field]) => [name, schemaOf(field)])),
      ...(required.length > 0 ? { required } : {}),
    }
  }
  if (item.type === 'array')
    return { type: 'array', items: item.innerType ? schemaOf(item.innerType) : {}, ...limits }
  if (item.type === 'mixed') return { type: 'object' }
  return { type: item.type, ...(item.oneOf && item.oneOf.length > 0 ? { enum: item.oneOf } : {}), ...limits }
}

/** JSON Schema of the patch file, from the schema the application itself checks with. */
export const patchJsonSchema = (): object => ({
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: 'Ypsilon patch',
  ...schemaOf(patchSchema.describe() as unknown as Described),
})
