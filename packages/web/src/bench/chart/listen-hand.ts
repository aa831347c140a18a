/** An output is listened to alone while it is pressed with Alt; drawn away, all its cables are in hand instead. */
import { endWords } from '@ypsilon/core'
import { cableInHand, CLICK_PX } from './cable-hand.ts'
import type { Gesture } from './gesture.ts'
import { apart } from './port-finder.ts'
import type { Point } from './routing.ts'

type Parts = Parameters<typeof cableInHand>

export const listenInHand = (hand: Parts[0], hit: Parts[1], start: Point): Gesture => {
  const { document, workspace, engine } = hand.app
  const { port } = hit
  void engine.start()
  workspace
    .getState()
    .listen({ heard: [{ from: port, amount: 1 }], words: endWords(document.getState().patch, port) })
  let cables: Gesture | undefined
  const stop = (): void => {
    workspace.getState().listen(undefined)
  }
  return {
    move: (point, event) => {
      if (!cables && apart(point, start) >= CLICK_PX) {
        stop()
        cables = cableInHand(hand, { ...hit, isAll: true }, start)
      }
      cables?.move(point, event)
    },
    drop: (point, event) => {
      if (cables) {
        cables.drop(point, event)
        return
      }
      // With Shift it goes on while something else is done.
      if (!event.shiftKey) stop()
      hand.end()
    },
    giveUp: () => {
      if (cables) cables.giveUp()
      else stop()
    },
  }
}
