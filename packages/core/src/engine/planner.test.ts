import { describe, expect, it } from 'vitest'
import { duplicate } from '../patch/duplicate.ts'
import { connect, removeCables, removeModules, addModule, setParam } from '../patch/edits.ts'
import type { Patch } from '../patch/types.ts'
import { patchOf } from '../testing/bench.ts'
import { Live } from '../testing/live.ts'
import { largest, largestStep } from '../testing/measure.ts'

const voice = (): Patch =>
  patchOf(
    [
      ['notes', 'notes', { voices: 4, mode: 'poly' }],
      ['osc', 'oscillator'],
      ['env', 'envelope'],
      ['amp', 'amplifier'],
      ['out', 'output'],
    ],
    [
      'notes.pitch > osc.pitch',
      'notes.gate > env.gate',
      'osc.sine > amp.in',
      'env.env > amp.cv',
      'amp.out > out.in',
    ],
  )

describe('editing while it plays', () => {
  it('adds, connects and removes modules without a click', () => {
    const live = new Live(voice())
    live.runtime.send({ event: { type: 'on', note: 60, velocity: 1, id: 1 } })
    live.run(0.5)
    const at = live.out.length
    live.change((draft) => {
      addModule(draft, 'filter', 0, 0)
    })
    live.run(0.1)
    live.change((draft) => {
      connect(draft, 'osc.sine', 'filter.in')
    })
    live.run(0.1)
    live.change((draft) => {
      connect(draft, 'filter.low', 'out.in')
    })
    live.run(0.1)
    expect(largest(live.out, at + 9600)).toBeGreaterThan(0.6)
    live.change((draft) => {
      setParam(draft, 'filter', 'cutoff', 300)
    })
    live.run(0.1)
    live.change((draft) => {
      removeModules(draft, new Set(['filter']))
    })
    live.run(0.1)
    live.change((draft) => {
      removeCables(draft, new Set([draft.cables.find((cable) => cable.to === 'amp.in')!.id ?? '']))
    })
    live.run(0.1)
    expect(largestStep(live.out, at)).toBeLessThan(0.05)
    expect(largest(live.out, live.out.length - 1000)).toBeLessThan(0.6)
  })

  it('keeps the state of whatever stays', () => {
    const still = new Live(voice()),
      edited = new Live(voice())
    for (const live of [still, edited])
      live.runtime.send({ event: { type: 'on', note: 57, velocity: 1, id: 1 } })
    still.run(1)
    edited.run(0.4)
    edited.change((draft) => {
      addModule(draft, 'lfo', 0, 0)
      addModule(draft, 'delayline', 0, 0)
    })
    edited.run(0.2)
    edited.change((draft) => {
      removeModules(draft, new Set(['lfo']))
    })
    edited.run(0.4)
    expect(Float32Array.from(edited.out.slice(0, 47000))).toEqual(
      Float32Array.from(still.out.slice(0, 47000)),
    )
  })

  it('gives the memory back', () => {
    const live = new Live(voice())
    live.run(0.05)
    const round = (): void => {
      live.change((draft) => {
        duplicate(draft, ['osc', 'env', 'amp'], 10)
        addModule(draft, 'delayline', 0, 0)
      })
      live.run(0.05)
      live.change((draft) => {
        removeModules(draft, new Set(draft.modules.slice(5).map((module) => module.id)))
      })
      live.run(0.2)
    }
    round()
    round()
    const before = live.layout.memoryInUse
    for (let n = 0; n < 10; n += 1) round()
    expect(live.layout.memoryInUse).toBe(before)
  })

  it('ends as a fresh build of the same patch', () => {
    const live = new Live(voice())
    live.run(0.05)
    live.change((draft) => {
      connect(draft, 'env.env', 'osc.fine', 30)
    })
    live.run(0.05)
    live.change((draft) => {
      removeCables(
        draft,
        new Set(draft.cables.filter((cable) => cable.to === 'osc.fine').map((cable) => cable.id ?? '')),
      )
    })
    live.run(0.1)
    const fresh = new Live(live.patch)
    expect(live.planner.plan).toEqual(fresh.planner.plan)
  })

  it('lets an edited macro reach the formulas that read it', () => {
    const live = new Live(
      patchOf(
        [
          ['v', 'value', { value: '= macro:bright * 0.5' }],
          ['out', 'output', { level: 0 }],
        ],
        ['v.out > out.in'],
        { macros: [{ id: 'bright', name: 'Bright', value: 0.2, targets: [] }] },
      ),
    )
    const heard = (): number => live.runtime.f32(live.runtime.u32(live.layout.signal('v.out')!.address))
    live.run(0.1)
    expect(heard()).toBeCloseTo(0.1, 5)
    const plan = live.planner.plan
    live.change((draft) => {
      draft.macros![0]!.value = 0.8
    })
    live.run(0.1)
    expect(live.planner.plan).toBe(plan)
    expect(heard()).toBeCloseTo(0.4, 5)
  })

  it('plans anew when a value needs more memory than there is', () => {
    const live = new Live(
      patchOf(
        [
          ['w', 'noise'],
          ['d', 'delayline', { time: 2 }],
          ['out', 'output'],
        ],
        ['w.white > d.in', 'd.out > out.in'],
      ),
    )
    live.run(0.1)
    const before = live.planner.plan
    live.change((draft) => setParam(draft, 'd', 'time', 3))
    expect(live.planner.plan).toBe(before)
    live.change((draft) => setParam(draft, 'd', 'time', 5000))
    expect(live.planner.plan).not.toBe(before)
    live.run(6)
    expect(largest(live.out.slice(-4800))).toBeGreaterThan(0.1)
  })
})
