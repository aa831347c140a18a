// The synced oscillator. A reset cannot be foreseen, so here every corner is corrected after it happened, with the
// causal (minimum-phase) step: naive wave plus a ring of corrections that the corners have added ahead.
// Runs lane by lane; only oscillators with a cable at sync pay for it.
import * as P from "../../../generated/oscillator.as";
import {
  choiceOf,
  isWanted,
  numberOf,
  pointerTo,
  scratch,
  signalAt,
  stateOf,
  strideOf,
  writeTo,
} from "../../../kernels/instance.as";
import { sineOfCycles, splat } from "../../../kernels/simd.as";
import { CAUSAL_LENGTH, CAUSAL_POINTS, causalSlopeTable, causalStepTable } from "../../../kernels/tables.as";

const WAVES: u32 = 5;
const RING: u32 = 32;

// @ts-ignore: decorator
@inline function sineAt(p: f32): f32 {
  const s: f32 = p - nearest<f32>(p);
  return f32x4.extract_lane(sineOfCycles(splat(s)), 0);
}

/** Naive value of a wave at phase p within 0..1; `odd` tells the second cycle of the sub. */
function waveAt(wave: u32, p: f32, width: f32, odd: i32): f32 {
  if (wave == 0) return sineAt(p);
  if (wave == 1) return p < 0.5 ? 4 * p - 1 : 3 - 4 * p;
  if (wave == 2) return 2 * p - 1;
  if (wave == 3) return p < width ? 1 : -1;
  return 0.5 * (p + <f32>odd) < width ? 1 : -1;
}

// @ts-ignore: decorator
@inline function ringAt(state: usize, wave: u32, slot: u32, lane: u32): usize {
  return state + P.STATE_RINGS + ((wave * RING + (slot & (RING - 1))) << 4) + (lane << 2);
}

/** A step of height `step` happened `age` samples ago: add what the band-limited one still lacks, from now on. */
function addStep(state: usize, wave: u32, position: u32, lane: u32, step: f32, age: f32): void {
  if (step == 0) return;
  for (let j: u32 = 0; j < RING - 1; ++j) {
    const x = (age + <f32>j) * <f32>CAUSAL_POINTS;
    const i = <i32>x;
    if (i >= CAUSAL_LENGTH * CAUSAL_POINTS) return;
    const table = causalStepTable + (i << 2);
    const a = load<f32>(table);
    const lacking = a + (load<f32>(table, 4) - a) * (x - <f32>i);
    const slot = ringAt(state, wave, position + j, lane);
    store<f32>(slot, load<f32>(slot) - step * lacking);
  }
}

/**
 * A change of slope (per sample) happened `age` samples ago. The causal ramp lags by the step's mean delay d; a step of
 * d times the change brings it back: what is added, D(t) - d T(t), begins and ends at 0.
 */
function addSlope(state: usize, wave: u32, position: u32, lane: u32, change: f32, age: f32): void {
  if (change == 0) return;
  const delay = load<f32>(causalSlopeTable);
  for (let j: u32 = 0; j < RING - 1; ++j) {
    const x = (age + <f32>j) * <f32>CAUSAL_POINTS;
    const i = <i32>x;
    if (i >= CAUSAL_LENGTH * CAUSAL_POINTS) return;
    const f = x - <f32>i;
    const steps = causalStepTable + (i << 2),
      slopes = causalSlopeTable + (i << 2);
    const t = load<f32>(steps) + (load<f32>(steps, 4) - load<f32>(steps)) * f;
    const d = load<f32>(slopes) + (load<f32>(slopes, 4) - load<f32>(slopes)) * f;
    const slot = ringAt(state, wave, position + j, lane);
    store<f32>(slot, load<f32>(slot) + change * (d - delay * t));
  }
}

/** Slope of sine (0) and triangle (1) per cycle at phase p. */
// @ts-ignore: decorator
@inline function slopeAt(wave: u32, p: f32): f32 {
  if (wave == 0) return <f32>6.2831853 * sineAt(p + 0.25);
  return p < 0.5 ? 4 : -4;
}

/** Moves the phase over `length` samples and corrects the natural corners passed; returns the new phase. */
function advance(
  state: usize,
  position: u32,
  lane: u32,
  from: f32,
  increment: f32,
  length: f32,
  width: f32,
  after: f32,
): f32 {
  let to = from + increment * length;
  const oddAt = state + P.STATE_ODD + (lane << 2);
  const inverse: f32 = increment != 0 ? 1 / increment : 0;
  passEdges(state, position, lane, from, to, inverse, width, load<i32>(oddAt) & 1, after);
  if (to >= 1 || to < 0) {
    const up = to >= 1;
    const odd = load<i32>(oddAt) & 1;
    const age = (up ? to - 1 : to) * inverse + after;
    addSlope(state, 1, position, lane, 8 * abs<f32>(increment), age);
    addStep(state, 2, position, lane, up ? -2 : 2, age);
    addStep(state, 3, position, lane, up ? 2 : -2, age);
    const subNow = waveAt(4, up ? 0 : 1, width, odd ^ 1);
    addStep(state, 4, position, lane, subNow - waveAt(4, up ? 1 : 0, width, odd), age);
    store<i32>(oddAt, odd ^ 1);
    to += up ? -1 : 1;
    passEdges(state, position, lane, up ? 0 : 1, to, inverse, width, odd ^ 1, after);
  }
  return to;
}

/** Corrects the top of the triangle and the falling edges of pulse and sub that lie between two phases of one cycle. */
function passEdges(
  state: usize,
  position: u32,
  lane: u32,
  from: f32,
  to: f32,
  inverse: f32,
  width: f32,
  odd: i32,
  after: f32,
): void {
  if (from < 0.5 != to < 0.5 && inverse != 0)
    addSlope(state, 1, position, lane, -8 * abs<f32>(1 / inverse), (to - 0.5) * inverse + after);
  if (from < width != to < width)
    addStep(state, 3, position, lane, to < width ? 2 : -2, (to - width) * inverse + after);
  const edge: f32 = <f32>2 * width - <f32>odd;
  if (edge > 0 && edge < 1 && from < edge != to < edge)
    addStep(state, 4, position, lane, to < edge ? 2 : -2, (to - edge) * inverse + after);
}

function resetPhase(
  state: usize,
  position: u32,
  lane: u32,
  from: f32,
  to: f32,
  increment: f32,
  width: f32,
  age: f32,
): void {
  const oddAt = state + P.STATE_ODD + (lane << 2);
  const odd = load<i32>(oddAt) & 1;
  for (let wave: u32 = 0; wave < WAVES; ++wave) {
    addStep(state, wave, position, lane, waveAt(wave, to, width, 0) - waveAt(wave, from, width, odd), age);
  }
  for (let wave: u32 = 0; wave < 2; ++wave)
    addSlope(state, wave, position, lane, increment * (slopeAt(wave, to) - slopeAt(wave, from)), age);
  store<i32>(oddAt, 0);
}

export function runSynced(instance: usize, g: u32, frame: u32, frames: u32): void {
  const state = stateOf(instance, g);
  const syncSignal = signalAt(instance, P.IN_SYNC),
    phaseSignal = signalAt(instance, P.IN_PHASE);
  const sync = pointerTo(syncSignal, g, frame),
    syncStride = strideOf(syncSignal, g);
  const moved = pointerTo(phaseSignal, g, frame),
    movedStride = strideOf(phaseSignal, g);
  const level = pointerTo(signalAt(instance, P.PARAM_LEVEL), g, frame),
    levelStride = strideOf(signalAt(instance, P.PARAM_LEVEL), g);
  const widthSignal = signalAt(instance, P.PARAM_WIDTH);
  const widths = pointerTo(widthSignal, g, frame),
    widthStride = strideOf(widthSignal, g);
  const soft = choiceOf(instance, P.SET_SYNCMODE) == P.SYNCMODE_SOFT;
  const start = numberOf(instance, P.SET_STARTPHASE);
  const increments = scratch(1);
  for (let wave: u32 = 0; wave < WAVES; ++wave) {
    const out = signalAt(instance, P.OUT_SINE + (wave << 2));
    if (isWanted(out)) writeTo(out, g, frame);
  }
  for (let lane: u32 = 0; lane < 4; ++lane) {
    const offset = lane << 2;
    let position = load<u32>(state + P.STATE_POSITION + offset);
    // Here `direction` is 0 before the first frame, then 1 or -1 (soft sync turns it).
    let direction = load<f32>(state + P.STATE_DIRECTION + offset);
    let p = load<f32>(state + P.STATE_INCREMENTBEFORE + offset);
    let before = load<f32>(state + P.STATE_SYNCBEFORE + offset);
    const fresh = direction == 0;
    if (fresh) {
      direction = 1;
      p = start;
      store<i32>(state + P.STATE_ODD + offset, 0);
    }
    for (let f: u32 = 0; f < frames; ++f) {
      const now = load<f32>(sync + f * syncStride + offset);
      const width = load<f32>(widths + f * widthStride + offset);
      const increment = direction * load<f32>(increments + (f << 4) + offset);
      const rises = before <= 0.5 && now > 0.5;
      // A gate's edge is exactly at its frame; a wave crossed the threshold in between.
      const age: f32 = !rises || (before == 0 && now == 1) ? 0 : (now - 0.5) / (now - before);
      if (!(fresh && f == 0)) {
        if (rises && !soft) {
          p = advance(state, position, lane, p, increment, 1 - age, width, age);
          resetPhase(state, position, lane, p, start, increment, width, age);
          p = advance(state, position, lane, start, increment, age, width, 0);
        } else {
          p = advance(state, position, lane, p, increment, 1, width, 0);
          if (rises) direction = -direction;
        }
      }
      // Only absurd input leads out of the cycle.
      if (!(p >= 0 && p <= 1)) p = start;
      before = now;
      const odd = load<i32>(state + P.STATE_ODD + offset) & 1;
      const turned = p + load<f32>(moved + f * movedStride + offset);
      const q: f32 = turned - floor<f32>(turned);
      const gain = load<f32>(level + f * levelStride + offset);
      for (let wave: u32 = 0; wave < WAVES; ++wave) {
        const slot = ringAt(state, wave, position, lane);
        const correction = load<f32>(slot);
        store<f32>(slot, 0);
        const out = signalAt(instance, P.OUT_SINE + (wave << 2));
        if (isWanted(out))
          store<f32>(
            pointerTo(out, g, frame + f) + offset,
            gain * (waveAt(wave, q, width, odd) + correction),
          );
      }
      position = (position + 1) & (RING - 1);
    }
    store<u32>(state + P.STATE_POSITION + offset, position);
    store<f32>(state + P.STATE_DIRECTION + offset, direction);
    store<f32>(state + P.STATE_INCREMENTBEFORE + offset, p);
    store<f32>(state + P.STATE_SYNCBEFORE + offset, before);
  }
}
