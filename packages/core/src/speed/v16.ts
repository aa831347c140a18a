/** "V16" of the speed suite: 16 voices × (3 saws → mix → filter with an enveloped cutoff → amplifier with a second envelope), summed. */
export const V16 = {
  format: 'ypsilon/patch',
  version: 1,
  name: 'V16',
  seed: 1,
  tempo: 120,
  modules: [
    { id: 'notes', type: 'notes', params: { voices: 16, mode: 'poly' } },
    ...[0, 1, 2].map((n) => ({ id: `osc${n}`, type: 'oscillator', params: { fine: (n - 1) * 5 } })),
    { id: 'mix', type: 'mix' },
    { id: 'filter', type: 'filter', params: { cutoff: 400, resonance: 0.4 } },
    { id: 'env', type: 'envelope', params: { attack: 0.05, decay: 0.6, sustain: 0.4, release: 0.4 } },
    { id: 'loud', type: 'envelope', params: { attack: 0.01, decay: 0.3, sustain: 0.6, release: 0.4 } },
    { id: 'amp', type: 'amplifier' },
    { id: 'out', type: 'output', params: { level: -40 } },
  ],
  cables: [
    ...[0, 1, 2].flatMap((n) => [
      { from: 'notes.pitch', to: `osc${n}.pitch` },
      { from: `osc${n}.saw`, to: `mix.in${n + 1}` },
    ]),
    { from: 'notes.gate', to: 'env.gate' },
    { from: 'notes.gate', to: 'loud.gate' },
    { from: 'mix.out', to: 'filter.in' },
    { from: 'env.env', to: 'filter.cutoff', amount: 3 },
    { from: 'filter.low', to: 'amp.in' },
    { from: 'loud.env', to: 'amp.cv' },
    { from: 'amp.out', to: 'out.in' },
  ],
}
