/**
 * A kit as text for samplers (SFZ: opcodes of its first version, with `loop_mode`, turns and crossfades): one region a
 * file. Nothing in it but what the kit is.
 */
import { oneLine } from '../../patch/types.ts'
import { velocityStep } from './description.ts'
import { keyReach, velocityReach } from './file.ts'
import type { JobFacts, PartFacts } from './job.ts'
import { type KitJob, type KitPlan, wavName } from './plan.ts'

type Opcodes = readonly (readonly [name: string, value: string | number])[]

/** Shortest and longest fade after a key is let go, and the one beside a file of its own for that. */
const LEAST_RELEASE = 0.03,
  MOST_RELEASE = 60,
  SHORT_RELEASE = 0.05

const seconds = (value: number): string => String(Number(value.toFixed(3)))

/** Velocities between which a layer goes over into the next, around where the one ends. */
const crossing = (
  steps: readonly number[],
  layer: number,
  width: number,
): readonly [low: number, high: number] | undefined => {
  if (width === 0 || layer < 0 || layer >= steps.length - 1) return undefined
  const [first, border] = velocityReach(steps, layer),
    [, last] = velocityReach(steps, layer + 1)
  // It never reaches beyond the two layers it is between.
  const low = Math.max(first, border - Math.floor((width - 1) / 2)),
    high = Math.min(last, low + width)
  return [low, high]
}

const velocityOpcodes = (steps: readonly number[], layer: number, width: number): Opcodes => {
  const [low, high] = velocityReach(steps, layer),
    below = crossing(steps, layer - 1, width),
    above = crossing(steps, layer, width)
  return [
    ['lovel', below?.[0] ?? low],
    ['hivel', above?.[1] ?? high],
    ...(below
      ? ([
          ['xfin_lovel', below[0]],
          ['xfin_hivel', below[1]],
        ] as const)
      : []),
    ...(above
      ? ([
          ['xfout_lovel', above[0]],
          ['xfout_hivel', above[1]],
        ] as const)
      : []),
  ]
}

const loopOpcodes = ({ loop }: PartFacts): Opcodes =>
  loop
    ? [
        ['loop_mode', 'loop_continuous'],
        ['loop_start', loop.start],
        // The last frame that is played.
        ['loop_end', loop.end - 1],
      ]
    : [['loop_mode', 'no_loop']]

const releaseSeconds = ({ release, tailSeconds }: JobFacts): number =>
  release ? SHORT_RELEASE : Math.min(MOST_RELEASE, Math.max(LEAST_RELEASE, tailSeconds))

const regionOf = (opcodes: Opcodes): string[] => [
  '<region>',
  ...opcodes.map(([name, value]) => `${name}=${value}`),
  '',
]

const regionsOf = ({ kit }: KitPlan, job: KitJob, facts: JobFacts): string[] => {
  const steps = kit.velocities.map(velocityStep),
    [low, high] = keyReach(kit.notes, job.note)
  const choke = kit.choke.findIndex((group) => group.includes(job.note)) + 1
  const place: Opcodes = [
    ['lokey', low],
    ['hikey', high],
    ['pitch_keycenter', job.note],
    ...velocityOpcodes(steps, job.layer, kit.crossfade),
    ...(kit.takes > 1
      ? ([
          ['seq_length', kit.takes],
          ['seq_position', job.take + 1],
        ] as const)
      : []),
  ]
  const note = regionOf([
    ['sample', wavName(facts.note.name)],
    ...place,
    ...loopOpcodes(facts.note),
    ['ampeg_release', seconds(releaseSeconds(facts))],
    ...(choke > 0
      ? ([
          ['group', choke],
          ['off_by', choke],
          ['off_mode', 'fast'],
        ] as const)
      : []),
  ])
  if (!facts.release) return note
  return [
    ...note,
    ...regionOf([
      ['sample', wavName(facts.release.name)],
      ...place,
      ['trigger', 'release'],
      ['loop_mode', 'one_shot'],
    ]),
  ]
}

/** The text of one variation's kit. */
export const sfzText = (plan: KitPlan, facts: readonly JobFacts[], variation: number): string => {
  const { kit, jobs, patchName } = plan
  const head = [
    `// ${oneLine(patchName).replaceAll('#', '') || 'Kit'}`,
    '<global>',
    // Each layer has the level it was played at.
    ...(kit.velocities.length > 1 ? ['amp_veltrack=0'] : []),
    '',
  ]
  return [
    ...head,
    ...jobs
      .filter((job) => job.variation === variation)
      .flatMap((job) => regionsOf(plan, job, facts[job.index]!)),
  ].join('\n')
}
