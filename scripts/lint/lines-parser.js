/**
 * A parser that sees lines and comments only: kernels are written in a language that ESLint does not know, but how long
 * their files are can be held all the same.
 */
const COMMENT = /\/\*([\s\S]*?)\*\//g

const places = (text) => {
  const starts = [0]
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) starts.push(at + 1)
  return (index) => {
    let line = starts.length
    while (starts[line - 1] > index) line -= 1
    return { line, column: index - starts[line - 1] }
  }
}

export const linesParser = {
  meta: { name: 'lines', version: '1' },
  parse: (text) => {
    const placeOf = places(text)
    const node = (type, start, end, more = {}) => ({
      type,
      range: [start, end],
      start,
      end,
      loc: { start: placeOf(start), end: placeOf(end) },
      ...more,
    })
    const comments = [...text.matchAll(COMMENT)].map((match) =>
      node('Block', match.index, match.index + match[0].length, { value: match[1] }),
    )
    return node('Program', 0, text.length, { sourceType: 'module', body: [], tokens: [], comments })
  },
}
