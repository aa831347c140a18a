import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { adviseOn } from '../advice/advise.ts'
import { compile } from '../compile/compile.ts'
import { loudness } from '../analysis/loudness.ts'
import { readWav, type Sound } from '../formats/wav.ts'
import { parsePlay } from '../notes/events.ts'
import type { Patch } from '../patch/types.ts'
import { parsePatch } from '../patch/validate.ts'
import { testKernels } from '../testing/kernels.ts'
import { render } from './render.ts'

const DEMO = new URL('../../../../demo/', import.meta.url)
const FILES = ['patches', 'templates'].flatMap((folder) =>
  readdirSync(new URL(`${folder}/`, DEMO))
    .filter((name) => name.endsWith('.ypatch.json'))
    .map((name) => `${folder}/${name}`),
)
interface Suggestion {
  readonly play: string
  readonly seconds: number
}

/** Recordings that stand beside the patch. */
const assetsOf = (patch: Patch, folder: URL): Map<string, Sound> =>
  new Map(
    Object.entries((patch['assets'] ?? {}) as Record<string, { file: string }>).map(([id, { file }]) => {
      const read = readWav(new Uint8Array(readFileSync(new URL(file, folder))))
      if (!read.ok) throw new Error(read.fault.message)
      return [id, read.sound]
    }),
  )

describe('demo patches and templates', () => {
  it('have names of their own', () => {
    const names = FILES.map((file) => (JSON.parse(readFileSync(new URL(file, DEMO), 'utf8')) as Patch).name)
    expect(new Set(names).size).toBe(names.length)
  })

  it.each(FILES)(
    '%s is valid, played as its notes suggest neither too soft nor too loud, and never limited',
    (file) => {
      const place = new URL(file, DEMO)
      const patch = parsePatch(readFileSync(place, 'utf8'))
      if (!patch.ok)
        throw new Error(patch.faults.map((fault) => `${fault.place}: ${fault.message}`).join('\n'))
      expect(patch.warnings).toEqual([])
      expect(patch.value.macros!.length).toBeGreaterThan(0)
      const assets = assetsOf(patch.value, place)
      const plan = compile(patch.value, { assets })
      if (!plan.ok) throw new Error(plan.faults[0]!.message)
      const { silent, unconnected, hints } = adviseOn(patch.value, plan.plan)
      expect([...silent, ...unconnected, ...hints]).toEqual([])
      const { suggestion } = patch.value['view'] as { suggestion: Suggestion }
      const events = parsePlay(suggestion.play)
      if (!events.ok) throw new Error(events.faults[0]!.message)
      const result = render(testKernels(), patch.value, {
        events: events.value,
        seconds: suggestion.seconds,
        assets,
      })
      if (!result.ok) throw new Error(result.faults[0]!.message)
      const { sound, limited, resets } = result.value
      expect(resets).toBe(0)
      expect(limited).toBe(0)
      expect(loudness(sound)).toBeGreaterThan(-20)
      expect(loudness(sound)).toBeLessThan(-12)
      const first = sound.channels[0]!.findIndex((x) => Math.abs(x) > 0.001)
      expect(first / sound.rate).toBeLessThan(0.1)
    },
  )
})
