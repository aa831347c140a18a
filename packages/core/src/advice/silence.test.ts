/** Patches that have gone silent, each in another way: the place is found, and what is offered makes them sound again. */
import { describe, expect, it } from 'vitest'
import { edit } from '../patch/document.ts'
import { removeCables, removeModules } from '../patch/edits.ts'
import type { Patch } from '../patch/types.ts'
import { heardIn } from '../render/heard.ts'
import { testKernels } from '../testing/kernels.ts'
import { demoPatch } from '../testing/patches.ts'
import { withCableIds } from '../patch/edits.ts'
import { type Silence, whySilent } from './silence.ts'

const ALIVE = 1e-4

const made = (patch: Patch, recipe: Parameters<typeof edit>[2]): Patch => {
  const result = edit(patch, 'Test', recipe)
  if (!result.ok) throw new Error(result.faults[0]!.message)
  return result.patch
}
const silenceOf = (patch: Patch): Silence => whySilent(patch, heardIn(testKernels(), patch)!)
const cableTo = (patch: Patch, to: string): string => patch.cables.find((cable) => cable.to === to)!.id!
const without = (patch: Patch, to: string): Patch =>
  made(patch, (draft) => {
    removeCables(draft, new Set([cableTo(patch, to)]))
  })
const lamp = (): Patch => withCableIds(demoPatch('reed-lamp'))
const setTo = (patch: Patch, id: string, params: Record<string, number>): Patch =>
  made(patch, (draft) => {
    const module = draft.modules.find((item) => item.id === id)!
    module.params = { ...module.params, ...params }
  })

/** Helped by the first edit that is offered: it sounds again, or the next thing is found. */
const helped = (patch: Patch, silence: Silence): Patch => {
  const remedy = silence.finding?.remedies.find(({ apply }) => apply)
  expect(remedy, silence.finding?.message).toBeDefined()
  return made(patch, remedy!.apply!)
}
const sounds = (patch: Patch): boolean => heardIn(testKernels(), patch)!.output > ALIVE

describe('a patch that sounds', () => {
  it('has nothing found, and its level told', () => {
    const { finding, levelDb } = silenceOf(lamp())
    expect(finding).toBeUndefined()
    expect(levelDb).toBeGreaterThan(-40)
  })
})

describe('a silent patch', () => {
  const CASES: readonly (readonly [
    words: string,
    broken: () => Patch,
    place: string,
    message: RegExp,
    path: string,
  ])[] = [
    [
      'whose envelope has no gate',
      () => without(lamp(), 'breath.gate'),
      'breath.gate',
      /never opens: nothing is connected to its gate/,
      'out room amp breath',
    ],
    ['with nothing at its output', () => without(lamp(), 'out.in'), 'out.in', /nothing is connected/, 'out'],
    [
      'without an output',
      () =>
        made(lamp(), (draft) => {
          removeModules(draft, new Set(['out']))
        }),
      'patch',
      /there is no output/,
      '',
    ],
    [
      'with a muted cable',
      () => {
        const patch = lamp()
        return made(patch, (draft) => {
          draft.cables.find(({ id }) => id === cableTo(patch, 'amp.in'))!.muted = true
        })
      },
      'filter.low > amp.in',
      /is muted/,
      'out room amp filter',
    ],
    [
      'with a cable of amount 0',
      () => {
        const patch = lamp()
        return made(patch, (draft) => {
          draft.cables.find(({ id }) => id === cableTo(patch, 'room.in'))!.amount = 0
        })
      },
      'amp.out > room.in',
      /has the amount 0/,
      'out room amp',
    ],
    [
      'whose amplifier is turned down',
      () => setTo(lamp(), 'amp', { level: -60 }),
      'amp',
      /lets nothing through as it is set/,
      'out room amp',
    ],
    [
      'whose filter has nothing in',
      () => {
        const patch = lamp()
        return made(patch, (draft) => {
          draft.cables = draft.cables.filter(({ to }) => to !== 'filter.in')
        })
      },
      'filter.in',
      /nothing comes in/,
      'out room amp filter',
    ],
    ['whose output is turned down', () => setTo(lamp(), 'out', { level: -60 }), 'out', /as it is set/, 'out'],
  ]
  it.each(CASES)('%s', (_words, broken, place, message, path) => {
    const patch = broken()
    expect(sounds(patch)).toBe(false)
    const silence = silenceOf(patch)
    expect(silence.finding?.place).toBe(place)
    expect(silence.finding?.message).toMatch(message)
    expect(silence.path.join(' ')).toBe(path)
    // Every cable that is lit is there, and lies on the way.
    for (const id of silence.cables) expect(patch.cables.some((cable) => cable.id === id)).toBe(true)
    expect(sounds(helped(patch, silence))).toBe(true)
  })

  it('of several causes is helped one after the other', () => {
    let patch = setTo(without(without(lamp(), 'out.in'), 'breath.gate'), 'amp', { level: -60 })
    for (let n = 0; n < 4 && !sounds(patch); n += 1) patch = helped(patch, silenceOf(patch))
    expect(sounds(patch)).toBe(true)
  })

  it('of every demo, wherever one cable of its sound is taken off, has something found and offered', () => {
    for (const name of ['storm-wire', 'slate-drum'] as const) {
      const patch = withCableIds(demoPatch(name))
      for (const { id, to } of patch.cables) {
        const broken = made(patch, (draft) => {
          removeCables(draft, new Set([id!]))
        })
        if (sounds(broken)) continue
        const { finding, path } = silenceOf(broken)
        expect(finding, `${name} without ${to}`).toBeDefined()
        expect(path.length, `${name} without ${to}`).toBeGreaterThan(0)
        expect(
          finding!.remedies.length,
          `${name} without ${to}: ${finding!.place} ${finding!.message}`,
        ).toBeGreaterThan(0)
      }
    }
  })
})
