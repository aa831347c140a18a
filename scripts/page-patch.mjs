// A patch of any size as one would stand on the bench: voices of ten modules side by side, mixed to one output.

/** Modules of a voice: type, and where it stands in it. */
const VOICE = [
  ['lfo', 0, 0],
  ['envelope', 0, 1],
  ['oscillator', 1, 0],
  ['oscillator', 1, 1],
  ['mix', 2, 0],
  ['drift', 2, 1],
  ['filter', 3, 0],
  ['drive', 4, 0],
  ['envelope', 3, 1],
  ['amplifier', 4, 1],
]
/** Cables within a voice by the places of its modules: from, output, to, input, amount. */
const WIRES = [
  [0, 'out', 2, 'width', 0.2],
  [0, 'triangle', 6, 'cutoff', 0.5],
  [1, 'env', 6, 'cutoff', 2],
  [1, 'env', 7, 'gain', 3],
  [1, 'inverse', 3, 'width', 0.1],
  [2, 'saw', 4, 'in1'],
  [3, 'pulse', 4, 'in2'],
  [2, 'sine', 3, 'fine', 5],
  [5, 'out', 2, 'fine', 4],
  [5, 'opposite', 3, 'fine', 4],
  [4, 'out', 6, 'in'],
  [6, 'low', 7, 'in'],
  [7, 'out', 9, 'in'],
  [8, 'env', 9, 'cv'],
  [5, 'out', 6, 'resonance', 0.1],
  [8, 'env', 4, 'amount1', 0.2],
]
const ACROSS = 264,
  DOWN = 330,
  VOICES_ACROSS = 3

/** A patch of `size` modules, about two cables each. */
export const pagePatch = (size) => {
  const modules = [{ id: 'notes', type: 'notes', x: 0, y: 0, params: { voices: 1 } }],
    cables = []
  const cable = (from, to, amount) => {
    cables.push({ id: `c${cables.length}`, from, to, ...(amount === undefined ? {} : { amount }) })
  }
  const count = Math.max(1, Math.floor((size - 2) / VOICE.length))
  for (let voice = 0; voice < count; voice += 1) {
    const id = (n) => `v${voice}m${n}`
    const left = ACROSS + (voice % VOICES_ACROSS) * ACROSS * 5.4,
      top = Math.floor(voice / VOICES_ACROSS) * DOWN * 2.1
    VOICE.forEach(([type, x, y], n) => {
      modules.push({ id: id(n), type, x: Math.round(left + x * ACROSS), y: Math.round(top + y * DOWN) })
    })
    for (const [from, output, to, input, amount] of WIRES)
      cable(`${id(from)}.${output}`, `${id(to)}.${input}`, amount)
    cable('notes.pitch', `${id(2)}.pitch`)
    cable('notes.pitch', `${id(3)}.pitch`)
    cable('notes.gate', `${id(1)}.gate`)
    cable('notes.gate', `${id(8)}.gate`)
    cable(`${id(9)}.out`, 'output.in', 1 / count)
  }
  while (modules.length < size - 1)
    modules.push({
      id: `x${modules.length}`,
      type: 'value',
      x: 0,
      y: 330 + (modules.length % VOICE.length) * 110,
    })
  modules.push({ id: 'output', type: 'output', x: ACROSS * (1.4 + VOICES_ACROSS * 5.4), y: 0 })
  return { format: 'ypsilon/patch', version: 1, name: `Tide wall ${size}`, modules, cables }
}
