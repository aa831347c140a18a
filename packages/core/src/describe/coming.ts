/** What people will look for and is not built yet. */

export interface Coming {
  readonly label: string
  readonly words: readonly string[]
  /** Types that do something like it, or that it can be built from. */
  readonly instead: readonly string[]
}

export const COMING: readonly Coming[] = [
  {
    label: 'Reverb',
    words: ['room', 'hall', 'plate', 'space', 'ambience'],
    instead: ['allpass', 'delayline'],
  },
  { label: 'Spring reverb', words: ['spring'], instead: ['allpass', 'delayline'] },
  { label: 'Convolver', words: ['convolution', 'impulse response'], instead: ['delayline'] },
  { label: 'Pitch shifter', words: ['pitchshift', 'harmonizer', 'octaver'], instead: ['delayline', 'shift'] },
  { label: 'Sampler', words: ['sample player', 'multisample', 'zones'], instead: ['wavetable'] },
  { label: 'Player', words: ['audio file', 'recording', 'loop player'], instead: ['input'] },
  { label: 'Grains', words: ['granular', 'grain cloud'], instead: ['wavetable', 'delayline'] },
  { label: 'Looper', words: ['buffer', 'overdub', 'record loop'], instead: ['delayline'] },
  { label: 'Vocoder', words: ['bands'], instead: ['formant', 'follower'] },
  { label: 'Outboard', words: ['external effect', 'plug-in'], instead: ['input', 'output'] },
]
