import { describe, expect, it } from 'vitest'
import { hear, patchOf } from '../../../testing/bench.ts'
import { rises, onFor } from '../../../testing/signals.ts'
import { promises } from '../../../testing/promises.ts'

promises('pattern', {
  inputs: 'reset',
  outputs: 'pitch gate trigger velocity scatter',
  params: 'voices bars mode transpose',
  data: 'notes',
})

describe('pattern', () => {
  it('plays its notes on their beats, chords on several voices, round its bars', () => {
    const notes = [
      { start: 0, length: 1, note: 60, velocity: 0.5 },
      { start: 0, length: 2, note: 64 },
      { start: 2, length: 0.5, note: 67 },
    ]
    const heard = hear(
      patchOf([['p', 'pattern', { voices: 2, bars: 1 }, { data: { notes } }]], [], { tempo: 120 }),
      5,
      { taps: ['p.gate', 'p.pitch', 'p.velocity'] },
    )
    const gates = heard.lanes('p.gate').map(rises),
      [first, second] = gates
    expect(first).toEqual([0, 48000, 96000, 144000, 192000])
    expect(second).toEqual([0, 96000, 192000])
    expect(heard.lanes('p.pitch').map((x) => Math.round(x[10]! * 12))).toEqual([0, 4])
    expect(heard.lanes('p.velocity')[0]![10]).toBe(0.5)
    expect(onFor(heard.lanes('p.gate')[0]!, 48000)).toBe(12000)
  })

  it('once means once', () => {
    expect(
      rises(
        hear(
          patchOf(
            [
              [
                'p',
                'pattern',
                { voices: 1, bars: 1, mode: 'once' },
                { data: { notes: [{ start: 1, length: 1, note: 60 }] } },
              ],
            ],
            [],
          ),
          6,
          { taps: ['p.gate'] },
        ).lanes('p.gate')[0]!,
      ),
    ).toEqual([24000])
  })
})

describe('pattern', () => {
  it('a pattern scatters every note anew, a chord each of its notes for good', () => {
    const notes = Array.from({ length: 8 }, (_, n) => ({ start: n / 2, length: 0.4, note: 60 + n }))
    const heard = hear(
      patchOf(
        [
          ['p', 'pattern', { voices: 1, bars: 1 }, { data: { notes } }],
          ['h', 'chord', { notes: 4 }],
        ],
        [],
        { tempo: 120 },
      ),
      2,
      { taps: ['p.scatter', 'h.scatter'] },
    )
    const scatter = heard.tap('p.scatter')
    const values = notes.map((_, n) => scatter[n * 12000 + 6000]!)
    expect(new Set(values).size).toBe(8)
    for (const value of values) expect(Math.abs(value)).toBeLessThanOrEqual(1)
    const chord = heard.lanes('h.scatter').map((lane) => [lane[0]!, lane.at(-1)!])
    expect(new Set(chord.map(([first]) => first)).size).toBe(4)
    for (const [first, last] of chord) expect(last).toBe(first)
  })
})
