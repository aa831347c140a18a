/** What the probe is tried on. */
import type { Page } from 'puppeteer-core'
import { pause } from './browser.ts'

export const CARRIER = 700,
  MODULATOR = 210
/** Of modulation, in radians. */
const INDEX = 3
/** A tone that is modulated, through a filter: all of its sidebands are known. */
export const PATCH = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'Marsh Beacon',
  modules: [
    {
      id: 'mod',
      type: 'oscillator',
      label: 'Beat',
      params: { tracking: false, frequency: MODULATOR },
      x: 0,
      y: 0,
    },
    {
      id: 'car',
      type: 'oscillator',
      label: 'Lamp',
      params: { tracking: false, frequency: CARRIER },
      x: 260,
      y: 0,
    },
    { id: 'low', type: 'filter', label: 'Fog', params: { cutoff: 1000, resonance: 0.2 }, x: 520, y: 0 },
    { id: 'out', type: 'output', params: { level: -12 }, x: 780, y: 0 },
  ],
  cables: [
    { id: 'deep', from: 'mod.sine', to: 'car.phase', amount: INDEX / (2 * Math.PI) },
    { id: 'lit', from: 'car.sine', to: 'low.in', amount: 0.5 },
    { id: 'on', from: 'low.low', to: 'out.in' },
  ],
  snapshots: [{ id: 's1', name: 'Thick fog', params: { 'low.cutoff': 200 } }],
}

/** A second of 1 kHz. */
export const TONE = Float32Array.from({ length: 48000 }, (_, i) => 0.25 * Math.sin((2 * Math.PI * i) / 48))

/** Closes a slot, and waits until the others have taken its room: what is pressed next has moved. */
export const closeSlot = async (page: Page, slot: string): Promise<void> => {
  await page.click(`button[aria-label="Close slot ${slot}"]`)
  await page.waitForFunction((gone) => !document.querySelector(`[data-slot="${gone}"]`), {}, slot)
  await pause(150)
}
