/** What a checker of accessibility finds on the page as it stands. */
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import type { Page } from 'puppeteer-core'

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')

interface Violation {
  readonly id: string
  readonly nodes: readonly { readonly html: string }[]
}
/** By night only what colours can change is looked at again; `within`: in this part of the page alone. */
export const violations = async (
  page: Page,
  rules?: readonly string[],
  within?: string,
): Promise<string[]> => {
  if (!(await page.evaluate('"axe" in window'))) await page.evaluate(`${AXE};0`)
  return page.evaluate(
    (only, part) =>
      (
        window as unknown as {
          axe: { run(what: Document | Element, how: object): Promise<{ violations: Violation[] }> }
        }
      ).axe
        .run(part === undefined ? document : document.querySelector(part)!, {
          resultTypes: ['violations'],
          ...(only ? { runOnly: only } : {}),
        })
        .then(({ violations: all }) => all.map(({ id, nodes }) => `${id}: ${nodes[0]!.html.slice(0, 120)}`)),
    rules,
    within,
  )
}
