import { isSignalParam, PUBLIC_MODULES, STRUCTURE } from '@ypsilon/core'
import { readArguments } from './arguments.ts'

export const MODULES_HELP = `Usage: ./ypsilon modules [--json]

Lists every module with its inputs, outputs, parameters and data; with --json as an array of
{type, family, label, inputs, outputs, params, data}.
`

const ALL = [...PUBLIC_MODULES, ...STRUCTURE]

export const modulesCommand = (args: string[]): void => {
  const { values } = readArguments(args, { json: { type: 'boolean' } }, [])
  if (values['json']) {
    const list = ALL.map(({ type, family, label, help, inputs, outputs, params, data, shape }) => ({
      type,
      family,
      label,
      help,
      inputs,
      outputs,
      shape: { sides: shape?.sides },
      params: params.map((param) => ({ ...param, modulated: isSignalParam(param) })),
      data: data ?? [],
    }))
    process.stdout.write(`${JSON.stringify(list, null, 2)}\n`)
    return
  }
  for (const { type, label, family, help, inputs, outputs, params } of ALL) {
    process.stdout.write(
      `${type} (${label}, ${family}): ${help.does}\n  in: ${inputs.map((port) => port.name).join(' ') || '–'}   out: ${outputs.map((port) => port.name).join(' ') || '–'}\n  params: ${params.map((param) => param.name).join(' ') || '–'}\n`,
    )
  }
}
