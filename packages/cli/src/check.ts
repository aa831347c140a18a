import { adviseOn, type Fault, type Latency, compile, everyModule, faultText } from '@ypsilon/core'
import { readArguments } from './arguments.ts'
import { BadInput } from './bad-input.ts'
import { loadPatch } from './files.ts'

export const CHECK_HELP = `Usage: ./ypsilon check PATCH [--json]

Validates a patch, then says what a user would want to know: silent paths, unconnected inputs that matter, feedback
loops with their modules in signal order and their delay, what is late and what is held back to meet it, what is
probably not meant, voices, memory and an estimate of the load.
`

const mib = (bytes: number): string => `${(bytes / 2 ** 20).toFixed(1)} MiB`

const latencyLines = ({ samples, heldBack }: Latency): string[] => [
  ...(samples > 0
    ? [
        `latency: ${samples} samples (${((1000 * samples) / 48000).toFixed(1)} ms) at the output, taken off renders`,
      ]
    : []),
  ...heldBack.map(
    ({ from, to, samples: held }) => `latency: ${from} > ${to} is held back by ${held} samples`,
  ),
]

/** What is found, without what the page offers to do about it. */
const told = ({ place, message }: Fault): Fault => ({ place, message })

export const checkCommand = (args: string[]): void => {
  const { values, names } = readArguments(args, { json: { type: 'boolean' } }, ['PATCH'])
  const { patch, warnings } = loadPatch(names[0]!)
  const result = compile(patch)
  if (!result.ok) throw new BadInput(result.faults.map((fault) => `${names[0]}: ${faultText(fault)}`))
  const { plan } = result
  const advice = adviseOn(patch, plan)
  const report = {
    name: patch.name,
    modules: everyModule(patch).length,
    cables: patch.cables.length,
    warnings,
    ...advice,
    silent: advice.silent.map(told),
    unconnected: advice.unconnected.map(told),
    hints: advice.hints.map(told),
    memoryBytes: plan.memoryBytes,
  }
  if (values['json']) {
    process.stdout.write(`${JSON.stringify(report, null, 2)}\n`)
    return
  }
  const lines = [
    `${patch.name}: ${report.modules} modules, ${report.cables} cables, up to ${advice.voices} voices, ${mib(plan.memoryBytes)} of delay memory, about ${advice.loadPercent.toFixed(1)} % of a core`,
    ...warnings.map((text) => `warning: ${text}`),
    ...advice.silent.map(({ place, message }) => `silent: ${place} ${message}`),
    ...advice.unconnected.map(({ place, message }) => `unconnected: ${place} ${message}`),
    ...advice.hints.map(({ place, message }) => `hint: ${place} ${message}`),
    ...advice.loops.map((loop) => `loop: ${loop.modules.join(' → ')}, ${loop.delay}`),
    ...latencyLines(advice.latency),
  ]
  process.stdout.write(`${lines.join('\n')}\n`)
}
