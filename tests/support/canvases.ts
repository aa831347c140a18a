/** Canvases as they are drawn by now. */
import type { Page } from 'puppeteer-core'

/** What all canvases of a selector show, pixel by pixel: other words where they show something else. */
export const drawnIn = (page: Page, selector: string): Promise<string> =>
  page.$$eval(selector, (all) => all.map((canvas) => (canvas as HTMLCanvasElement).toDataURL()).join('\n'))
