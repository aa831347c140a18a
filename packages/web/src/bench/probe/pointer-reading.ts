/** What is read where the pointer is. */
import { type Curve, heightAt, type Plot } from '@ypsilon/core/probe/plot.ts'
import { shareOf, valueAt, valueWords } from './axes.ts'
import type { Area } from './sheet.ts'

/** What is read at the pointer: its place, and the height of the first curve there. */
export const readAt = (plot: Plot, area: Area, x: number, y: number): string | undefined => {
  const share = (x - area.left) / area.width,
    rise = 1 - (y - area.top) / area.height
  if (share < 0 || share > 1 || rise < 0 || rise > 1) return undefined
  const at = valueAt(plot.across, share),
    [curve] = plot.curves
  if (curve?.style === 'dots' || plot.across.unit === '') return undefined
  const where = valueWords(at, plot.across.unit)
  if (plot.picture) return `${where}  ${valueWords(valueAt(plot.up, rise), plot.up.unit)}`
  const height = curve && heightNear(curve, plot, area, at)
  return height === undefined ? where : `${where}  ${valueWords(height, plot.up.unit)}`
}

/** The highest point of a curve within a pixel of a place: what is seen there. */
const heightNear = (curve: Curve, plot: Plot, area: Area, at: number): number | undefined => {
  if (curve.style === 'bars') {
    let best: number | undefined,
      nearest = Infinity
    curve.x.forEach((x, n) => {
      const away = Math.abs(shareOf(plot.across, x) - shareOf(plot.across, at))
      if (away < nearest) {
        nearest = away
        best = curve.y[n]
      }
    })
    return best
  }
  const share = shareOf(plot.across, at)
  let most = heightAt(curve, at)
  if (plot.up.unit !== 'dB') return most
  for (let step = -4; step <= 4; step += 1) {
    const near = heightAt(curve, valueAt(plot.across, share + step / 4 / area.width))
    if (near !== undefined && (most === undefined || near > most)) most = near
  }
  return most
}
