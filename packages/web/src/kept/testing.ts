/** A store and a notebook in memory, for tests: what is written is there, until somebody lets it fail. */
import type { Box, Notebook } from './database.ts'
import type { Clock } from './keeper.ts'

export class MemoryBox implements Box {
  readonly values = new Map<string, string>()
  /** Why it fails, while it does. */
  failure: Error | undefined
  /** Called before each write: a page may end here. */
  onWrite: () => void = () => undefined

  private async turn(): Promise<void> {
    await Promise.resolve()
    if (this.failure) throw this.failure
  }
  async get<T>(key: string): Promise<T | null> {
    await this.turn()
    const text = this.values.get(key)
    return text === undefined ? null : (JSON.parse(text) as T)
  }
  async set(key: string, value: unknown): Promise<void> {
    this.onWrite()
    await this.turn()
    this.values.set(key, JSON.stringify(value))
  }
  async remove(key: string): Promise<void> {
    this.onWrite()
    await this.turn()
    this.values.delete(key)
  }
  async keys(): Promise<string[]> {
    await this.turn()
    return [...this.values.keys()]
  }
}

export class MemoryNotebook implements Notebook {
  readonly texts = new Map<string, string>()
  isFull = false
  read(key: string): string | null {
    return this.texts.get(key) ?? null
  }
  write(key: string, text: string): boolean {
    if (!this.isFull) this.texts.set(key, text)
    return !this.isFull
  }
  erase(key: string): void {
    this.texts.delete(key)
  }
  keys(): string[] {
    return [...this.texts.keys()]
  }
}

/** A clock that goes when it is told to. */
export class HandClock implements Clock {
  private time = 1_000_000
  private waiting: { readonly at: number; readonly then: () => void }[] = []
  now(): number {
    return this.time
  }
  wait(milliseconds: number, then: () => void): unknown {
    const item = { at: this.time + milliseconds, then }
    this.waiting.push(item)
    return item
  }
  cancel(waiting: unknown): void {
    this.waiting = this.waiting.filter((item) => item !== waiting)
  }
  async go(milliseconds: number): Promise<void> {
    this.time += milliseconds
    const due = this.waiting.filter(({ at }) => at <= this.time)
    this.waiting = this.waiting.filter(({ at }) => at > this.time)
    for (const { then } of due) then()
    await settle()
  }
}

/** Lets everything that is under way come to its end. */
export const settle = (): Promise<void> =>
  new Promise((resolve) => {
    setTimeout(resolve, 5)
  })
