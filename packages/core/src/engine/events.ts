/** What may happen at a sample. Addresses come from the layout. */
export type EngineEvent =
  | {
      readonly type: 'on'
      readonly note: number
      readonly velocity: number
      readonly id: number
      readonly channel?: number
    }
  | { readonly type: 'off'; readonly note: number; readonly id?: number; readonly velocity: number }
  | {
      readonly type: 'pressure' | 'slide' | 'bend'
      readonly value: number
      readonly note?: number
      readonly channel?: number
    }
  | {
      readonly type: 'control'
      readonly controller: number
      readonly value: number
      readonly channel?: number
    }
  | { readonly type: 'param'; readonly address: number; readonly value: number; readonly glide: number }
  | { readonly type: 'setting'; readonly address: number; readonly value: number; readonly whole: boolean }
  | { readonly type: 'amount'; readonly address: number; readonly value: number; readonly glide: number }
  /** Start begins at beat 0, also while it runs; go on continues where it stopped. */
  | { readonly type: 'transport'; readonly value: 'start' | 'stop' | 'continue' }
  | { readonly type: 'tempo'; readonly bpm: number }
  /** Everything ends within 30 ms, until a note, the transport or `resume`. */
  | { readonly type: 'silence' }
  | { readonly type: 'resume' }
  /** An event so many frames after this one is taken; for what names no address. */
  | { readonly type: 'later'; readonly frames: number; readonly event: LaterEvent }
  /** A clock from outside: 24 ticks a quarter note. */
  | { readonly type: 'clock'; readonly value: 'tick' | 'start' | 'stop' | 'continue' }

/** What may wait in the audio thread: addresses might be another's by then. */
export type LaterEvent = Extract<EngineEvent, { readonly type: 'on' | 'off' }>

/** What note sources take. */
export type NoteEvent = Extract<
  EngineEvent,
  { readonly type: 'on' | 'off' | 'control' | 'pressure' | 'slide' | 'bend' }
>
