import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Keyboard } from './keyboard.ts'

/** A keyboard, with what its engine was told, and which notes sound by that. */
const played = () => {
  const told: string[] = [],
    sounding = new Map<number, number>()
  const keyboard = new Keyboard(
    {
      start: () => Promise.resolve(),
      noteOn: (note, _velocity, id) => {
        told.push(`on ${note}`)
        sounding.set(id, note)
      },
      noteOff: (note, id) => {
        told.push(`off ${note}`)
        sounding.delete(id)
      },
    },
    () => undefined,
  )
  return { keyboard, told, sounding: () => [...sounding.values()].sort((a, b) => a - b) }
}

describe('latched notes', () => {
  it('go on when their keys are let go, and end when they are pressed again', () => {
    const { keyboard, sounding } = played()
    keyboard.latch(true)
    keyboard.down('KeyA')
    keyboard.up('KeyA')
    keyboard.down('KeyS')
    keyboard.up('KeyS')
    expect(sounding()).toEqual([60, 62])
    keyboard.down('KeyA')
    keyboard.up('KeyA')
    expect(sounding()).toEqual([62])
    expect([...keyboard.snapshot().held]).toEqual([62])
  })

  it('end all together when latching ends, but for those whose keys are down', () => {
    const { keyboard, sounding } = played()
    keyboard.latch(true)
    keyboard.down('KeyA')
    keyboard.up('KeyA')
    keyboard.down('KeyD')
    keyboard.latch(false)
    expect(sounding()).toEqual([64])
    keyboard.up('KeyD')
    expect(sounding()).toEqual([])
    expect(keyboard.snapshot().held.size).toBe(0)
  })

  it('go on when the window is left, and end when all is silenced', () => {
    const { keyboard, sounding } = played()
    keyboard.latch(true)
    keyboard.down('KeyA')
    keyboard.releaseAll()
    expect(sounding()).toEqual([60])
    keyboard.silence()
    expect(sounding()).toEqual([])
  })

  it('of keys on screen and of the computer are counted apart where they are the same note', () => {
    const { keyboard, sounding, told } = played()
    keyboard.press(60)
    keyboard.press(60)
    keyboard.release(60)
    expect([...keyboard.snapshot().held]).toEqual([60])
    keyboard.release(60)
    keyboard.release(60)
    expect(sounding()).toEqual([])
    // What nobody holds is not let go once more.
    expect(told.filter((word) => word === 'off 60')).toHaveLength(2)
  })
})

describe('the test note', () => {
  beforeEach(() => {
    vi.useFakeTimers()
  })
  afterEach(() => {
    vi.useRealTimers()
  })

  it('comes again and again until it is told to stop, or all is silenced', () => {
    const { keyboard, told, sounding } = played()
    const count = (): number => told.filter((word) => word.startsWith('on')).length
    keyboard.repeat(true)
    vi.advanceTimersByTime(7000)
    const many = count()
    expect(many).toBeGreaterThan(3)
    keyboard.repeat(false)
    vi.advanceTimersByTime(7000)
    expect(count()).toBe(many)
    expect(sounding()).toEqual([])
    keyboard.repeat(true)
    keyboard.silence()
    expect(keyboard.snapshot().isRepeating).toBe(false)
    vi.advanceTimersByTime(7000)
    expect(count()).toBe(many + 1)
  })
})
