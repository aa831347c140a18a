/** The envelope drawn: its stages side by side, and where it is by now. */
import { curved } from '../../../describe/pictures.ts'
import type { Picture, PictureContext, PictureHandle, Told } from '../../../describe/types.ts'

type Point = readonly [x: number, y: number]
interface Stage {
  readonly seconds: number
  readonly from: number
  readonly to: number
  readonly curve: number
}

/** Share of the picture that the sustain takes: nobody knows how long it lasts. */
const SUSTAIN_SHARE = 0.2
const LEAST_SUSTAIN_SECONDS = 0.1
const POINTS = 24
/** Nearer than this a level stands still. */
const STILL = 1e-3

const stagesOf = ({ number }: PictureContext): readonly Stage[] => {
  const level = number('sustain')
  const flat = (name: string, at: number): Stage => ({ seconds: number(name), from: at, to: at, curve: 0 })
  const moving = (name: string, from: number, to: number): Stage => ({
    seconds: number(name),
    from,
    to,
    curve: number(`${name}Curve`),
  })
  const stages = [
    flat('delay', 0),
    moving('attack', 0, 1),
    flat('hold', 1),
    moving('decay', 1, level),
    moving('release', level, 0),
  ]
  const whole = stages.reduce((sum, { seconds }) => sum + seconds, 0)
  const sustain = {
    seconds: Math.max(LEAST_SUSTAIN_SECONDS, whole * SUSTAIN_SHARE),
    from: level,
    to: level,
    curve: 0,
  }
  return [...stages.slice(0, 4), sustain, ...stages.slice(4)]
}

const levelAt = ({ from, to, curve }: Stage, x: number): number => from + (to - from) * curved(x, curve)

/** Which stage a level belongs to by where it is and where it goes. */
const stageOf = ({ value, before }: Told, sustain: number): number => {
  if (value > before + STILL) return 1
  if (Math.abs(value - sustain) < STILL) return 4
  if (value > sustain) return Math.abs(value - 1) < STILL ? 2 : 3
  return 5
}

/** How far into a stage its level is what it is now. */
const placeIn = (stage: Stage, value: number): number => {
  for (let i = 0; i <= POINTS; i += 1) {
    const reached = levelAt(stage, i / POINTS)
    if (stage.to > stage.from ? reached >= value : reached <= value) return i / POINTS
  }
  return 1
}

/** Its corners: where the attack, the decay and the release end. */
export const envelopeHandles = (context: PictureContext): readonly PictureHandle[] => {
  const { number } = context
  const stages = stagesOf(context),
    whole = stages.reduce((sum, { seconds }) => sum + seconds, 0)
  /** Seconds until a stage begins. */
  const until = (index: number): number =>
    stages.slice(0, index).reduce((sum, { seconds }) => sum + seconds, 0)
  const seconds = (x: number, index: number): number => Math.max(0, x * whole - until(index))
  return [
    {
      name: 'Attack',
      at: [until(2) / whole, 1],
      shows: ['attack'],
      moved: (x) => ({ params: { attack: seconds(x, 1) } }),
    },
    {
      name: 'Decay and sustain',
      at: [until(4) / whole, number('sustain')],
      shows: ['decay', 'sustain'],
      moved: (x, y) => ({ params: { decay: seconds(x, 3), sustain: y } }),
    },
    {
      name: 'Release',
      at: [1, 0],
      shows: ['release'],
      moved: (x) => ({ params: { release: seconds(x, 5) } }),
    },
  ]
}

export const envelopePicture = (context: PictureContext): Picture => {
  const stages = stagesOf(context)
  const whole = stages.reduce((sum, { seconds }) => sum + seconds, 0)
  const begins: number[] = []
  let at = 0
  for (const { seconds } of stages) {
    begins.push(at / whole)
    at += seconds
  }
  const across = (index: number, x: number): number => begins[index]! + (x * stages[index]!.seconds) / whole
  const points = stages.flatMap((stage, index): Point[] => {
    const steps = stage.from === stage.to ? 1 : POINTS
    return Array.from({ length: steps + 1 }, (_, i) => [across(index, i / steps), levelAt(stage, i / steps)])
  })
  const told = context.now?.('env')
  const isQuiet = !told || (Math.abs(told.value) < STILL && Math.abs(told.before) < STILL)
  const index = told ? stageOf(told, context.number('sustain')) : 0
  return {
    kind: 'line',
    title: 'Level over time',
    across: 'time',
    up: 'level',
    curves: [{ points }],
    ...(isQuiet ? {} : { dots: [[across(index, placeIn(stages[index]!, told.value)), told.value] as const] }),
  }
}
