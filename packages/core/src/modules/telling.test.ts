/** What modules tell pictures besides their outputs: where a recording is being read. */
import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../catalogue.ts'
import type { PatchModule } from '../patch/types.ts'
import { pictureOf } from '../patch/picture.ts'
import { parsePatch } from '../patch/validate.ts'
import { hear, patchOf } from '../testing/bench.ts'
import { pink, RATE } from '../testing/effects.ts'

const SECONDS = 0.5
const take = { rate: RATE, channels: [pink(SECONDS)] }
const FRAMES = SECONDS * RATE

type Params = NonNullable<PatchModule['params']>
const heard = (type: string, params: Params, seconds: number, data?: PatchModule['data'], looks = true) => {
  const patch = patchOf(
    [
      ['n', 'notes', {}],
      ['m', type, params],
      ['o', 'output'],
    ],
    [
      'm.out > o.in',
      ...(type === 'player' ? [] : ['n.pitch > m.pitch']),
      ...(type === 'sampler' ? ['n.gate > m.gate'] : []),
    ],
  )
  const modules = patch.modules.map((module) => (module.id === 'm' && data ? { ...module, data } : module))
  return hear({ ...patch, modules }, seconds, {
    play: '60@0.1+0.6',
    assets: new Map([['take', take]]),
    taps: ['m.out', ...(looks ? ['m.head'] : [])],
  })
}
const zones = { zones: [{ asset: 'take', root: 60 }] }
type Case = readonly [type: string, params: Params, data?: PatchModule['data']]
const CASES: readonly Case[] = [
  ['player', { asset: 'take' }],
  ['sampler', {}, zones],
  ['grains', { asset: 'take', scan: 1, density: 50 }],
]
/** What tells its place in a list of its own, and the name of that. */
const SEQUENCES = [
  ['steps', 'step'],
  ['pattern', 'beat'],
] as const
const at = (x: Float32Array, seconds: number): number => x[Math.round(seconds * RATE)]!

it('is for pictures alone: every module that tells something is here, and no cable leaves from it', () => {
  const telling = [...CATALOGUE.values()].filter(({ description }) => description.tells)
  expect(telling.map(({ description }) => description.type).sort()).toEqual(
    [...CASES.map(([type]) => type), ...SEQUENCES.map(([type]) => type)].sort(),
  )
  for (const { description, outputs } of telling)
    for (const name of description.tells!) {
      expect(outputs.has(name)).toBe(false)
      const patch = patchOf(
        [
          ['m', description.type, {}],
          ['o', 'output'],
        ],
        [`m.${description.outputs[0]!.name} > o.in`],
      )
      const read = parsePatch(
        JSON.stringify({ ...patch, cables: [{ id: 'c', from: `m.${name}`, to: 'o.in' }] }),
      )
      const words = read.ok ? read.warnings : read.faults
      expect(words.some(({ message }) => message.includes(`no output "${name}"`))).toBe(true)
    }
})

it('sounds the same whether it is looked at or not', () => {
  for (const [type, params, data] of CASES) {
    const seen = heard(type, params, 0.9, data).lanes('m.out'),
      unseen = heard(type, params, 0.9, data, false).lanes('m.out')
    seen.forEach((side, n) => {
      expect(
        side.every((x, i) => x === unseen[n]![i]),
        type,
      ).toBe(true)
    })
  }
})

describe('the place of a sequence', () => {
  const sequence = (type: string, params: Params, data: PatchModule['data'], taps: readonly string[]) => {
    const patch = patchOf(
      [
        ['c', 'clock', { division1: '1/8' }],
        ['m', type, params],
        ['o', 'output'],
      ],
      ['m.pitch', 'm.a'].flatMap((from) =>
        (type === 'steps') === (from === 'm.a') ? [`${from} > o.in * 0.1`] : [],
      ),
    )
    const cables = type === 'steps' ? [{ from: 'c.div1', to: 'm.clock' }] : []
    const modules = patch.modules.map((module) => (module.id === 'm' ? { ...module, data } : module))
    // 120 bpm: an eighth is a quarter of a second.
    return hear({ ...patch, tempo: 120, modules, cables: [...patch.cables, ...cables] } as never, 3, { taps })
  }

  it('of steps is the one that sounds, round and round', () => {
    const { tap } = sequence('steps', { length: 5 }, { a: [0, 7, 14, 21, 28] }, ['m.step', 'm.a'])
    const step = tap('m.step')
    ;[0, 1, 2, 3, 4, 0, 1].forEach((wanted, n) => {
      expect(at(step, 0.25 * n + 0.1)).toBe(wanted)
      expect(at(tap('m.a'), 0.25 * n + 0.1)).toBeCloseTo((7 * wanted) / 12, 5)
    })
  })

  it('of a clip is its beat, from the begin again behind its last bar, and nowhere once it is over', () => {
    const data = { notes: [{ start: 1, length: 1, note: 60 }] }
    const loop = sequence('pattern', { bars: 1 }, data, ['m.beat']).tap('m.beat')
    for (const [seconds, beat] of [
      [0.5, 1],
      [1.75, 3.5],
      [2.25, 0.5],
    ])
      expect(Math.abs(at(loop, seconds!) - beat!)).toBeLessThan(0.01)
    const once = sequence('pattern', { bars: 1, mode: 'once' }, data, ['m.beat']).tap('m.beat')
    expect(at(once, 2.5)).toBe(-1)
  })

  it('changes nothing of what is heard', () => {
    const data = { a: [0, 3, 7, 10, 12], on: [1, 0, 1, 1, 1] }
    const seen = sequence('steps', { length: 5 }, data, ['m.step', 'm.a']).tap('m.a'),
      unseen = sequence('steps', { length: 5 }, data, ['m.a']).tap('m.a')
    expect(seen.every((x, i) => x === unseen[i])).toBe(true)
  })
})

describe('the head', () => {
  // It is told once a block.
  const NEAR = 200 / FRAMES
  const isNear = (told: number, share: number): void => {
    expect(Math.abs(told - share)).toBeLessThan(NEAR)
  }

  it('of a player goes with what is read, round, backwards, within its part, and is nowhere when it has ended', () => {
    const plain = heard('player', { asset: 'take' }, 1.2).tap('m.head')
    for (const seconds of [0.1, 0.3, 0.45]) isNear(at(plain, seconds), seconds / SECONDS)
    isNear(at(plain, 0.8), (0.8 - SECONDS) / SECONDS)
    const back = heard('player', { asset: 'take', speed: -0.5, from: 0.2, to: 0.8 }, 0.5).tap('m.head')
    isNear(at(back, 0.2), 0.8 - 0.1 / SECONDS)
    const once = heard('player', { asset: 'take', loop: false }, 0.9).tap('m.head')
    isNear(at(once, 0.4), 0.8)
    expect(at(once, 0.6)).toBe(-1)
    expect(at(once, 0.89)).toBe(-1)
  })

  it('of a sampler is that of its note, and nowhere before and after it', () => {
    const head = heard('sampler', { release: 0.001 }, 1, zones).tap('m.head')
    expect(at(head, 0.05)).toBe(-1)
    for (const seconds of [0.2, 0.5]) isNear(at(head, seconds), (seconds - 0.1) / SECONDS)
    expect(at(head, 0.9)).toBe(-1)
  })

  it('of grains is where they begin, which scan moves', () => {
    const head = heard('grains', { asset: 'take', position: 0.25, scan: 0.5 }, 1).tap('m.head')
    for (const seconds of [0.1, 0.4]) isNear(at(head, seconds), 0.25 + (0.5 * seconds) / SECONDS)
    const held = heard('grains', { asset: 'take', position: 0.7 }, 0.4).tap('m.head')
    isNear(at(held, 0.3), 0.7)
  })

  it('stands in the picture where it is, and not at all where nothing plays', () => {
    const shape = { peaks: [0.2, 0.5, 1, 0.3], seconds: SECONDS }
    for (const [type, params, data] of CASES) {
      const module = {
        id: 'm',
        type,
        params: { ...params, asset: 'take' },
        ...(data ? { data } : {}),
      } as PatchModule
      const drawn = (value: number) =>
        pictureOf(module, { param: () => undefined, output: () => ({ value, before: value }) }, () => shape)!
      expect(drawn(0.4).dots).toEqual([[0.4, 0.5]])
      expect(drawn(-1).dots).toBeUndefined()
      expect(drawn(-1).curves.length).toBe(drawn(0.4).curves.length - 1)
    }
  })
})
