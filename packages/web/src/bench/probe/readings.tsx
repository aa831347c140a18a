/** What a slot reads, in words beside its picture; written by the page's frames, not by React. */
import type { Plot, Reading } from '@ypsilon/core/probe/plot.ts'
import { useEffect, useRef } from 'react'
import { useApp } from '../../app/context.ts'
import type { SlotName } from '../../store/probe.ts'
import { valueWords } from './axes.ts'
import type { ProbeFeed } from './feed.ts'

/** Frames between two times that words are written. */
const TURN = 8

/** Readings that stand beside the picture; what a picture writes on its own bars is not said twice. */
const saidOf = (plot: Plot | undefined): readonly Reading[] =>
  (plot?.readings ?? []).filter(({ name }) => !/^\d+ Hz$/.test(name))

interface ReadingsProps {
  readonly feed: ProbeFeed
  readonly name: SlotName
  readonly words: string
}

export const Readings = ({ feed, name, words }: ReadingsProps) => {
  const { frames } = useApp()
  const headline = useRef<HTMLElement>(null),
    lines = useRef<HTMLDivElement>(null)
  useEffect(() => {
    let turn = 0
    return frames.paint(() => {
      turn = (turn + 1) % TURN
      if (turn !== 1 || !lines.current || !headline.current) return
      const plot = feed.plot(name)
      const said = saidOf(plot)
      const columns = [
        said.map((each) => each.name),
        said.map((each) => valueWords(each.value, each.unit)),
      ].map((words) => words.join('\n'))
      columns.forEach((text, n) => {
        const element = lines.current!.children[n]!
        if (element.textContent !== text) element.textContent = text
      })
      const above = plot?.headline ?? ''
      if (headline.current.textContent !== above) headline.current.textContent = above
    })
  }, [frames, feed, name])
  return (
    <div className="probe-readings" role="group" aria-label={`What ${words} reads`} data-readings={name}>
      <b ref={headline} className="text-26" />
      <div ref={lines} className="flex justify-between gap-2">
        <pre className="m-0 font-sans text-ink2" />
        <pre className="mono m-0 text-right" />
      </div>
    </div>
  )
}
