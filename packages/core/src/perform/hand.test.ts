import { describe, expect, it } from 'vitest'
import { type Moves, NO_MOVES } from '../patch/document.ts'
import { HandMoves, REST_MS } from './hand.ts'

/** A hand on a clock that is turned by hand. */
const held = (): {
  readonly hand: HandMoves
  readonly steps: (readonly [string, unknown, unknown])[]
  set(value: number): void
  pass(milliseconds: number): void
} => {
  let moves: Moves = NO_MOVES,
    now = 0
  const timers = new Map<number, { readonly at: number; readonly then: () => void }>()
  const steps: [string, unknown, unknown][] = []
  let last = 0
  const hand = new HandMoves(
    () => moves,
    (name, before, after) => steps.push([name, before.values['macro:m'], after.values['macro:m']]),
    {
      wait: (milliseconds, then) => {
        timers.set((last += 1), { at: now + milliseconds, then })
        return last
      },
      cancel: (waiting) => timers.delete(waiting as number),
    },
  )
  return {
    hand,
    steps,
    set: (value) => {
      moves = { ...NO_MOVES, values: { 'macro:m': value } }
    },
    pass: (milliseconds) => {
      now += milliseconds
      for (const [id, { at, then }] of [...timers]) if (at <= now && timers.delete(id)) then()
    },
  }
}

describe('moves of a hand', () => {
  it('are one step for as long as it does not rest for a second', () => {
    const { hand, steps, set, pass } = held()
    for (const value of [0.1, 0.2, 0.3]) {
      hand.moving(`Move to ${value}`, () => set(value))
      pass(REST_MS - 1)
    }
    expect(steps).toEqual([])
    pass(1)
    expect(steps).toEqual([['Move to 0.3', undefined, 0.3]])
    hand.moving('Move on', () => set(0.9))
    pass(REST_MS)
    expect(steps.at(-1)).toEqual(['Move on', 0.3, 0.9])
  })

  it('are no step where nothing has moved in the end, and wait for what comes late', () => {
    const { hand, steps, set, pass } = held()
    hand.moving('Play', () => undefined)
    pass(REST_MS)
    set(0.5)
    hand.moving('There', () => set(0.7))
    hand.moving('And back', () => set(0.5))
    pass(REST_MS)
    expect(steps).toEqual([])
    hand.moving('Recall', () => undefined)
    set(0.6)
    pass(REST_MS)
    expect(steps).toEqual([['Recall', 0.5, 0.6]])
  })

  it('do not wait for ever while something plays on that moves nothing', () => {
    const { hand, steps, set, pass } = held()
    hand.moving('Turn', () => set(0.4))
    for (let n = 0; n < 60; n += 1) {
      hand.moving('Tick', () => undefined)
      pass(20)
    }
    expect(steps).toEqual([['Turn', undefined, 0.4]])
  })

  it('become a step before what follows when they are asked to rest, and none when they are dropped', () => {
    const { hand, steps, set, pass } = held()
    hand.moving('Turn', () => set(0.4))
    hand.rest()
    expect(steps).toEqual([['Turn', undefined, 0.4]])
    hand.moving('Turn again', () => set(0.8))
    hand.drop()
    pass(2 * REST_MS)
    expect(steps).toHaveLength(1)
  })
})
