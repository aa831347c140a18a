/**
 * Leaves the long help of modules out of the page's code: it is a file of its own, fetched by what shows it
 * (`src/bench/helps.ts`). In `help(does, how, ranges, start)` of a module's description only `does` stays.
 */
import type { Plugin } from 'vite'

const DESCRIPTION = /\/core\/src\/modules\/[^/]+\/[^/]+\/module\.ts$/

/** Where a string that begins at `at` ends: behind its closing quote. */
const stringEnd = (code: string, at: number): number => {
  const quote = code[at]
  let n = at + 1
  while (n < code.length && code[n] !== quote) {
    if (code[n] === '\\') n += 1
    else if (quote === '`' && code.startsWith('${', n)) n = closingOf(code, n + 1)
    n += 1
  }
  return n + 1
}

/** Where the bracket at `at` closes. */
const closingOf = (code: string, at: number): number => {
  let depth = 0
  for (let n = at; n < code.length; n += 1) {
    const letter = code[n]!
    if ('\'"`'.includes(letter)) n = stringEnd(code, n) - 1
    else if ('([{'.includes(letter)) depth += 1
    else if (')]}'.includes(letter)) {
      depth -= 1
      if (depth === 0) return n
    }
  }
  return code.length
}

/** The code without what comes behind the first argument of its call of `help`. */
export const withoutProse = (code: string): string => {
  const call = /\bhelp: help\(/.exec(code)
  if (!call) return code
  const open = call.index + call[0].length - 1,
    close = closingOf(code, open)
  let n = open + 1
  while (n < close && code[n] !== ',') {
    if ('\'"`'.includes(code[n]!)) n = stringEnd(code, n) - 1
    else if ('([{'.includes(code[n]!)) n = closingOf(code, n)
    n += 1
  }
  return `${code.slice(0, n)}, '', '', '')${code.slice(close + 1)}`
}

export const prose = (): Plugin => ({
  name: 'help-apart',
  enforce: 'pre',
  transform: (code, id) => (DESCRIPTION.test(id) ? { code: withoutProse(code), map: null } : undefined),
})
