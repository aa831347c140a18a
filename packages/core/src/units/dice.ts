/** Numbers at random from a seed, the same everywhere (a counter through two rounds of mixing). */
export class Dice {
  private state: number
  constructor(seed: number) {
    this.state = seed >>> 0
  }
  /** 0 ≤ x < 1. */
  unit(): number {
    this.state = (this.state + 0x9e3779b9) >>> 0
    let h = this.state
    h = Math.imul(h ^ (h >>> 16), 0x21f0aaad)
    h = Math.imul(h ^ (h >>> 15), 0x735a2d97)
    return ((h ^ (h >>> 15)) >>> 0) / 4294967296
  }
  /** A whole number, 0 ≤ n < count. */
  below(count: number): number {
    return Math.floor(this.unit() * count)
  }
  between(low: number, high: number): number {
    return low + (high - low) * this.unit()
  }
  chance(share: number): boolean {
    return this.unit() < share
  }
  of<T>(list: readonly T[]): T {
    return list[this.below(list.length)]!
  }
  /** Of any size from small to extreme, either sign. */
  extreme(most: number): number {
    return (this.chance(0.5) ? -1 : 1) * 10 ** this.between(-3, Math.log10(most))
  }
}
