/** What the user can mend: one clear line a fault, exit code 2, no stack. */
export class BadInput extends Error {
  constructor(readonly lines: readonly string[]) {
    super(lines.join('\n'))
  }
}
