/** Sequences, curves and tables as a line of text: shown, typed, and written to a module. */
import { type DataDescription, dataFaults, moduleIn } from '@ypsilon/core'
import type { App } from '../app/app.ts'

/** Gives a module other data: one step, or one a gesture. False where it was refused. */
export const setData = (
  { document }: App,
  id: string,
  name: string,
  value: unknown,
  { words = `Set ${name}`, gesture }: { readonly words?: string; readonly gesture?: string } = {},
): boolean =>
  document.getState().change(
    words,
    (draft) => {
      const module = moduleIn(draft, id)
      if (module) module.data = { ...module.data, [name]: value }
    },
    gesture,
  )

/** Numbers apart by spaces, on and off as 1 and 0, a name as it is, anything else as it stands in the file. */
export const dataText = ({ kind }: DataDescription, value: unknown): string => {
  if (typeof value === 'string') return value
  if (kind === 'numbers') return (value as readonly number[]).join(' ')
  if (kind === 'booleans') return (value as readonly unknown[]).map(Number).join(' ')
  return JSON.stringify(value)
}

type Read = { readonly ok: true; readonly value: unknown } | { readonly ok: false; readonly message: string }

const numbersOf = (text: string): number[] =>
  text
    .split(/[\s;]+/)
    .filter(Boolean)
    .map((word) => Number(word.replace(',', '.')))

const jsonOf = (text: string): Read => {
  try {
    return { ok: true, value: JSON.parse(text) as unknown }
  } catch {
    return {
      ok: false,
      message: 'This is not JSON; points are [{"t": 0, "v": 1, "curve": 0}, …].',
    }
  }
}

const entries = ({ kind }: DataDescription, text: string): Read => {
  if (kind === 'text' || kind === 'table') return { ok: true, value: text.trim() }
  if (kind !== 'numbers' && kind !== 'booleans') return jsonOf(text)
  const numbers = numbersOf(text)
  if (!numbers.every(Number.isFinite)) return { ok: false, message: 'Numbers, apart by spaces.' }
  return { ok: true, value: kind === 'numbers' ? numbers : numbers.map((number) => number !== 0) }
}

/** Reads what `dataText` writes; what the data may not hold is refused. */
export const readDataText = (data: DataDescription, text: string): Read => {
  const read = entries(data, text)
  const [fault] = read.ok ? dataFaults(data, read.value, data.name) : []
  return fault ? { ok: false, message: `${fault.place}: ${fault.message}.` } : read
}
