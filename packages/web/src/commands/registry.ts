/** All commands of a page, found by id and by key. */
import type { App } from '../app/app.ts'
import { chordOf, digitChordOf, type Command, type KeyPress, type Place, type View } from './command.ts'

export class Registry {
  private readonly byId: ReadonlyMap<string, Command>
  private readonly byChord: ReadonlyMap<string, readonly Command[]>

  constructor(readonly all: readonly Command[]) {
    this.byId = new Map(all.map((command) => [command.id, command]))
    const chords = new Map<string, Command[]>()
    for (const command of all)
      for (const chord of command.keys ?? []) chords.set(chord, [...(chords.get(chord) ?? []), command])
    this.byChord = chords
  }

  /** A command by its id; throws for one that is none: ids stand in code alone. */
  get(id: string): Command {
    const found = this.byId.get(id)
    if (!found) throw new Error(`There is no command "${id}"`)
    return found
  }

  /** The command a key press means in a view. */
  forKey(press: KeyPress, view: View): Command | undefined {
    // A character comes before a place: where Shift and 7 give a stroke, the stroke is meant.
    return [chordOf(press), digitChordOf(press)]
      .flatMap((chord) => (chord === undefined ? [] : (this.byChord.get(chord) ?? [])))
      .find((command) => isIn(command, view))
  }

  at(place: Place, view: View): readonly Command[] {
    return this.all.filter((command) => command.places?.includes(place) && isIn(command, view))
  }
}

export const isIn = (command: Command, view: View): boolean => command.views?.includes(view) ?? true

/** Why a command cannot be done now; true when it can. */
export const canRun = (command: Command, app: App): true | string => command.can?.(app) ?? true

/** Does a command, where it can be done. */
export const runCommand = (command: Command, app: App): boolean => {
  if (canRun(command, app) !== true) return false
  command.run(app)
  return true
}
