import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { inOrder, parseEvents, parsePlay } from './events.ts'

const file = (events: unknown): string => JSON.stringify({ format: 'ypsilon/events', version: 1, events })

describe('events', () => {
  it('reads the play notation', () => {
    expect(parsePlay('60@0+1.5:0.8 C#3@0.5+1')).toMatchObject({
      ok: true,
      value: [
        { t: 0, type: 'on', note: 60, velocity: 0.8 },
        { t: 1.5, type: 'off' },
        { t: 0.5, note: 49, velocity: 1 },
        { t: 1.5 },
      ],
    })
    expect(parsePlay('60@0')).toMatchObject({ ok: false, faults: [{ place: '--play, note 1' }] })
  })
  it('names what is wrong', () => {
    const result = parseEvents(
      file([
        { t: 0, type: 'on', note: 200 },
        { t: -1, type: 'off', note: 60 },
        { t: 0, type: 'jump' },
        { t: 0, type: 'param', value: 1 },
      ]),
    )
    expect(result.ok ? [] : result.faults.map((fault) => `${fault.place}: ${fault.message}`)).toEqual([
      'events[0].note: 200 is outside 0…127',
      'events[1].t: -1 is outside 0…10000000',
      'events[2].type: "jump" is not one of on, off, pressure, slide, bend, control, program, param, macro, snapshot, blend, data, bypass, tempo, transport, clock, silence',
      'events[3].target: is missing',
    ])
  })
  it('orders by sample, offs before ons, else as given', () => {
    expect(
      inOrder(
        [
          { t: 0.1, type: 'on', note: 60 },
          { t: 0.1, type: 'off', note: 60 },
          { t: 0, type: 'control', controller: 1, value: 0 },
        ],
        48000,
      ).map(({ event }) => event.type),
    ).toEqual(['control', 'off', 'on'])
  })
  it('never throws', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        parseEvents(JSON.stringify(value))
        parseEvents(file(value))
        parsePlay(JSON.stringify(value))
      }),
      { numRuns: 300 },
    )
    expect(
      parseEvents(
        file([
          { t: 0, type: { toString: 0 } },
          { t: 0, type: 'constructor' },
        ]),
      ).ok,
    ).toBe(false)
  })
})
