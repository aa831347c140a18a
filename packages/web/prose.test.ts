/** Descriptions lose their long help and nothing else. */
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect, it } from 'vitest'
import { withoutProse } from './prose.ts'

const MODULES = fileURLToPath(new URL('../core/src/modules', import.meta.url))

it('is left out of every description there is, up to the call it stands in', () => {
  const files = readdirSync(MODULES, { recursive: true, encoding: 'utf8' }).filter((name) =>
    /module\.ts$/.test(name),
  )
  expect(files.length).toBeGreaterThan(70)
  for (const name of files) {
    const code = readFileSync(join(MODULES, name), 'utf8')
    if (!code.includes('help: help(')) continue
    const short = withoutProse(code)
    expect(short.length, name).toBeLessThan(code.length)
    // What stands before and after is as it was.
    const [before, after] = short.split("'', '', '')") as [string, string]
    expect(code.startsWith(before.replace(/, $/, '')), name).toBe(true)
    expect(code.endsWith(after), name).toBe(true)
    expect(after.startsWith(',\n'), name).toBe(true)
  }
})

it('reads strings, templates and brackets as they are', () => {
  expect(
    withoutProse("a: 1, help: help('it\\'s (so), `x`', `b ${c(')')} d`, 'e', 'f'), g: h('i', 'j')"),
  ).toBe("a: 1, help: help('it\\'s (so), `x`', '', '', ''), g: h('i', 'j')")
})
