/** A note source as the voice allocator sees it. */
export interface NoteSource {
  readonly id: string
  readonly voices: number
  readonly aux: number
  readonly seed: number
  readonly channel: number
  readonly mpe: boolean
  /** Addresses of set values read when a note starts, and of choices. */
  readonly values: Readonly<
    Record<'lowKey' | 'highKey' | 'lowVelocity' | 'highVelocity' | 'velocityCurve', number>
  >
  readonly choices: Readonly<Record<'mode' | 'priority' | 'glideWhen', number>>
}
