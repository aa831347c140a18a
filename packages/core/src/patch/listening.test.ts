import { describe, expect, it } from 'vitest'
import { compile } from '../compile/compile.ts'
import { grouped, heard as feeds, voice } from '../testing/groups.ts'
import { demoPatch, DEMOS } from '../testing/patches.ts'
import { heardAfter, heardBefore, listeningTo } from './listening.ts'

describe('listening', () => {
  it('hears what comes to a module and what leaves it, and nothing else', () => {
    const patch = voice()
    expect(heardBefore(patch, 'filter')).toEqual([{ from: 'osc.saw', amount: 1 }])
    expect(heardBefore(patch, 'echo')).toEqual([{ from: 'amp.out', amount: 0.5 }])
    expect(heardBefore(patch, 'osc')).toEqual([])
    expect(heardAfter(patch, 'filter')).toEqual([{ from: 'filter.low', amount: 1 }])
    const ends = (of: ReturnType<typeof voice>): string[] =>
      feeds(of).filter((feed) => feed.includes('> ~listen'))
    expect(ends(listeningTo(patch, heardBefore(patch, 'echo')))).toEqual([
      'amp.out > ~listen.in * 0.5000000000',
    ])
    expect(feeds(listeningTo(patch, [])).some((feed) => feed.includes('> out.in'))).toBe(false)
  })

  it('hears what is in groups, in their ports, and what is not there is silent', () => {
    const { patch, id } = grouped(voice(), ['filter', 'amp'])
    const inside = listeningTo(patch, heardAfter(patch, 'filter'))
    expect(feeds(inside)).toContain('filter.low > ~listen.in * 1.000000000')
    expect(feeds(listeningTo(patch, heardAfter(patch, id)))).toContain('amp.out > ~listen.in * 1.000000000')
    expect(
      feeds(listeningTo(patch, [{ from: 'gone.out', amount: 1 }])).some((feed) => feed.includes('~listen')),
    ).toBe(false)
  })

  it('plays, at any module of any demo', () => {
    for (const name of DEMOS) {
      const patch = demoPatch(name)
      for (const { id } of patch.modules) {
        expect(compile(listeningTo(patch, heardAfter(patch, id))).ok, `${name} after ${id}`).toBe(true)
        expect(compile(listeningTo(patch, heardBefore(patch, id))).ok, `${name} before ${id}`).toBe(true)
      }
    }
  })
})
