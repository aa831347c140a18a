import { engine } from '../audio/engine-client.ts'
import { useDocument } from './document.ts'
import { useSession } from './session.ts'

let drawn = 0

const count = (): void => {
  drawn = 0
  const { values, data, bypass } = engine.moves()
  const moved = [values, data, bypass].reduce((sum, record) => sum + Object.keys(record).length, 0)
  if (moved !== useSession.getState().moved) useSession.getState().set({ moved })
}

/** Lets the page know what lies over the document, once a frame at most, and undo what hands have moved. */
export const followMoves = (): (() => void) => {
  engine.onMove = () => {
    if (!drawn) drawn = requestAnimationFrame(count)
  }
  engine.onHand = (name, before, after) => {
    useDocument.getState().moved(name, before, after)
  }
  return engine.subscribe(({ silenced }) => {
    if (silenced !== useSession.getState().silenced) useSession.getState().set({ silenced })
  })
}
