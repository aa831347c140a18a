/** Asks by key why nothing is heard. */
import { askWhySilent } from '../app/silence.ts'
import type { Command } from './command.ts'

export const SILENCE_COMMANDS: readonly Command[] = [
  {
    id: 'why-silent',
    label: 'Why silent?',
    group: 'Play',
    keys: ['Ctrl+.'],
    views: ['bench'],
    places: ['chart'],
    can: (app) => app.document.getState().patch.modules.length > 0 || 'The bench is empty.',
    run: (app) => void askWhySilent(app),
  },
]
