// Values that pictures are drawn from: worked out and told only while somebody looks (`isWanted`).
import { Signal } from "./signal.as";

/** Nothing plays. */
export const NOWHERE: f32 = -1;

/** What a voice tells, for the frames of a call. */
@inline export function tell(out: Signal, voice: u32, value: f32): void {
  out.setStep(voice >> 2, 0);
  store<f32>(out.start(voice >> 2) + ((voice & 3) << 2), value);
}
