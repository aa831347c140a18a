// The slow wave that moves choruses, flangers and phasers: a phase per lane at a rate in hertz or tied to a note value,
// which a rise at reset starts over, and its sine.
import { Signal } from "./signal.as";
import { rising } from "./edges.as";
import { beatsOfNoteValue } from "./notevalues.as";
import { fixedCycles, signedPhase, stepPhase } from "./phase.as";
import { catchUp, notePassed } from "./slumber.as";
import { beatAt } from "./time.as";
import { mul, sineOfCycles, splat } from "./simd.as";

/** State at `at`, in vectors: phase high and low, reset before, where the beat's phase started, what slumber keeps. */
const RESET_BEFORE: usize = 32,
  STARTED: usize = 48,
  PASSED: usize = 64;
const CYCLE: f64 = 4294967296.0;
/** So far apart, in cycles, are the sides of a full spread: no multiple of the places that copies stand at. */
const SIDES_APART: f32 = 0.3125;

/** Phases of some frames into a row; `sync` as the choice "off, then note values". */
export function phaseRow(
  at: usize,
  rate: Signal,
  reset: Signal,
  sync: i32,
  g: u32,
  frame: u32,
  frames: u32,
  row: usize,
): void {
  let r = rate.row(g, frame),
    z = reset.row(g, frame);
  const rs = rate.step(g),
    zs = reset.step(g);
  if (sync == 0) catchUp(at + PASSED, at, frame);
  const cycle = sync > 0 ? beatsOfNoteValue(sync - 1) : 1;
  for (let f: u32 = 0; f < frames; ++f) {
    const rises = rising(at + RESET_BEFORE, v128.load(z));
    if (sync > 0) {
      const cycles = beatAt(frame + f) / cycle;
      const now = i32x4.splat(<i32>(<u32>(<u64>((cycles - floor(cycles)) * CYCLE))));
      const started = v128.bitselect(now, v128.load(at + STARTED), rises);
      v128.store(at + STARTED, started);
      v128.store(row + (f << 4), i32x4.sub(now, started));
    } else {
      const high = v128.andnot(v128.load(at), rises),
        low = v128.andnot(v128.load(at, 16), rises);
      v128.store(row + (f << 4), high);
      stepPhase(at, high, low, v128.load(r));
    }
    r += rs;
    z += zs;
  }
  notePassed(at + PASSED, frame + frames, v128.load(r - rs));
}

/** What a spread moves the phase of the right sides on by. */
@inline export function sidesApart(spread: v128): v128 {
  return fixedCycles(mul(spread, f32x4(0, SIDES_APART, 0, SIDES_APART)));
}
/** Sine at a phase. */
@inline export function sineAt(phase: v128): v128 {
  return sineOfCycles(signedPhase(phase));
}
/** A phase in cycles, to add to one. */
@inline export function turnedBy(cycles: f32): v128 {
  return i32x4.splat(<i32>(<i64>(<f64>cycles * CYCLE)));
}
/** One step of a gain's even way to its goal. */
@inline export function stepTo(now: v128, goal: v128, step: f32): v128 {
  const way = f32x4.sub(goal, now);
  return f32x4.add(now, f32x4.max(f32x4.min(way, splat(step)), splat(-step)));
}
