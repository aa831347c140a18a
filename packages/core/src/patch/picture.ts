import { CATALOGUE } from '../catalogue.ts'
import type { Picture, PictureContext, Told } from '../describe/types.ts'
import { own } from '../units/own.ts'
import { descriptionOf } from './groups.ts'
import type { PatchModule } from './types.ts'

/** What the engine tells of a module while it plays. */
export interface Playing {
  /** A parameter as modulation has it, in its unit; undefined where nothing moves it. */
  readonly param: (name: string) => number | undefined
  /** An output; undefined while nothing is told of it. */
  readonly output: (name: string) => Told | undefined
}

/** The picture of a module at its settings, or as it plays; undefined where its signal is its picture. */
export const pictureOf = (
  module: PatchModule,
  playing?: Playing,
  recording?: PictureContext['recording'],
): Picture | undefined => {
  const description = descriptionOf(module)
  if (!description || description.picture === 'signal') return undefined
  const params = CATALOGUE.get(module.type)?.params
  const set = (name: string): unknown => own(module.params, name) ?? params?.get(name)?.default
  return description.picture({
    number: (name) => {
      const value = playing?.param(name) ?? set(name)
      if (typeof value === 'boolean') return Number(value)
      return Number.isFinite(Number(value)) ? Number(value) : Number(params?.get(name)?.default ?? 0)
    },
    choice: (name) => String(set(name)),
    data: (name) => own(module.data, name) ?? description.data?.find((item) => item.name === name)?.default,
    ...(playing ? { now: playing.output } : {}),
    ...(recording ? { recording } : {}),
  })
}
