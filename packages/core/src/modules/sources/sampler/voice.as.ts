// What a sampler keeps for each voice, and a zone as its table has it.

/** Zones that may sound in a voice at once, those that fade included. */
export const SLOTS: u32 = 8;
const SLOT_BYTES: usize = 32,
  SLOTS_AT: usize = 64;
export const VOICE_BYTES: usize = 320;


@unmanaged
export class Zone {
  left: u32;
  right: u32;
  frames: u32;
  turn: u32;
  root: f32;
  lowKey: f32;
  highKey: f32;
  lowVelocity: f32;
  highVelocity: f32;
  /** Below 0 the module says. */
  start: f32;
  end: f32;
  loop: f32;
  loopStart: f32;
  loopEnd: f32;
  crossfade: f32;
  tune: f32;
  gain: f32;
  panLeft: f32;
  panRight: f32;
}

/** A zone that sounds. */
@unmanaged
export class Slot {
  place: f64;
  /** Number of the zone from 1 on; 0 is free. */
  zone: u32;
  /** Frames until it has faded, 0 where it does not. */
  fade: u32;
  backward: u32;
  /** Level it is heard at. */
  envelope: f32;
}


@unmanaged
export class Voice {
  stage: u32;
  level: f32;
  gain: f32;
  gate: u32;
  /** Frames of the trigger at done that are left. */
  done: i32;
  /** Frames of the running block that are there. */
  rendered: u32;
  /** Frame of the block at which it ended. */
  ended: u32;


  @inline slot(n: u32): Slot {
    return changetype<Slot>(changetype<usize>(this) + SLOTS_AT + <usize>n * SLOT_BYTES);
  }
  get sounds(): bool {
    for (let n: u32 = 0; n < SLOTS; ++n) if (this.slot(n).zone != 0) return true;
    return false;
  }
  /** The same but for those that fade. */
  get plays(): bool {
    for (let n: u32 = 0; n < SLOTS; ++n) if (this.slot(n).zone != 0 && this.slot(n).fade == 0) return true;
    return false;
  }
  free(): Slot {
    for (let n: u32 = 0; n < SLOTS; ++n) if (this.slot(n).zone == 0) return this.slot(n);
    return changetype<Slot>(0);
  }
}
