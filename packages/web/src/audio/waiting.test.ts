import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Untimed } from '@ypsilon/core'
import { WaitingNotes } from './waiting.ts'

const on = (id: number): Untimed => ({ type: 'on', note: id, velocity: 1, id })
const off = (id: number): Untimed => ({ type: 'off', note: id, velocity: 0, id })

let now = 0
let played: string[] = []
let waiting: WaitingNotes
const at = (time: number, event: Untimed): void => {
  now = time
  waiting.add(event, undefined)
}

beforeEach(() => {
  vi.useFakeTimers()
  now = 0
  played = []
  waiting = new WaitingNotes(
    (event) => played.push(`${event.type} ${'id' in event ? event.id : ''}`),
    () => now,
  )
})
afterEach(() => {
  vi.useRealTimers()
})

describe('notes before there is sound', () => {
  it('come in order, as far apart as they were played', () => {
    at(0, on(1))
    at(80, off(1))
    at(100, on(2))
    now = 500
    waiting.begin()
    expect(played).toEqual(['on 1'])
    vi.advanceTimersByTime(79)
    expect(played).toEqual(['on 1'])
    vi.advanceTimersByTime(1)
    expect(played).toEqual(['on 1', 'off 1'])
    vi.advanceTimersByTime(20)
    expect(played).toEqual(['on 1', 'off 1', 'on 2'])
  })

  it('come before another event of theirs', () => {
    at(0, on(1))
    at(300, off(1))
    waiting.begin()
    waiting.before(on(1))
    expect(played).toEqual(['on 1', 'off 1'])
    vi.advanceTimersByTime(1000)
    expect(played).toHaveLength(2)
  })

  it('last long enough to be heard, and what came after them comes after them', () => {
    at(0, on(1))
    at(1, off(1))
    at(2, on(2))
    at(90, off(2))
    now = 500
    waiting.begin()
    vi.advanceTimersByTime(39)
    expect(played).toEqual(['on 1'])
    vi.advanceTimersByTime(1)
    expect(played).toEqual(['on 1', 'off 1', 'on 2'])
    vi.advanceTimersByTime(49)
    expect(played).toHaveLength(3)
    vi.advanceTimersByTime(1)
    expect(played).toEqual(['on 1', 'off 1', 'on 2', 'off 2'])
  })

  it('that are old are not played, and none after a silence', () => {
    at(0, on(1))
    at(10, off(1))
    now = 60_000
    waiting.begin()
    expect(played).toEqual([])
    at(60_000, on(2))
    at(60_100, off(2))
    waiting.begin()
    waiting.forget()
    vi.advanceTimersByTime(1000)
    expect(played).toEqual(['on 2'])
  })
})
