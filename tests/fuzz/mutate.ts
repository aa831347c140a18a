/** Changes to plain JSON values that keep most of them whole: what a hand, a bad disk or bad will may do to a file. */
import { Dice } from '../../packages/core/src/units/dice.ts'

/** Names every object has, names nothing has, and names that are no names. */
const NAMES = [
  'constructor',
  '__proto__',
  'toString',
  'hasOwnProperty',
  'valueOf',
  '',
  ' ',
  'a.b.c',
  '.',
  'cable:',
  'macro:',
  'cable:none',
  'macro:none',
  '~f:x:y',
  '\u202eevil',
  '\u0000',
  'x'.repeat(70),
]

const TEXTS = [
  ...NAMES,
  '= 1 / 0',
  '= osc.fine',
  '= macro:bright * 2',
  '= (((((((((1)))))))))',
  '= prev(x) +',
  '=',
  'x = a; y = b',
  '../../../etc/passwd',
  '/dev/zero',
  'assets/q.wav',
  'y'.repeat(5000),
]

const NUMBERS = [
  0,
  -0,
  1,
  -1,
  0.5,
  1e-320,
  1e6,
  -1e6,
  1e7,
  1e15,
  3e38,
  1e308,
  -1e308,
  2 ** 31,
  2 ** 53,
  4294967296,
]

type Holder = Record<string, unknown> | unknown[]

const isHolder = (value: unknown): value is Holder => typeof value === 'object' && value !== null

/** Every place in a value: what holds it and under which name. */
const placesOf = (value: unknown): { readonly holder: Holder; readonly key: string }[] => {
  const found: { holder: Holder; key: string }[] = []
  const walk = (holder: unknown, depth: number): void => {
    if (!isHolder(holder) || depth > 40) return
    for (const key of Object.keys(holder)) {
      found.push({ holder, key })
      walk((holder as Record<string, unknown>)[key], depth + 1)
    }
  }
  walk(value, 0)
  return found
}

const put = (holder: Holder, key: string, value: unknown): void => {
  // What JSON can write: a list has no other names than numbers.
  if (Array.isArray(holder) && !/^\d+$/.test(key)) {
    holder.push(value)
    return
  }
  // An own property whatever it is called.
  Object.defineProperty(holder, key, { value, enumerable: true, configurable: true, writable: true })
}

const hostile = (dice: Dice): unknown => {
  const kind = dice.below(9)
  if (kind < 3) return dice.of(NUMBERS)
  if (kind < 6) return dice.of(TEXTS)
  return dice.of([null, true, false, [], {}, [[]], { id: 'x' }, [null], [0, 1, 2]])
}

const nested = (depth: number): unknown => {
  let value: unknown = 0
  for (let n = 0; n < depth; n += 1) value = n % 2 ? [value] : { a: value }
  return value
}

interface Spot {
  readonly holder: Holder
  readonly key: string
  readonly here: unknown
  /** The value of another place. */
  readonly other: unknown
}

const putHostile = ({ holder, key }: Spot, dice: Dice): void => {
  put(holder, key, hostile(dice))
}

const CHANGES: readonly ((spot: Spot, dice: Dice) => void)[] = [
  ({ holder, key }) => {
    if (Array.isArray(holder)) holder.splice(Number(key), 1)
    else delete (holder as Record<string, unknown>)[key]
  },
  putHostile,
  putHostile,
  ({ holder, key, here }, dice) => {
    if (Array.isArray(holder)) holder.splice(Number(key), 0, structuredClone(here))
    else put(holder, dice.of(NAMES), structuredClone(here))
  },
  ({ holder, key, here }, dice) => {
    if (typeof here === 'number') put(holder, key, here * dice.of([-1, 10, 1e6, 1e-6, 0]) + dice.of([0, 0.5]))
  },
  ({ holder, key, other }) => {
    put(holder, key, structuredClone(other))
  },
  ({ here }) => {
    if (Array.isArray(here)) here.push(...(structuredClone(here) as unknown[]).slice(0, 50))
  },
  ({ holder, key, here }, dice) => {
    if (typeof here === 'string')
      put(holder, key, here.slice(0, dice.below(here.length + 1)) + dice.of(TEXTS).slice(0, 40))
  },
  ({ holder, key }, dice) => {
    put(holder, key, nested(dice.of([3, 40, 300])))
  },
  ({ holder, key, here }, dice) => {
    if (Array.isArray(holder)) return
    delete (holder as Record<string, unknown>)[key]
    put(holder, dice.of(NAMES), here)
  },
  ({ holder }, dice) => {
    put(holder, dice.of(NAMES), hostile(dice))
  },
]

/** One change; `value` is changed in place. */
const change = (value: unknown, dice: Dice): void => {
  const places = placesOf(value)
  if (places.length === 0) return
  const { holder, key } = dice.of(places)
  const other = dice.of(places)
  const valueAt = (place: typeof other): unknown => (place.holder as Record<string, unknown>)[place.key]
  dice.of(CHANGES)({ holder, key, here: valueAt({ holder, key }), other: valueAt(other) }, dice)
}

/** A copy with some changes. */
export const mutated = (value: unknown, dice: Dice): unknown => {
  const copy = structuredClone(value)
  for (let n = 1 + dice.below(6); n > 0; n -= 1) change(copy, dice)
  return copy
}

/** Bytes with some turned, cut off, doubled or filled. */
export const mutatedBytes = (bytes: Uint8Array, dice: Dice): Uint8Array => {
  let copy = bytes.slice()
  for (let n = 1 + dice.below(8); n > 0; n -= 1) {
    if (copy.length === 0) return copy
    const at = dice.below(copy.length)
    switch (dice.below(6)) {
      case 0:
        copy = copy.slice(0, at)
        break
      case 1: {
        const part = copy.slice(at, at + 1 + dice.below(64))
        copy = Uint8Array.from([...copy.slice(0, at), ...part, ...copy.slice(at)])
        break
      }
      case 2:
        copy.fill(dice.of([0, 255, 127, 128]), at, at + 1 + dice.below(8))
        break
      case 3:
        copy[at] = copy[at]! ^ (1 << dice.below(8))
        break
      default:
        copy[at] = dice.below(256)
    }
  }
  return copy
}

/** A text with some letters changed, cut off or put in. */
export const mutatedText = (text: string, dice: Dice): string => {
  const letters = [...text]
  for (let n = 1 + dice.below(6); n > 0; n -= 1) {
    const at = dice.below(letters.length + 1)
    const word = dice.of([
      '"',
      '{',
      '}',
      '[',
      '9',
      '-',
      ',',
      'x',
      '=',
      ' ',
      '\u0000',
      '\n',
      '1e999',
      '∞',
      '😀',
      '0x',
      '/',
    ])
    if (dice.chance(0.3)) letters.splice(at, 1 + dice.below(4))
    else letters.splice(at, dice.below(2), word)
  }
  return letters.join('')
}
