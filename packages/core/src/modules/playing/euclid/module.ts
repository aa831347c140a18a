import { help, input, number, output } from '../../../describe/helpers.ts'
import { barPoints } from '../../../describe/pictures.ts'
import type { ModuleDescription } from '../../../describe/types.ts'

/** Bjorklund's rhythm, beginning with a hit. */
const rhythm = (steps: number, hits: number): boolean[] => {
  let groups = Array.from({ length: hits }, () => [true]),
    rest = Array.from({ length: steps - hits }, () => [false])
  while (rest.length > 1 && groups.length > 0) {
    const paired = Math.min(groups.length, rest.length)
    const joined = Array.from({ length: paired }, (_, i) => [...groups[i]!, ...rest[i]!])
    rest = groups.length > paired ? groups.slice(paired) : rest.slice(paired)
    groups = joined
  }
  return [...groups, ...rest].flat()
}

export const euclid: ModuleDescription = {
  type: 'euclid',
  family: 'playing',
  label: 'Euclid',
  mark: 'M2 8a6 6 0 1 0 12 0a6 6 0 1 0-12 0M8 2l5 9H3z',
  words: ['euclidean', 'rhythm', 'pattern', 'even spread', 'polyrhythm'],
  help: help(
    'Hits spread as evenly as they can be',
    'So many hits over so many steps (Bjorklund’s rhythms), turned by rotate; accents are spread over the hits in the same way. The gate is on as long as the clock, the first clock after the start or a reset plays step 1.',
    '5 of 16, 3 of 8, 5 of 8, 7 of 12.',
    'Clock it with 1/16 and connect trigger to a Decay.',
  ),
  front: ['clock', 'steps', 'hits', 'trigger'],
  headline: ['hits', 'steps'],
  inputs: [input('clock', 'gate'), input('reset', 'gate')],
  outputs: ['trigger', 'gate', 'accent', 'end'].map((name) => output(name, 'gate')),
  params: [
    number('steps', 1, 32, 16, '', { whole: true, exact: true }),
    number('hits', 0, 32, 5, '', { whole: true, exact: true }),
    number('rotate', 0, 31, 0, '', { whole: true, exact: true }),
    number('accents', 0, 32, 0, '', { whole: true, exact: true }),
  ],
  picture: (context) => {
    const steps = context.number('steps'),
      hits = Math.min(context.number('hits'), steps)
    return {
      kind: 'steps',
      title: 'The rhythm',
      across: 'step',
      up: '',
      curves: [
        {
          points: barPoints(
            Array.from({ length: steps }, (_, i) =>
              rhythm(steps, hits)[(((i - context.number('rotate')) % steps) + steps) % steps] ? 1 : 0.08,
            ),
          ),
        },
      ],
    }
  },
  state: { kept: ['before', 'resetBefore', 'step', 'hit', 'accent', 'triggerLeft', 'endLeft'] },
  frames: 'sequential',
  cost: [1.4, 1.5, 0.0037],
  bound: 36,
}
