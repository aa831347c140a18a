import { describe, expect, it } from 'vitest'
import { CATALOGUE, PUBLIC_MODULES } from '../catalogue.ts'
import { COMING } from './coming.ts'
import { findParts } from './search.ts'

const firstFor = (text: string): string => {
  const [found] = findParts(PUBLIC_MODULES, text)
  if (!found) return 'nothing'
  return found.kind === 'part' ? found.part.type : `not yet: ${found.coming.label}`
}

/** What a practitioner types, and what must come first. */
const WANTED: readonly (readonly [text: string, first: string])[] = [
  ['sample and hold', 'hold'],
  ['s&h', 'hold'],
  ['supersaw', 'unison'],
  ['lowpass', 'filter'],
  ['low-pass', 'filter'],
  ['Low Pass', 'filter'],
  ['high-pass', 'filter'],
  ['bandpass', 'filter'],
  ['svf', 'filter'],
  ['vcf', 'filter'],
  ['vca', 'amplifier'],
  ['vco', 'oscillator'],
  ['osc', 'oscillator'],
  ['saw', 'oscillator'],
  ['square', 'oscillator'],
  ['fm', 'operator'],
  ['filter', 'filter'],
  ['ladder', 'ladder'],
  ['reverb', 'reverb'],
  ['echo', 'delay'],
  ['delay', 'delay'],
  ['chorus', 'chorus'],
  ['flanger', 'flanger'],
  ['phaser', 'phaser'],
  ['sampler', 'sampler'],
  ['granular', 'grains'],
  ['looper', 'buffer'],
  ['drum', 'strike'],
  ['kick', 'strike'],
  ['karplus', 'string'],
  ['karplus-strong', 'string'],
  ['pluck', 'string'],
  ['bell', 'operator'],
  ['marimba', 'modes'],
  ['attenuator', 'mix'],
  ['attenuverter', 'mix'],
  ['pan', 'pan'],
  ['eq', 'equalizer'],
  ['equaliser', 'equalizer'],
  ['ring mod', 'multiply'],
  ['ring modulation', 'multiply'],
  ['quantizer', 'quantize'],
  ['quantiser', 'quantize'],
  ['scale', 'quantize'],
  ['adsr', 'envelope'],
  ['env', 'envelope'],
  ['lfo', 'lfo'],
  ['vibrato', 'lfo'],
  ['make it wobble', 'lfo'],
  ['wobble', 'lfo'],
  ['sequencer', 'steps'],
  ['arpeggiator', 'arp'],
  ['arp', 'arp'],
  ['portamento', 'glide'],
  ['slew', 'glide'],
  ['compressor', 'dynamics'],
  ['sidechain', 'dynamics'],
  ['distortion', 'drive'],
  ['saturation', 'drive'],
  ['wavefolder', 'folder'],
  ['bitcrusher', 'crush'],
  ['limiter', 'limiter'],
  ['noise', 'noise'],
  ['white noise', 'noise'],
  ['keyboard', 'notes'],
  ['midi', 'notes'],
  ['out', 'output'],
  ['microphone', 'input'],
  ['additive', 'partials'],
  ['wavetable', 'wavetable'],
  ['euclidean', 'euclid'],
  ['clock', 'clock'],
  ['probability', 'chance'],
  ['comparator', 'compare'],
  ['crossfade', 'crossfade'],
  ['mixer', 'mixer'],
  ['mix', 'mix'],
  ['vowel', 'formant'],
  ['comb', 'comb'],
  ['all-pass', 'allpass'],
  ['constant', 'value'],
  ['chord', 'chord'],
  ['transpose', 'shift'],
  ['envelope follower', 'follower'],
  ['vactrol', 'lowpassgate'],
  ['low-pass gate', 'lowpassgate'],
  ['oscilloscope', 'scope'],
  ['tuner', 'tuner'],
]

describe('finding parts', () => {
  it.each(WANTED)('"%s" finds %s first', (text, first) => {
    expect(firstFor(text)).toBe(first)
  })

  it('finds every part by its own name and type, first', () => {
    for (const part of PUBLIC_MODULES) {
      expect(firstFor(part.type)).toBe(part.type)
      expect(firstFor(part.label)).toBe(part.type)
    }
  })

  it('takes several words together, and gives no filler', () => {
    expect(firstFor('stereo width')).toBe('stereo')
    expect(firstFor('slow random')).toBe('drift')
    expect(findParts(PUBLIC_MODULES, 'vca').length).toBeLessThan(5)
    expect(findParts(PUBLIC_MODULES, 'xyzzy')).toEqual([])
    expect(findParts(PUBLIC_MODULES, 'filter zzz')).toEqual([])
  })

  it('shows everything before anything is typed', () => {
    expect(findParts(PUBLIC_MODULES, '  ')).toHaveLength(PUBLIC_MODULES.length)
  })

  it('never says of a part there is that it is not built, and names what is there instead', () => {
    const labels = new Set(PUBLIC_MODULES.map(({ label }) => label.toLowerCase()))
    for (const { label, instead } of COMING) {
      expect(labels.has(label.toLowerCase()), label).toBe(false)
      expect(instead.length).toBeGreaterThan(0)
      for (const type of instead) expect(CATALOGUE.has(type), type).toBe(true)
    }
  })
})
