// Phases that go on while their module rests: nothing runs then, so what passed is made up for at the next frame. State
// at `at`, in vectors: the frame that was come to, and the rate in hertz that the phase moved at.
import { fixedStep } from "./phase.as";
import { time } from "./time.as";

const RATE: usize = 16;

/** Moves a phase (high and low, as stepPhase keeps them) on by the frames up to `frame` that nothing ran in. */
export function catchUp(at: usize, phaseAt: usize, frame: u32): void {
  if (load<u32>(at, 4) == 0) return;
  const slept = time + frame - load<u32>(at);
  if (slept == 0) return;
  for (let lane: usize = 0; lane < 16; lane += 4) {
    const phase = ((<u64>load<u32>(phaseAt + lane)) << 32) | (<u64>load<u32>(phaseAt + lane, 16)),
      now = phase + fixedStep(load<f32>(at + lane, RATE)) * <u64>slept;
    store<u32>(phaseAt + lane, <u32>(now >> 32));
    store<u32>(phaseAt + lane, <u32>now, 16);
  }
  store<u32>(at, time + frame);
}

/** Notes that a phase has moved up to `frame`, at `hertz` in the end. */
export function notePassed(at: usize, frame: u32, hertz: v128): void {
  store<u32>(at, time + frame);
  store<u32>(at, 1, 4);
  v128.store(at, hertz, RATE);
}
