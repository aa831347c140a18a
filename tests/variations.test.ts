/** Variations from the command line: patches, renders and a table, within limits, the same whatever hears them. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { ROOT } from './support/browser.ts'
import { filesIn, hashOf, run, SLIP_REED, workFolder } from './support/command.ts'

const { at, save, wav } = workFolder('variations')

describe('./ypsilon vary', () => {
  it('makes patches and renders with a table of their distances, the same with any number of threads', () => {
    const limited = save('limited.ypatch.json', {
      ...SLIP_REED,
      vary: {
        seed: 3,
        limits: { 'filter.cutoff': { low: 300, high: 6000, spread: 1 }, 'env.attack': { lock: true } },
      },
    })
    const tables = ['1', '3'].map((threads) => {
      const done = run('vary', limited, '--count', '4', '--workers', threads, '--out', at(`vary${threads}`))
      expect(done.status).toBe(0)
      return done.stdout
    })
    expect(tables[0]).toBe(tables[1])
    expect(hashOf(at('vary1'))).toBe(hashOf(at('vary3')))
    expect(tables[0]!.trim().split('\n')).toHaveLength(5)
    expect(filesIn(at('vary1'))).toEqual(
      [
        ...[1, 2, 3, 4].flatMap((n) => [`Slip_Reed-${n}.wav`, `Slip_Reed-${n}.ypatch.json`]),
        'distances.csv',
      ].sort(),
    )
    for (const n of [1, 2, 3, 4]) {
      const made = JSON.parse(
        readFileSync(at('vary1', `Slip_Reed-${n}.ypatch.json`), 'utf8'),
      ) as typeof SLIP_REED
      const params = new Map(
        made.modules.map(({ id, params: set }) => [id, new Map(Object.entries(set ?? {}))]),
      )
      expect(params.get('env')!.get('attack')).toBe(0.01)
      expect(params.get('osc')!.has('fine')).toBe(false)
      // What is rendered is the patch that is written.
      const again = run(
        'render',
        at('vary1', `Slip_Reed-${n}.ypatch.json`),
        '--play',
        '60@0+1:0.8',
        '--seconds',
        '1',
        '--out',
        at('again.wav'),
      )
      expect(again.status).toBe(0)
      const one = wav('again.wav').channels[0]!,
        other = wav('vary1', `Slip_Reed-${n}.wav`).channels[0]!
      expect(one.subarray(0, 40000).every((x, i) => Math.abs(x - other[i]!) < 1e-6)).toBe(true)
    }
  })
  it('breeds several patches', () => {
    const [one, other] = [1, 2].map((n) => at('vary1', `Slip_Reed-${n}.ypatch.json`))
    const done = run('vary', one!, other!, '--count', '2', '--out', at('bred'))
    expect(done.status).toBe(0)
    expect(filesIn(at('bred')).filter((name) => name.endsWith('.wav')).length).toBeGreaterThan(0)
    const same = run('vary', one!, one!, '--count', '2', '--out', at('none'))
    expect([same.status, same.stderr]).toEqual([2, expect.stringMatching(/differ in nothing/)])
  })
  it('brings recordings along, and says what is wrong', () => {
    const demo = join(ROOT, 'demo/patches/quay-loop.ypatch.json')
    const done = run('vary', demo, '--count', '2', '--out', at('quay'))
    expect(done.status).toBe(0)
    const checked = run(
      'check',
      at(
        'quay',
        filesIn(at('quay')).find((name) => name.endsWith('.json'))!,
      ),
    )
    expect(checked.stderr + checked.stdout).not.toMatch(/there is no/)
    for (const [args, expected] of [
      [[demo, '--count', '0', '--out', at('y')], /--count: 0 is outside/],
      [[demo, '--out', at('y')], /--count N is missing/],
      [[demo, '--count', '1'], /--out DIR is missing/],
      [[demo, '--count', '1', '--spread', '2', '--out', at('y')], /--spread: 2 is outside/],
    ] as const) {
      const refused = run('vary', ...args)
      expect([refused.status, refused.stderr]).toEqual([2, expect.stringMatching(expected)])
    }
  })
})
