// Pulses measured in clocks: how long a clock lasts, gates inside it, and the one low sample between gates that meet.
import { sampleRate } from "./time.as";

/** A gate that starts anew while it is high is low for one sample first. `before` keeps bit 0: it was high, bit 1: it wants to rise. */
export function retriggered(before: usize, on: bool, starts: bool): bool {
  const was = load<u32>(before);
  const high = on && !(starts && was & 1);
  store<u32>(before, high ? 1 : 0);
  return high;
}

/** Frames of a trigger. */
@inline export function triggerFrames(): i32 {
  return <i32>(0.001 * sampleRate + 0.5);
}
