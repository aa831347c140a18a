/** A cable in hand, from a port: it is let go where the button is, or laid by a second click. */
import type { App } from '../../app/app.ts'
import { laid, letGo } from '../connecting.ts'
import { dropInProbe } from '../probe/target.ts'
import type { Gesture } from './gesture.ts'
import { apart, type PortFinder, type PortHit } from './port-finder.ts'
import { chamfered, type Point } from './routing.ts'
import type { Scene } from './scene.ts'

/** Moves shorter than this are clicks. */
export const CLICK_PX = 4
const REACH = 16

export interface HandParts {
  readonly app: App
  readonly scene: Scene
  readonly ports: PortFinder
  /** The line that is drawn of it. */
  readonly line: SVGPathElement
  readonly end: () => void
}

/** Off a cable's line: a second cable of its source, once it is drawn away; a mere click is none of it. */
export const branchInHand = (parts: HandParts, hit: HandStart, start: Point): Gesture => {
  let hand: Gesture | undefined
  return {
    move: (point, event) => {
      if (!hand && apart(point, start) < CLICK_PX) return
      hand ??= cableInHand(parts, hit, start)
      hand.move(point, event)
    },
    drop: (point, event) => {
      if (hand) hand.drop(point, event)
      else parts.end()
    },
    giveUp: () => {
      if (hand) hand.giveUp()
      else parts.end()
    },
  }
}

/** Its way from a port to where it is held, in pixels of the frame. */
const lineTo = (begin: Point, to: Point, side: PortHit['side']): string => {
  const middle =
    side === 'out'
      ? Math.max(begin.x + REACH, (begin.x + to.x) / 2)
      : Math.min(begin.x - REACH, (begin.x + to.x) / 2)
  return chamfered([begin, { x: middle, y: begin.y }, { x: middle, y: to.y }, to])
}

/** What a cable in hand begins with. */
export type HandStart = Pick<PortHit, 'port' | 'id' | 'side' | 'kind' | 'at'> & {
  /** All cables of the port are taken up. */
  readonly isAll?: boolean
}

export const cableInHand = (
  { app, scene, ports, line, end }: HandParts,
  hit: HandStart,
  start: Point,
): Gesture => {
  const from = scene.view.toChart(hit.at),
    isInLoupe = scene.loupes.at(hit.at) !== undefined
  let isLaid = false
  const over = (point: Point): string | undefined => scene.cardAt(scene.view.toChart(point))?.id
  const finish = (): void => {
    line.style.visibility = 'hidden'
    scene.loupes.away()
    scene.loupes.tidy()
    end()
  }
  return {
    move: (point) => {
      const found = ports.portAt(point),
        target = found?.port === hit.port ? undefined : found
      scene.point(target ? { port: target.port, side: target.side, at: target.at } : {})
      line.setAttribute(
        'd',
        lineTo(isInLoupe ? hit.at : scene.view.toFrame(from), target?.at ?? point, hit.side),
      )
      line.style.stroke = `var(--${hit.side === 'out' ? hit.kind : 'control'})`
      line.style.visibility = 'visible'
      // A card without rows shows its ports in full.
      const card = over(point)
      scene.loupes.hand(point, card === hit.id ? undefined : card)
    },
    drop: (point, { clientX: x, clientY: y }) => {
      if (!isLaid && apart(point, start) < CLICK_PX) {
        isLaid = true
        return
      }
      const target = ports.targetAt(point),
        card = over(point),
        held = { end: hit.port, isOutput: hit.side === 'out', isAll: hit.isAll === true }
      finish()
      if (!target && held.isOutput && dropInProbe(app, hit.port, { x, y })) return
      if (!target && held.isAll) return
      if (!target) letGo(app, { ...held, x, y, place: scene.view.toChart(point), card })
      else if (target.port !== hit.port) laid(app, held, target.port, target.side)
    },
    giveUp: finish,
  }
}
