// Wavetable: for each lane the level whose partials fit below Nyquist (levels are half an octave apart), two frames of
// it read at the phase by third-order Lagrange interpolation, and the two mixed by the position.
import * as P from "../../../generated/wavetable.as";
import { groupsOf, isCabled, isWanted, peek, sampleRate, scratch, signalAt, stateOf, tableOf, writeTo } from "../../../kernels/instance.as";
import { rising } from "../../../kernels/edges.as";
import { fixedCycles, frequencyRow, stepPhase, tuningSlots, unsignedPhase } from "../../../kernels/phase.as";
import { add, clamp, higher, log2, madd, mul, splat, sub } from "../../../kernels/simd.as";

const LEVELS: i32 = 19;
const HEAD_BYTES: usize = (4 + 40) * 4;
/** Partials of level 0, doubled: level = 2 log2(2 · 512 · increment), rounded up. */
const TWICE_PARTIALS: f32 = 1024;
const FREQUENCIES: u32 = 0, LANES: u32 = 1;

/** One lane: frame `frameAt` (whole and part), level, phase 0…1. */
// @ts-ignore: decorator
@inline function readLane(table: usize, count: i32, floats: i32, place: f32, level: i32, phase: f32): f32 {
  const first = <i32>place, t = place - <f32>first;
  const points = load<i32>(table + 16 + (<usize>level << 3), 4);
  const x = phase * <f32>points;
  const i = <i32>x, f = x - <f32>i;
  // Third-order Lagrange weights over points i-1 … i+2; the table holds one point before the wave.
  const below = f - 1, far = f - 2, up = f + 1;
  const w0 = f * below * far * <f32>(-1.0 / 6.0), w1 = up * below * far * <f32>0.5, w2 = up * f * far * <f32>-0.5, w3 = up * f * below * <f32>(1.0 / 6.0);
  const p = table + HEAD_BYTES + (<usize>(first * floats + load<i32>(table + 16 + (<usize>level << 3)) + i) << 2);
  const a = w0 * load<f32>(p) + w1 * load<f32>(p, 4) + w2 * load<f32>(p, 8) + w3 * load<f32>(p, 12);
  if (t == 0 || first + 1 >= count) return a;
  const q = p + (<usize>floats << 2);
  const b = w0 * load<f32>(q) + w1 * load<f32>(q, 4) + w2 * load<f32>(q, 8) + w3 * load<f32>(q, 12);
  return a + (b - a) * t;
}

function readGroup(table: usize, position: v128, level: v128, phase: v128): v128 {
  const count = load<i32>(table), floats = load<i32>(table, 4), row = scratch(LANES);
  v128.store(row, mul(clamp(position, splat(0), splat(1)), splat(<f32>(count - 1))));
  v128.store(row, level, 16);
  v128.store(row, phase, 32);
  for (let o: usize = 0; o < 16; o += 4) store<f32>(row + o, readLane(table, count, floats, load<f32>(row + o), load<i32>(row + o, 16), load<f32>(row + o, 32)), 48);
  return v128.load(row, 48);
}

// @ts-ignore: decorator
@inline function levelFor(increment: v128): v128 {
  const wanted = f32x4.ceil(mul(splat(2), log2(higher(mul(f32x4.abs(increment), splat(TWICE_PARTIALS)), splat(1e-6)))));
  return i32x4.trunc_sat_f32x4_s(clamp(wanted, splat(0), splat(<f32>(LEVELS - 1))));
}

export function process(instance: usize, frame: u32, frames: u32): void {
  const table = tableOf(instance), outA = signalAt(instance, P.OUT_A), outB = signalAt(instance, P.OUT_B);
  const fm = signalAt(instance, P.IN_FM), hz = signalAt(instance, P.IN_HZ), phaseIn = signalAt(instance, P.IN_PHASE), sync = signalAt(instance, P.IN_SYNC);
  const position = signalAt(instance, P.PARAM_POSITION), offset = signalAt(instance, P.PARAM_OFFSET), gain = signalAt(instance, P.PARAM_LEVEL);
  const modulated = isCabled(fm) || isCabled(hz) || isCabled(phaseIn) || isCabled(sync);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g), row = scratch(FREQUENCIES);
    tuningSlots(P.IN_PITCH, P.PARAM_TRACKING, P.PARAM_FREQUENCY, P.FACTOR_FREQUENCY, P.PARAM_OCTAVE, P.PARAM_SEMITONES, P.PARAM_FINE);
    const steady = frequencyRow(instance, g, frame, frames, row) && !modulated;
    let before = v128.load(state + P.STATE_PHASEBEFORE), level = levelFor(mul(v128.load(row), splat(1 / sampleRate)));
    const a: usize = isWanted(outA) ? writeTo(outA, g, frame) : 0, b: usize = isWanted(outB) ? writeTo(outB, g, frame) : 0;

    for (let f: u32 = 0; f < frames; ++f) {
      const at = frame + f;
      let high = v128.load(state + P.STATE_HIGH), low = v128.load(state + P.STATE_LOW), phase = high;
      let hertz = v128.load(steady ? row : row + (f << 4));
      if (modulated) {
        const moved = peek(phaseIn, g, at);
        hertz = madd(hertz, add(splat(1), peek(fm, g, at)), peek(hz, g, at));
        const restarts = rising(state + P.STATE_SYNCBEFORE, peek(sync, g, at));
        high = v128.andnot(high, restarts);
        low = v128.andnot(low, restarts);
        phase = i32x4.add(high, fixedCycles(moved));
        level = levelFor(madd(hertz, splat(1 / sampleRate), sub(moved, before)));
        before = moved;
      } else if (!steady) level = levelFor(mul(hertz, splat(1 / sampleRate)));
      const p = unsignedPhase(phase), place = peek(position, g, at), loud = peek(gain, g, at);
      if (a) v128.store(a + (f << 4), mul(loud, readGroup(table, place, level, p)));
      if (b) v128.store(b + (f << 4), mul(loud, readGroup(table, add(place, peek(offset, g, at)), level, p)));
      stepPhase(state + P.STATE_HIGH, high, low, hertz);
    }
    v128.store(state + P.STATE_PHASEBEFORE, before);
  }
}
