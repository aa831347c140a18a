import { CATALOGUE } from '../catalogue.ts'
import type { ModuleDescription, Picture, PictureContext, PictureHandle, Told } from '../describe/types.ts'
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

/** What pictures and their handles read of a module: as it plays where that is told, else as it is set. */
const contextOf = (
  module: PatchModule,
  description: ModuleDescription,
  playing?: Playing,
  recording?: PictureContext['recording'],
): PictureContext => {
  const params = CATALOGUE.get(module.type)?.params
  const set = (name: string): unknown => own(module.params, name) ?? params?.get(name)?.default
  return {
    number: (name) => {
      const value = playing?.param(name) ?? set(name)
      if (typeof value === 'boolean') return Number(value)
      return Number.isFinite(Number(value)) ? Number(value) : Number(params?.get(name)?.default ?? 0)
    },
    choice: (name) => String(set(name)),
    data: (name) => own(module.data, name) ?? description.data?.find((item) => item.name === name)?.default,
    ...(playing ? { now: playing.output } : {}),
    ...(recording ? { recording } : {}),
  }
}

/** Where the picture of a module can be dragged, at its settings. */
export const handlesOf = (module: PatchModule): readonly PictureHandle[] => {
  const description = descriptionOf(module)
  return description?.handles?.(contextOf(module, description)) ?? []
}

/** The picture of a module at its settings, or as it plays; undefined where its signal is its picture. */
export const pictureOf = (
  module: PatchModule,
  playing?: Playing,
  recording?: PictureContext['recording'],
): Picture | undefined => {
  const description = descriptionOf(module)
  if (!description || description.picture === 'signal') return undefined
  return description.picture(contextOf(module, description, playing, recording))
}
