/** What people will look for and is not built yet. */

export interface Coming {
  readonly label: string
  readonly words: readonly string[]
  /** Types that do something like it, or that it can be built from. */
  readonly instead: readonly string[]
}

export const COMING: readonly Coming[] = [
  { label: 'Delay', words: ['echo', 'ping-pong', 'tape echo'], instead: ['delayline'] },
  {
    label: 'Reverb',
    words: ['room', 'hall', 'plate', 'space', 'ambience'],
    instead: ['allpass', 'delayline'],
  },
  { label: 'Diffuser', words: ['all-pass chain', 'smear'], instead: ['allpass'] },
  { label: 'Spring reverb', words: ['spring'], instead: ['allpass', 'delayline'] },
  { label: 'Convolver', words: ['convolution', 'impulse response'], instead: ['delayline'] },
  { label: 'Chorus', words: ['ensemble'], instead: ['unison', 'delayline'] },
  { label: 'Flanger', words: ['through zero flanger', 'flange'], instead: ['delayline', 'comb'] },
  { label: 'Phaser', words: ['phase shifter'], instead: ['allpass'] },
  { label: 'Pitch shifter', words: ['pitchshift', 'harmonizer', 'octaver'], instead: ['delayline', 'shift'] },
  {
    label: 'Frequency shifter',
    words: ['freqshift', 'single sideband', 'bode'],
    instead: ['multiply'],
  },
  { label: 'Sampler', words: ['sample player', 'multisample', 'zones'], instead: ['wavetable'] },
  { label: 'Player', words: ['audio file', 'recording', 'loop player'], instead: ['input'] },
  { label: 'Grains', words: ['granular', 'grain cloud'], instead: ['wavetable', 'delayline'] },
  { label: 'Looper', words: ['buffer', 'overdub', 'record loop'], instead: ['delayline'] },
  { label: 'Vocoder', words: ['bands'], instead: ['formant', 'follower'] },
  { label: 'Outboard', words: ['external effect', 'plug-in'], instead: ['input', 'output'] },
]
