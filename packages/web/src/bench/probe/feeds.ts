/** Every page has one feed of its probe, from the first time it is asked for on. */
import type { App } from '../../app/app.ts'
import { ProbeFeed } from './feed.ts'

const feeds = new WeakMap<App, ProbeFeed>()

export const feedOf = (app: App): ProbeFeed => {
  let feed = feeds.get(app)
  if (!feed) {
    feed = new ProbeFeed(app)
    feeds.set(app, feed)
  }
  return feed
}
