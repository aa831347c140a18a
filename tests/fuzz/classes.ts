/* eslint max-lines: ["error", 500] -- one list: every way in, with what it is given */
/**
 * What is fuzzed: every class makes a case from a seed and tries it through the command line's own functions, with real
 * files. A case is refused with plain lines or taken whole; anything else is a fault, told by what is handed back.
 */
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strToU8, zipSync } from 'fflate'
import { FUNCTIONS, parseFormula, readWav, writeWav } from '@ypsilon/core'
import { readClip } from '@ypsilon/core/formats/clip.ts'
import { analyzeCommand } from '../../packages/cli/src/analyze.ts'
import { BadInput } from '../../packages/cli/src/bad-input.ts'
import { checkCommand } from '../../packages/cli/src/check.ts'
import { convertCommand } from '../../packages/cli/src/convert.ts'
import { kernels } from '../../packages/cli/src/files.ts'
import { renderCommand } from '../../packages/cli/src/render.ts'
import * as hard from '../../packages/core/src/testing/hard.ts'
import { Dice } from '../../packages/core/src/units/dice.ts'
import { graphFault } from './graphs.ts'
import { mutated, mutatedBytes, mutatedText } from './mutate.ts'

export type Outcome = 'taken' | 'refused'
export class Wrong extends Error {}

const folder = mkdtempSync(join(tmpdir(), 'ypsilon-fuzz-'))
process.once('exit', () => {
  rmSync(folder, { recursive: true, force: true })
})
const at = (name: string): string => join(folder, name)

const save = (name: string, content: string | Uint8Array): string => {
  writeFileSync(at(name), content)
  return at(name)
}

/** Runs a command without its words; refused input is an outcome, anything else thrown a fault. */
const tried = async (command: () => void | Promise<void>): Promise<Outcome> => {
  const [out, err] = [process.stdout.write, process.stderr.write]
  process.stdout.write = () => true
  process.stderr.write = () => true
  try {
    await command()
    return 'taken'
  } catch (error) {
    if (!(error instanceof BadInput)) throw error
    if (error.lines.length === 0) throw new Wrong('refused without a word')
    return 'refused'
  } finally {
    process.stdout.write = out
    process.stderr.write = err
  }
}

const soundFault = (bytes: Uint8Array): string | undefined => {
  const result = readWav(bytes)
  if (!result.ok) return `the file that was written cannot be read: ${result.fault.message}`
  for (const channel of result.sound.channels)
    for (const x of channel) if (!Number.isFinite(x) || Math.abs(x) > 1) return `the output holds ${x}`
  return undefined
}

/** Renders what was checked: a file that is whole and sane, or none at all. */
const rendered = async (patch: string, ...more: string[]): Promise<Outcome> => {
  rmSync(at('o.wav'), { force: true })
  const outcome = await tried(() =>
    renderCommand([patch, '--out', at('o.wav'), '--seconds', '0.02', '--bits', '32f', ...more]),
  )
  const files = readdirSync(folder)
  if (files.some((name) => name.includes('.part-'))) throw new Wrong('a part of a file is left')
  if (files.includes('o.wav') !== (outcome === 'taken'))
    throw new Wrong(`the output ${outcome === 'taken' ? 'is missing' : 'was written'}`)
  const fault = outcome === 'taken' ? soundFault(new Uint8Array(readFileSync(at('o.wav')))) : undefined
  if (fault) throw new Wrong(fault)
  return outcome
}

const demos = (root: string): unknown[] =>
  readdirSync(join(root, 'demo/patches'))
    .filter((name) => name.endsWith('.ypatch.json'))
    .map((name) => JSON.parse(readFileSync(join(root, 'demo/patches', name), 'utf8')) as unknown)

const HARD: unknown[] = [
  hard.circularBus(2),
  hard.ringOfBuses(5),
  hard.rowOfBuses(6),
  hard.circularGroup(),
  hard.bypassedRing(3),
  hard.layeredFormulas(6),
  hard.layeredMacros(5),
]

const EVENTS = {
  format: 'ypsilon/events',
  version: 1,
  patch: 'of this one',
  tempo: 96,
  quality: 'live',
  events: [
    { t: 0, type: 'on', note: 60, velocity: 0.8, id: 1 },
    { t: 0.002, type: 'pressure', note: 60, value: 0.5 },
    { t: 0.003, type: 'slide', note: 60, value: 0.7 },
    { t: 0.004, type: 'bend', value: 0.5 },
    { t: 0.005, type: 'control', controller: 1, value: 0.3 },
    { t: 0.005, type: 'program', program: 3 },
    { t: 0.006, type: 'param', target: 'out.level', value: -12 },
    { t: 0.007, type: 'macro', target: 'm0', value: 1, over: 0.002 },
    { t: 0.008, type: 'snapshot', target: 's', over: 0.2 },
    { t: 0.0085, type: 'blend', target: 'b', x: 0.3, y: 0.7 },
    { t: 0.009, type: 'data', target: 'steps.a', index: 3, value: 7 },
    { t: 0.0095, type: 'bypass', target: 'amp', value: true },
    { t: 0.01, type: 'tempo', value: 140 },
    { t: 0.011, type: 'transport', value: 'stop' },
    { t: 0.012, type: 'silence' },
    { t: 0.013, type: 'off', note: 60, id: 1 },
  ],
}
const LAYERED = hard.layeredMacros(3) as { readonly modules: readonly object[] }
const PLAYED = {
  ...LAYERED,
  modules: [...LAYERED.modules, { id: 'steps', type: 'steps' }, { id: 'amp', type: 'amplifier' }],
  controllers: [
    { target: 'macro:m1', controller: 1, pickup: true },
    { target: 'osc.fine', source: { kind: 'bend' }, mode: 'scaled', low: -50, high: 50 },
    { target: 'amp.level', source: { kind: 'program' }, mode: 'relative', encoding: 'sign' },
  ],
  snapshots: [
    { id: 's', name: 'Low', params: { 'osc.fine': 12, 'macro:m1': 0.3 }, fire: { note: 48 } },
    {
      id: 'u',
      name: 'High',
      scope: ['osc'],
      params: { 'steps.order': 'walk' },
      data: { 'steps.a': [1, 2] },
      bypass: { amp: true },
    },
  ],
  stage: {
    items: [
      {
        id: 'b',
        kind: 'blend',
        marks: [
          { snapshot: 's', x: 0, y: 0 },
          { snapshot: 'u', x: 1, y: 1 },
        ],
      },
    ],
  },
}

const SOUND = writeWav(
  { rate: 48000, channels: [Float32Array.from({ length: 300 }, (_, i) => Math.sin(i / 5))] },
  '16',
)
const TRACK = [
  ...[0, 0xff, 0x51, 3, 7, 0xa1, 0x20],
  ...[0, 0x90, 60, 100],
  ...[0, 0xb0, 1, 64],
  ...[2, 0xe0, 0, 80],
  ...[0, 0x90, 64, 90],
  ...[10, 0x80, 60, 0],
  ...[0, 64, 0],
  ...[0, 0xff, 0x2f, 0],
]
const MIDI = Uint8Array.from([
  ...[0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 1, 0, 1, 0, 96],
  ...[0x4d, 0x54, 0x72, 0x6b, 0, 0, 0, TRACK.length],
  ...TRACK,
])
const SCALE = '! quay.scl\n!\nQuay\n 7\n!\n200.0\n386.314\n4/3\n3/2\n900.\n1100.5\n2/1\n'
const KEYS = '12\n0\n127\n60\n69\n440.0\n12\n0\n1\n2\n3\n4\n5\n6\nx\n8\n9\n10\n11\n'

const FORMULAS = [
  'x = a * b + c; y = prev(x) * 0.99',
  'x = a > 0.5 ? sin(tau * b) : tanh(c)',
  'p = p1 * 2; x = mix(a, b, p); y = clamp(x, -1, 1) ^ 2',
  'x = smooth(a, 0.1) + noise() * hz(b) % 3',
]

/** An expression that can be read, of any nonsense. */
const randomExpression = (dice: Dice, depth: number): string => {
  const inner = (): string => randomExpression(dice, depth - 1)
  if (depth === 0 || dice.chance(0.2))
    return dice.of([
      'a',
      'b',
      'c',
      'd',
      'p1',
      'p4',
      't',
      'pi',
      'sr',
      'voice',
      'prev(y)',
      '0',
      '1e-30',
      '1e30',
      '-0.5',
    ])
  switch (dice.below(5)) {
    case 0:
      return `(${inner()} ${dice.of(['+', '-', '*', '/', '%', '^'])} ${inner()})`
    case 1:
      return `(${inner()} ${dice.of(['<', '>', '<=', '>=', '==', '!=', 'and', 'or'])} ${inner()})`
    case 2:
      return `(${inner()} ? ${inner()} : ${inner()})`
    case 3:
      return `-${inner()}`
    default: {
      const word = dice.of(FUNCTIONS)
      return `${word.name}(${Array.from({ length: word.arguments }, inner).join(', ')})`
    }
  }
}
const randomFormula = (dice: Dice): string =>
  `x = ${randomExpression(dice, 1 + dice.below(5))}; y = ${randomExpression(dice, 1 + dice.below(4))}`

const sampled = (dice: Dice): object => ({
  ...hard.circularBus(1, 0.3),
  assets: {
    [dice.of(['quay', 'constructor'])]: { kind: dice.of(['audio', 'table']), file: 'assets/q.wav' },
    five: { kind: 'tuning', file: 'assets/five.scl' },
  },
  tuning: 'five',
})

/** Changes inside an archive that are not in its files: names, doubled entries, sizes. */
const brokenZip = (dice: Dice): Uint8Array => {
  const patch = strToU8(JSON.stringify(dice.chance(0.3) ? mutated(sampled(dice), dice) : sampled(dice)))
  const entries: Record<string, Uint8Array> = {
    [dice.chance(0.9) ? 'patch.json' : '../patch.json']: patch,
    [dice.chance(0.8) ? 'assets/q.wav' : dice.of(['assets/../q.wav', '/q.wav', 'assets/q.WAV'])]: dice.chance(
      0.3,
    )
      ? mutatedBytes(SOUND, dice)
      : SOUND,
    'assets/five.scl': strToU8(SCALE),
    'unused.bin': new Uint8Array(dice.below(100000)),
  }
  const bytes = zipSync(entries, { level: dice.chance(0.5) ? 0 : 9 })
  return dice.chance(0.7) ? mutatedBytes(bytes, dice) : bytes
}

export interface FuzzClass {
  readonly name: string
  readonly run: (seed: number) => Promise<Outcome> | Outcome
}

type Run = (seed: number, patches: readonly unknown[]) => Promise<Outcome> | Outcome

/** What a class does with a seed; `patches`: those of the demos, and hard ones. */
const RUNS: Readonly<Record<string, Run>> = {
  patches: async (seed, patches) => {
    const dice = new Dice(seed)
    const base = dice.of(patches)
    const text = dice.chance(0.8)
      ? JSON.stringify(mutated(base, dice))
      : mutatedText(JSON.stringify(base), dice)
    const patch = save('p.json', text)
    if ((await tried(() => checkCommand([patch, '--json']))) === 'refused') return 'refused'
    // What is valid may still be too much to be played, and is then refused as well.
    return rendered(patch, '--play', '60@0+0.01')
  },
  events: async (seed) => {
    const dice = new Dice(seed)
    const events = save('e.json', JSON.stringify(mutated(EVENTS, dice)))
    return rendered(save('p.json', JSON.stringify(PLAYED)), '--events', events)
  },
  playing: async (seed) => {
    const dice = new Dice(seed)
    const patch = save('p.json', JSON.stringify(mutated(PLAYED, dice)))
    return rendered(patch, '--events', save('e.json', JSON.stringify(EVENTS)))
  },
  conversions: async (seed) => {
    const dice = new Dice(seed)
    rmSync(at('c.mid'), { force: true })
    const events = save('e.json', JSON.stringify(mutated(EVENTS, dice)))
    const there = await tried(() => convertCommand([events, at('c.mid')]))
    if (there === 'refused') return there
    // What was written can be read, and so can what that was read as.
    const back = await tried(() => convertCommand([at('c.mid'), at('back.json')]))
    if (back === 'refused') throw new Wrong('a MIDI file it wrote itself is refused')
    return tried(() => convertCommand([at('back.json'), at('c.mid')]))
  },
  archives: async (seed) => rendered(save('p.zip', brokenZip(new Dice(seed)))),
  sounds: async (seed) => {
    const sound = save('i.wav', mutatedBytes(SOUND, new Dice(seed)))
    const outcome = await tried(() => analyzeCommand([sound, '--json']))
    const input = await rendered(save('p.json', JSON.stringify(PLAYED)), '--input', sound)
    return outcome === input ? outcome : 'refused'
  },
  midi: async (seed) => {
    const bytes = mutatedBytes(MIDI, new Dice(seed))
    readClip(bytes)
    return rendered(save('p.json', JSON.stringify(PLAYED)), '--midi', save('m.mid', bytes))
  },
  scales: async (seed) => {
    const dice = new Dice(seed)
    const asset = {
      kind: 'tuning',
      scale: dice.chance(0.7) ? mutatedText(SCALE, dice) : SCALE,
      ...(dice.chance(0.5) ? { keys: mutatedText(KEYS, dice) } : {}),
    }
    const patch = { ...PLAYED, tuning: 't', assets: { t: asset } }
    return rendered(save('p.json', JSON.stringify(patch)), '--play', '60@0+0.01 127@0+0.01 0@0+0.01')
  },
  formulas: async (seed) => {
    const dice = new Dice(seed)
    const text = dice.chance(0.6) ? randomFormula(dice) : mutatedText(dice.of(FORMULAS), dice)
    if (parseFormula(text, 'module').errors.length > 0) return 'refused'
    const patch = {
      ...hard.circularBus(1, 0.2),
      modules: [
        { id: 'osc', type: 'oscillator' },
        { id: 'f', type: 'formula', data: { text } },
        { id: 'out', type: 'output' },
      ],
      cables: [
        ...['a', 'b', 'c', 'd'].map((end) => ({
          from: 'osc.saw',
          to: `f.${end}`,
          amount: dice.extreme(1e6),
        })),
        { from: 'f.x', to: 'out.in' },
        { from: 'f.y', to: 'out.in' },
      ],
    }
    return rendered(save('p.json', JSON.stringify(patch)))
  },
  graphs: (seed) => {
    const fault = graphFault(kernels(), seed)
    if (fault) throw new Wrong(fault)
    return 'taken'
  },
}

/** All classes; `root` is where the demo patches are. */
export const classes = (root: string): FuzzClass[] => {
  const patches = [...demos(root), ...HARD]
  return Object.entries(RUNS).map(([name, run]) => ({ name, run: (seed) => run(seed, patches) }))
}

/** Runs one seed of one class; words for a fault. */
export const runOne = async (
  item: FuzzClass,
  seed: number,
): Promise<{ outcome?: Outcome; fault?: string }> => {
  try {
    return { outcome: await item.run(seed) }
  } catch (error) {
    const known = error instanceof Wrong
    return { fault: known ? error.message : `threw ${(error as Error).stack ?? String(error)}`.slice(0, 600) }
  }
}
