/** Controls and what they set: named as the device names it, in its unit, by learning, and back. */
import { describe, expect, it } from 'vitest'
import { CATALOGUE } from '../../../catalogue.ts'
import { printNumber } from '../../../describe/fields.ts'
import { paramAt } from '../../../describe/params.ts'
import { parseNumber } from '../../../describe/reading.ts'
import type { NumberParam } from '../../../describe/types.ts'
import { DEVICES } from '../../../outboard/devices.ts'
import { valueAt } from '../../../outboard/device.ts'
import { controlOf, CONTROLS, deviceAt, freeControl, learned, ownParam, targetOf } from './controls.ts'

type Settings = Readonly<Record<string, string>>
const settingOf =
  (settings: Settings) =>
  (name: string): string =>
    settings[name] ?? ''
const rowAt = (name: string, settings: Settings): NumberParam =>
  paramAt(CATALOGUE.get('outboard')!.params.get(name)!, settings) as NumberParam
const withLearned = (settings: Settings, control: number, id: string): Settings => ({
  ...settings,
  ...Object.fromEntries(learned(settingOf(settings), control, id)),
})

describe('a row', () => {
  it('is called what it sets and reads in its unit, whatever device is chosen and however controls are turned', () => {
    for (const { id, parameters } of DEVICES)
      parameters.forEach((parameter, n) => {
        const plain = rowAt(`p${n + 1}`, { device: id })
        expect(plain.label.startsWith(parameter.label)).toBe(true)
        for (const share of [0, 0.2, 0.5, 0.8, 1])
          expect(printNumber(plain, share)).toBe(printNumber(ownParam(parameter), valueAt(parameter, share)))
        // Another control that names it takes it from the one of its number.
        const turned = { device: id, [`control${8 - n}`]: parameter.id }
        expect(rowAt(`p${8 - n}`, turned).label).toBe(plain.label)
      })
    expect(rowAt('p8', {}).label).toBe('Control 8')
    expect(rowAt('p1', { device: 'gone' }).label).toBe('Control 1')
    expect(rowAt('p1', { control1: 'gone' }).label).toBe('Control 1')
  })

  it('takes what is typed in that unit, and per cent as its own way', () => {
    const distance = rowAt('p1', {}),
      parameter = DEVICES[0]!.parameters[0]!
    const typed = (text: string, now = 0.5): number => {
      const read = parseNumber(distance, text, { now })
      if (!read.ok) throw new Error(read.message)
      return read.value
    }
    for (const ms of [60, 100, 320, 900]) {
      expect(valueAt(parameter, typed(`${ms} ms`))).toBeCloseTo(ms, 3)
      expect(valueAt(parameter, typed(String(ms)))).toBeCloseTo(ms, 3)
      expect(valueAt(parameter, typed(`${ms / 1000} s`))).toBeCloseTo(ms, 3)
    }
    expect(valueAt(parameter, typed('× 2', typed('200 ms')))).toBeCloseTo(400, 3)
    expect(typed('25 %')).toBe(0.25)
    for (const wrong of ['3 dB', '5 ms', '99 s', '130 %', 'far'])
      expect(parseNumber(distance, wrong).ok, wrong).toBe(false)
    // What is shown is read as what is there.
    for (const share of [0.1, 0.37, 0.9]) expect(typed(printNumber(distance, share))).toBeCloseTo(share, 2)
  })
})

describe('learning', () => {
  it('leaves every parameter with one control at the most, whatever was learned in whatever order', () => {
    for (const { id, parameters } of DEVICES) {
      let settings: Settings = { device: id },
        dice = 7
      for (let n = 0; n < 60; n += 1) {
        dice = (dice * 48271) % 2147483647
        const control = 1 + (dice % 8),
          parameter = parameters[(dice >> 5) % parameters.length]!
        settings = withLearned(settings, control, parameter.id)
        const setting = settingOf(settings),
          targets = CONTROLS.map((one) => targetOf(setting, one))
        expect(parameters[targets[control - 1]!]!.id).toBe(parameter.id)
        const set = targets.filter((place) => place >= 0)
        expect(new Set(set).size).toBe(set.length)
        // With as many controls as there are parameters at least, one is always free for what none sets.
        parameters.forEach((_, place) => {
          expect(controlOf(setting, place) ?? freeControl(setting)).toBeDefined()
        })
      }
    }
  })

  it('has nothing to learn from a device that is not here', () => {
    const setting = settingOf({ device: 'gone' })
    expect(deviceAt(setting)).toBeUndefined()
    expect(CONTROLS.map((control) => targetOf(setting, control))).toEqual(Array<number>(8).fill(-1))
  })
})
