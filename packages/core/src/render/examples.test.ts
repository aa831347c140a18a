/** The worked examples of docs/patch.md: each is a whole patch that sounds, and needs no advice. */
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { adviseOn } from '../advice/advise.ts'
import { compile } from '../compile/compile.ts'
import { parseEvents, parsePlay } from '../notes/events.ts'
import { faultText } from '../patch/types.ts'
import { parsePatch } from '../patch/validate.ts'
import { largest } from '../testing/measure.ts'
import { testKernels } from '../testing/kernels.ts'
import { render } from './render.ts'

const TEXT = readFileSync(new URL('../../../../docs/patch.md', import.meta.url), 'utf8')
const blocks = (kind: string): [name: string, text: string][] =>
  [...TEXT.matchAll(/^```json (\w+) ?(\w*)\n([\s\S]*?)^```/gm)]
    .filter((match) => match[1] === kind)
    .map((match) => [match[2]!, match[3]!])

describe('docs/patch.md', () => {
  it('has an example for everything it explains', () => {
    expect(blocks('patch').map(([name]) => name)).toEqual([
      'voice',
      'group',
      'formula',
      'macros',
      'controllers',
      'snapshots',
      'bus',
      'string',
      'assets',
    ])
  })

  it.each(blocks('patch'))('%s sounds', (name, text) => {
    const patch = parsePatch(text)
    if (!patch.ok) throw new Error(patch.faults.map(faultText).join('\n'))
    const plan = compile(patch.value)
    if (!plan.ok) throw new Error(plan.faults.map(faultText).join('\n'))
    const advice = adviseOn(patch.value, plan.plan)
    expect([...advice.silent, ...advice.unconnected]).toEqual([])
    const played = parsePlay('48@0+0.8')
    const [, eventsText] = blocks('events')[0]!
    const events = name === 'snapshots' ? parseEvents(eventsText) : played
    if (!events.ok) throw new Error(events.faults.map(faultText).join('\n'))
    const quay = {
      rate: 48000,
      channels: [Float32Array.from({ length: 2048 }, (_, i) => Math.sin((2 * Math.PI * i) / 2048) ** 3)],
    }
    const result = render(testKernels(), patch.value, {
      seconds: 1.5,
      events: events.value,
      assets: new Map([['quay', quay]]),
    })
    if (!result.ok) throw new Error(result.faults.map(faultText).join('\n'))
    expect(largest(result.value.sound.channels[0]!)).toBeGreaterThan(0.01)
    expect(result.value.resets).toBe(0)
  })
})
