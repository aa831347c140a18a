import { oneLine } from '@ypsilon/core'
import { ANALYZE_HELP, analyzeCommand } from './analyze.ts'
import { BadInput } from './bad-input.ts'
import { checkCommand, CHECK_HELP } from './check.ts'
import { convertCommand, CONVERT_HELP } from './convert.ts'
import { KIT_HELP, kitCommand } from './kit/command.ts'
import { MODULES_HELP, modulesCommand } from './modules.ts'
import { RENDER_HELP, renderCommand } from './render.ts'
import { SPEED_HELP, speedCommand } from './speed.ts'
import { VARY_HELP, varyCommand } from './vary/command.ts'

const HELP = `Usage: ./ypsilon COMMAND …

  render PATCH --out FILE   renders a patch to a WAV file
  check PATCH               validates a patch and says what a user would want to know
  analyze F.wav             measures a sound
  kit PATCH --out DIR       renders notes, velocities and takes as a kit of files
  vary PATCH --count N      makes variations of a patch within its limits
  convert FROM TO           turns event files into MIDI files and back
  modules                   lists every module with its ports and parameters
  speed                     measures the engine, as ratios in one run

./ypsilon COMMAND --help tells more. Exit codes: 0 done, 2 bad arguments or input, 1 internal fault.
`

/** Lines of faults that are written; what is beyond is counted. */
const MOST_LINES = 50

const COMMANDS = new Map<
  string,
  { readonly run: (args: string[]) => void | Promise<void>; readonly help: string }
>([
  ['render', { run: renderCommand, help: RENDER_HELP }],
  ['check', { run: checkCommand, help: CHECK_HELP }],
  ['analyze', { run: analyzeCommand, help: ANALYZE_HELP }],
  ['kit', { run: kitCommand, help: KIT_HELP }],
  ['vary', { run: varyCommand, help: VARY_HELP }],
  ['convert', { run: convertCommand, help: CONVERT_HELP }],
  ['modules', { run: modulesCommand, help: MODULES_HELP }],
  ['speed', { run: speedCommand, help: SPEED_HELP }],
])

const main = async (args: string[]): Promise<number> => {
  const [name, ...rest] = args
  if (name === undefined || name === '--help' || name === 'help') {
    process.stdout.write(HELP)
    return name === undefined ? 2 : 0
  }
  const command = COMMANDS.get(name)
  if (!command) throw new BadInput([`"${name}" is no command; there are ${[...COMMANDS.keys()].join(', ')}`])
  if (rest.includes('--help')) {
    process.stdout.write(command.help)
    return 0
  }
  await command.run(rest)
  return Number(process.exitCode ?? 0)
}

process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  process.exit(error.code === 'EPIPE' ? 0 : 1)
})

try {
  process.exitCode = await main(process.argv.slice(2))
} catch (error) {
  if (error instanceof BadInput) {
    for (const line of error.lines.slice(0, MOST_LINES))
      process.stderr.write(`${oneLine(`ypsilon: ${line}`)}\n`)
    if (error.lines.length > MOST_LINES)
      process.stderr.write(`ypsilon: and ${error.lines.length - MOST_LINES} more\n`)
    process.exitCode = 2
  } else {
    process.stderr.write(
      `${oneLine(`ypsilon: internal fault: ${error instanceof Error ? error.message : String(error)}`)}\n`,
    )
    if (process.env['YPSILON_TRACE']) console.error(error)
    process.exitCode = 1
  }
}
