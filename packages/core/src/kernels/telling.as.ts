// Values that pictures are drawn from: written only while somebody looks.
import { Signal } from "./signal.as";

/** Nothing plays. */
export const NOWHERE: f32 = -1;

/** What a voice tells, for the frames of a call. */
@inline export function tell(out: Signal, voice: u32, value: f32): void {
  if (!out.isWanted) return;
  out.setStep(voice >> 2, 0);
  store<f32>(out.start(voice >> 2) + ((voice & 3) << 2), value);
}
