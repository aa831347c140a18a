import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('arp', {
  inputs: 'pitch gate clock reset',
  outputs: 'pitch gate trigger',
  params: 'order octaves gateLength latch',
})

describe('arp', () => {
  const played = (
    params: Record<string, number | string | boolean>,
    play: string,
    seconds = 3,
  ): { pitches: number[]; triggers: number[] } => {
    const heard = hear(
      patchOf(
        [
          ['n', 'notes', { voices: 6, mode: 'poly' }],
          ['c', 'clock', { division1: '1/8' }],
          ['a', 'arp', params],
        ],
        ['n.pitch > a.pitch', 'n.gate > a.gate', 'c.div1 > a.clock'],
      ),
      seconds,
      { play, taps: ['a.pitch', 'a.trigger'] },
    )
    const triggers = rises(heard.tap('a.trigger'))
    return { triggers, pitches: triggers.map((at) => Math.round(heard.tap('a.pitch')[at]! * 12)) }
  }
  const chord = '64@0+2 60@0+2 67@0+2'

  it('plays the held chord in its orders', () => {
    expect(played({ order: 'up' }, chord).pitches.slice(0, 5)).toEqual([0, 4, 7, 0, 4])
    expect(played({ order: 'down' }, chord).pitches.slice(0, 4)).toEqual([7, 4, 0, 7])
    expect(played({ order: 'updown' }, chord).pitches.slice(0, 6)).toEqual([0, 4, 7, 4, 0, 4])
    expect(played({ order: 'played' }, chord).pitches.slice(0, 4)).toEqual([4, 0, 7, 4])
    expect(played({ order: 'up', octaves: 2 }, chord).pitches.slice(0, 7)).toEqual([0, 4, 7, 12, 16, 19, 0])
    expect(played({ order: 'together' }, chord).triggers.filter((at) => at >= 12000 && at < 24000)).toEqual([
      12000, 16000, 20000,
    ])
  })

  it('stops with the last key, unless it is latched', () => {
    expect(Math.max(...played({}, chord, 4).triggers)).toBeLessThan(97000)
    expect(Math.max(...played({ latch: true }, chord, 4).triggers)).toBeGreaterThan(170000)
    expect(played({ latch: true }, `${chord} 72@2.5+0.1`, 4).pitches.at(-1)).toBe(12)
  })
})
