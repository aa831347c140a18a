// Oscillator: one 64-bit phase, waves as closed forms of it, their corners band-limited from the step tables.
//
// Naive wave plus, for every corner within 12 samples, what a band-limited corner differs from a sharp one. Corners
// ahead are foreseen from the present increment, so there is no latency and no state beyond the phase.
import * as P from "../../../generated/oscillator.as";
import {
  choiceOf,
  groupsOf,
  isCabled,
  isConstant,
  isWanted,
  laneSeedsOf,
  numberOf,
  pointerTo,
  sampleRate,
  scratch,
  signalAt,
  stateOf,
  strideOf,
  writeTo,
} from "../../../kernels/instance.as";
import {
  add,
  at,
  bipolar,
  clamp,
  COMMON,
  div,
  exp2,
  higher,
  madd,
  mixBits,
  mul,
  ONE,
  PER_CYCLE,
  select,
  SIGN,
  sineOfCycles,
  splat,
  sub,
} from "../../../kernels/simd.as";
import { lookUp, slopeTable, stepLimits, stepTable, STEP_REACH } from "../../../kernels/tables.as";
import { runSynced } from "./sync.as";

const C4: f32 = 261.6256;
const TO_FIXED: f32 = 4294967296.0;
/** Drift at 1 wanders this far, in octaves (15 cents), around twice in three seconds. */
const DRIFT_OCTAVES: f32 = 0.0125;
const DRIFT_RATE: f32 = 0.7;

const PHASES = 0,
  INCREMENTS = 1,
  SUBPHASES = 2;

/** Smooth random per lane: cubic steps between hashed values. */
function driftAt(group: usize, seeds: v128): v128 {
  const t = v128.load(group + P.STATE_DRIFTTIME);
  const index = i32x4.trunc_sat_f32x4_s(t);
  const f = sub(t, f32x4.convert_i32x4_s(index));
  const a = bipolar(mixBits(v128.xor(i32x4.mul(index, i32x4.splat(0x9e3779b9)), seeds)));
  const b = bipolar(
    mixBits(v128.xor(i32x4.mul(i32x4.add(index, i32x4.splat(1)), i32x4.splat(0x9e3779b9)), seeds)),
  );
  v128.store(group + P.STATE_DRIFTTIME, add(t, splat(DRIFT_RATE / sampleRate)));
  const s = mul(mul(f, f), sub(splat(3), add(f, f)));
  return madd(sub(b, a), s, a);
}

const MOVING = 0,
  STEADY = 1,
  DONE = 2;

/**
 * Writes phase, increment and sub phase of every frame into scratch rows. STEADY when the increment is constant; DONE
 * when `sawOut` was given (only the saw is wanted) and has been written on the way.
 */
function runPhases(
  instance: usize,
  g: u32,
  frame: u32,
  frames: u32,
  wantSub: bool,
  sawOut: usize,
  sawLevel: usize,
  sawLevelStride: usize,
): i32 {
  const state = stateOf(instance, g);
  const pitch = signalAt(instance, P.IN_PITCH),
    fm = signalAt(instance, P.IN_FM),
    hz = signalAt(instance, P.IN_HZ);
  const phase = signalAt(instance, P.IN_PHASE);
  const octave = signalAt(instance, P.PARAM_OCTAVE),
    semitones = signalAt(instance, P.PARAM_SEMITONES);
  const fine = signalAt(instance, P.PARAM_FINE),
    tracking = signalAt(instance, P.PARAM_TRACKING);
  const base = signalAt(instance, P.PARAM_FREQUENCY),
    factor = signalAt(instance, P.FACTOR_FREQUENCY);
  const drift = signalAt(instance, P.PARAM_DRIFT);
  let pPitch = pointerTo(pitch, g, frame),
    pFm = pointerTo(fm, g, frame),
    pHz = pointerTo(hz, g, frame),
    pPhase = pointerTo(phase, g, frame);
  let pOctave = pointerTo(octave, g, frame),
    pSemitones = pointerTo(semitones, g, frame),
    pFine = pointerTo(fine, g, frame);
  let pTracking = pointerTo(tracking, g, frame),
    pBase = pointerTo(base, g, frame),
    pFactor = pointerTo(factor, g, frame),
    pDrift = pointerTo(drift, g, frame);
  const sPitch = strideOf(pitch, g),
    sFm = strideOf(fm, g),
    sHz = strideOf(hz, g),
    sPhase = strideOf(phase, g);
  const sOctave = strideOf(octave, g),
    sSemitones = strideOf(semitones, g),
    sFine = strideOf(fine, g);
  const sTracking = strideOf(tracking, g),
    sBase = strideOf(base, g),
    sFactor = strideOf(factor, g),
    sDrift = strideOf(drift, g);
  const tracks = isCabled(pitch) ? i32x4.splat(-1) : i32x4.splat(0);
  const drifts = sDrift != 0 || v128.any_true(f32x4.ne(v128.load(pDrift), splat(0)));
  const steady =
    (sPitch | sFm | sHz | sOctave | sSemitones | sFine | sTracking | sBase | sFactor) == 0 && !drifts;
  const modulated = isCabled(phase);
  const seeds = laneSeedsOf(instance, g);
  const perFixed = splat(TO_FIXED / sampleRate),
    perFrame = splat(1.0 / sampleRate);
  if (!v128.any_true(v128.load(state + P.STATE_STARTED))) {
    const start = numberOf(instance, P.SET_STARTPHASE);
    v128.store(
      state + P.STATE_HIGH,
      i32x4.splat(<i32>(<u32>((<u64>(<f64>start * 4294967296.0)) & 0xffffffff))),
    );
    v128.store(state + P.STATE_STARTED, i32x4.splat(-1));
    v128.store(state + P.STATE_PHASEBEFORE, v128.load(pPhase));
  }
  let high = v128.load(state + P.STATE_HIGH),
    low = v128.load(state + P.STATE_LOW),
    cycle = v128.load(state + P.STATE_CYCLE);
  let before = v128.load(state + P.STATE_PHASEBEFORE);
  const firstLow = low;
  let increment = splat(0),
    stepHigh = splat(0),
    stepLow = splat(0);
  const phases = scratch(PHASES),
    increments = scratch(INCREMENTS),
    subphases = scratch(SUBPHASES);
  const length: u32 = steady && !modulated && !wantSub ? 1 : frames;
  for (let f: u32 = 0; f < length; ++f) {
    if (f == 0 || !steady) {
      let x = madd(v128.load(pSemitones), splat(1.0 / 12.0), v128.load(pOctave));
      x = madd(v128.load(pFine), splat(1.0 / 1200.0), x);
      if (drifts) x = madd(mul(driftAt(state, seeds), v128.load(pDrift)), splat(DRIFT_OCTAVES), x);
      const mask = v128.and(tracks, f32x4.gt(v128.load(pTracking), splat(0.5)));
      x = add(x, v128.and(mask, v128.load(pPitch)));
      const from = select(mul(splat(C4), v128.load(pFactor)), v128.load(pBase), mask);
      const hertz = madd(mul(from, exp2(x)), add(splat(1), v128.load(pFm)), v128.load(pHz));
      const limited = clamp(hertz, splat(-0.5 * sampleRate), splat(0.5 * sampleRate));
      increment = mul(limited, perFrame);
      const fixed = mul(limited, perFixed);
      const whole = f32x4.floor(fixed);
      stepHigh = i32x4.trunc_sat_f32x4_s(whole);
      stepLow = i32x4.trunc_sat_f32x4_u(mul(sub(fixed, whole), splat(TO_FIXED)));
    }
    const row = f << 4;
    if (modulated) {
      const moved = v128.load(pPhase);
      const wrapped = sub(moved, f32x4.nearest(moved));
      const offset = i32x4.trunc_sat_f32x4_s(mul(wrapped, splat(TO_FIXED)));
      v128.store(phases + row, i32x4.add(high, offset));
      v128.store(increments + row, add(increment, sub(moved, before)));
      before = moved;
    } else {
      v128.store(phases + row, high);
      v128.store(increments + row, increment);
    }
    if (wantSub) v128.store(subphases + row, v128.or(i32x4.shl(cycle, 31), i32x4.shr_u(high, 1)));
    const nextLow = i32x4.add(low, stepLow);
    const carry = u32x4Below(nextLow, low);
    const first = i32x4.add(high, stepHigh);
    const next = i32x4.sub(first, carry);
    if (wantSub) {
      const over = v128.or(u32x4Below(first, high), v128.and(carry, i32x4.eq(next, i32x4.splat(0))));
      cycle = i32x4.add(cycle, i32x4.sub(i32x4.shr_s(stepHigh, 31), over));
    }
    high = next;
    low = nextLow;
    pPitch += sPitch;
    pFm += sFm;
    pHz += sHz;
    pPhase += sPhase;
    pOctave += sOctave;
    pSemitones += sSemitones;
    pFine += sFine;
    pTracking += sTracking;
    pBase += sBase;
    pFactor += sFactor;
    pDrift += sDrift;
  }
  // The common case: nothing moves, only the phase runs on; a saw alone is written on the way.
  if (length == 1 && frames > 1 && sawOut) {
    if (cornersFor(widest(increments, 1, true)) == 0) {
      v128.store(state + P.STATE_HIGH, v128.load(phases));
      v128.store(state + P.STATE_LOW, firstLow);
      runSteadySaw(state, sawOut, sawLevel, sawLevelStride, frames, stepHigh, stepLow, inverseOf(increment));
      return DONE;
    }
  }
  for (let p = phases + (length << 4), end = phases + (frames << 4); p < end; p += 16) {
    v128.store(p, high);
    const nextLow = i32x4.add(low, stepLow);
    high = i32x4.sub(i32x4.add(high, stepHigh), u32x4Below(nextLow, low));
    low = nextLow;
  }
  v128.store(state + P.STATE_HIGH, high);
  v128.store(state + P.STATE_LOW, low);
  v128.store(state + P.STATE_CYCLE, cycle);
  v128.store(state + P.STATE_PHASEBEFORE, before);
  return steady && !modulated ? STEADY : MOVING;
}

// @ts-ignore: decorator
@inline function u32x4Below(a: v128, b: v128): v128 {
  return i32x4.lt_u(a, b);
}
// @ts-ignore: decorator
@inline function signed(phase: v128): v128 {
  return mul(f32x4.convert_i32x4_s(phase), at(COMMON, PER_CYCLE));
}
/** 1 with the sign of u. */
// @ts-ignore: decorator
@inline function signOf(u: v128): v128 {
  return v128.or(v128.and(u, at(COMMON, SIGN)), at(COMMON, ONE));
}

/** Largest increment of a row, any lane: how many corners can be near at once. */
function widest(increments: usize, frames: u32, constant: bool): f32 {
  let most = f32x4.abs(v128.load(increments));
  if (!constant)
    for (let f: u32 = 1; f < frames; ++f) most = higher(most, f32x4.abs(v128.load(increments + (f << 4))));
  return max(
    max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)),
    max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)),
  );
}
// @ts-ignore: decorator
@inline function cornersFor(increment: f32): i32 {
  return <i32>(<f32>STEP_REACH * increment + 0.5);
}

/** Sum over all near corners of sign(u) T(|u| / increment), u = signed distance in cycles. */
// @ts-ignore: decorator
@inline function steps(u: v128, inverse: v128, corners: i32): v128 {
  const size = mul(f32x4.abs(u), inverse);
  let sum = splat(0);
  if (v128.any_true(f32x4.lt(size, splat(<f32>STEP_REACH)))) sum = mul(signOf(u), lookUp(stepTable, size));
  for (let k = 1; k <= corners; ++k) {
    const shift = splat(<f32>k);
    sum = add(
      sum,
      sub(
        lookUp(stepTable, mul(f32x4.abs(add(u, shift)), inverse)),
        lookUp(stepTable, mul(f32x4.abs(sub(u, shift)), inverse)),
      ),
    );
  }
  return sum;
}

/** Sum over all near corners of the slope table. */
// @ts-ignore: decorator
@inline function slopes(u: v128, inverse: v128, corners: i32): v128 {
  const size = mul(f32x4.abs(u), inverse);
  let sum = splat(0);
  if (v128.any_true(f32x4.lt(size, splat(<f32>STEP_REACH)))) sum = lookUp(slopeTable, size);
  for (let k = 1; k <= corners; ++k) {
    const shift = splat(<f32>k);
    sum = add(
      sum,
      add(
        lookUp(slopeTable, mul(f32x4.abs(add(u, shift)), inverse)),
        lookUp(slopeTable, mul(f32x4.abs(sub(u, shift)), inverse)),
      ),
    );
  }
  return sum;
}

const LEAST_INCREMENT: f32 = 1e-12;
// @ts-ignore: decorator
@inline function inverseOf(increment: v128): v128 {
  return div(splat(1), higher(f32x4.abs(increment), splat(LEAST_INCREMENT)));
}

function writeSine(out: usize, level: usize, levelStride: usize, frames: u32): void {
  const phases = scratch(PHASES);
  for (let f: u32 = 0; f < frames; ++f) {
    v128.store(out + (f << 4), mul(v128.load(level), sineOfCycles(signed(v128.load(phases + (f << 4))))));
    level += levelStride;
  }
}

/** A saw of constant pitch with at most one corner near, phase and wave in one go: the case that counts. */
function runSteadySaw(
  state: usize,
  out: usize,
  level: usize,
  levelStride: usize,
  frames: u32,
  stepHigh: v128,
  stepLow: v128,
  inverse: v128,
): void {
  const reach = at(stepLimits, 0),
    unit = at(COMMON, PER_CYCLE),
    signs = at(COMMON, SIGN),
    one = at(COMMON, ONE);
  let high = v128.load(state + P.STATE_HIGH),
    low = v128.load(state + P.STATE_LOW);
  for (let end = out + (frames << 4); out < end; out += 16) {
    const s = mul(f32x4.convert_i32x4_s(high), unit);
    const direction = v128.or(v128.and(s, signs), one);
    let y = sub(add(s, s), direction);
    const size = mul(f32x4.abs(s), inverse);
    if (v128.any_true(f32x4.lt(size, reach))) {
      const lacking = mul(direction, lookUp(stepTable, size));
      y = add(y, add(lacking, lacking));
    }
    v128.store(out, mul(v128.load(level), y));
    level += levelStride;
    const nextLow = i32x4.add(low, stepLow);
    high = i32x4.sub(i32x4.add(high, stepHigh), u32x4Below(nextLow, low));
    low = nextLow;
  }
  v128.store(state + P.STATE_HIGH, high);
  v128.store(state + P.STATE_LOW, low);
}

function writeSaw(out: usize, level: usize, levelStride: usize, frames: u32, constant: bool): void {
  const phases = scratch(PHASES),
    increments = scratch(INCREMENTS);
  const corners = cornersFor(widest(increments, frames, constant));
  let inverse = inverseOf(v128.load(increments));
  for (let f: u32 = 0; f < frames; ++f) {
    if (!constant) inverse = inverseOf(v128.load(increments + (f << 4)));
    const s = signed(v128.load(phases + (f << 4)));
    const lacking = steps(s, inverse, corners);
    v128.store(out + (f << 4), mul(v128.load(level), add(sub(add(s, s), signOf(s)), add(lacking, lacking))));
    level += levelStride;
  }
}

function writeTriangle(out: usize, level: usize, levelStride: usize, frames: u32, constant: bool): void {
  const phases = scratch(PHASES),
    increments = scratch(INCREMENTS);
  const corners = cornersFor(widest(increments, frames, constant));
  const half = i32x4.splat(<i32>0x80000000);
  let increment = v128.load(increments),
    inverse = inverseOf(increment);
  for (let f: u32 = 0; f < frames; ++f) {
    if (!constant) {
      increment = v128.load(increments + (f << 4));
      inverse = inverseOf(increment);
    }
    const phase = v128.load(phases + (f << 4));
    const s = signed(phase),
      opposite = signed(i32x4.add(phase, half));
    const rounding = sub(slopes(s, inverse, corners), slopes(opposite, inverse, corners));
    const naive = sub(mul(splat(4), f32x4.abs(s)), splat(1));
    v128.store(
      out + (f << 4),
      mul(v128.load(level), madd(mul(splat(8), f32x4.abs(increment)), rounding, naive)),
    );
    level += levelStride;
  }
}

/** Pulse of a phase row. `scale` 1 for the pulse, 0.5 for the sub (half the increment). */
function writePulse(
  out: usize,
  row: usize,
  scale: f32,
  state: usize,
  width: usize,
  widthStride: usize,
  level: usize,
  levelStride: usize,
  frames: u32,
  constant: bool,
): void {
  const increments = scratch(INCREMENTS);
  const corners = cornersFor(widest(increments, frames, constant));
  const moves = widthStride != 0;
  let before = v128.load(state + P.STATE_WIDTHBEFORE);
  let inverse = inverseOf(mul(v128.load(increments), splat(scale))),
    inverseOfFall = inverse;
  for (let f: u32 = 0; f < frames; ++f) {
    const w = v128.load(width);
    if (!constant || moves) {
      // The falling edge meets a moving width: it is passed at the difference of their speeds.
      const increment = mul(v128.load(increments + (f << 4)), splat(scale));
      inverse = inverseOf(increment);
      inverseOfFall = moves ? inverseOf(sub(increment, sub(w, before))) : inverse;
      before = w;
    }
    const s = signed(v128.load(row + (f << 4)));
    const p = add(s, v128.and(f32x4.lt(s, splat(0)), splat(1)));
    const low = f32x4.ge(p, w);
    const fall = sub(p, w);
    const fallSigned = sub(fall, f32x4.nearest(fall));
    // -0.5 and 0.5 are the same place; the sign must agree with the naive wave next to the edge only.
    const edges = sub(steps(fallSigned, inverseOfFall, corners), steps(s, inverse, corners));
    v128.store(
      out + (f << 4),
      mul(v128.load(level), madd(splat(2), edges, select(splat(-1), splat(1), low))),
    );
    width += widthStride;
    level += levelStride;
  }
  if (frames) v128.store(state + P.STATE_WIDTHBEFORE, v128.load(width - widthStride));
}

export function process(instance: usize, frame: u32, frames: u32): void {
  const groups = groupsOf(instance);
  const sine = signalAt(instance, P.OUT_SINE),
    triangle = signalAt(instance, P.OUT_TRIANGLE),
    saw = signalAt(instance, P.OUT_SAW);
  const pulse = signalAt(instance, P.OUT_PULSE),
    sub2 = signalAt(instance, P.OUT_SUB);
  const level = signalAt(instance, P.PARAM_LEVEL),
    width = signalAt(instance, P.PARAM_WIDTH);
  const synced = isCabled(signalAt(instance, P.IN_SYNC));
  for (let g: u32 = 0; g < groups; ++g) {
    const wantSub = isWanted(sub2);
    const l = pointerTo(level, g, frame),
      ls = strideOf(level, g);
    const onlySaw =
      isWanted(saw) && !synced && !wantSub && !isWanted(sine) && !isWanted(triangle) && !isWanted(pulse);
    const result = runPhases(
      instance,
      g,
      frame,
      frames,
      wantSub || synced,
      onlySaw ? writeTo(saw, g, frame) : 0,
      l,
      ls,
    );
    if (result == DONE) continue;
    const constant = result == STEADY;
    if (synced) {
      runSynced(instance, g, frame, frames);
      continue;
    }
    const state = stateOf(instance, g);
    const w = pointerTo(width, g, frame),
      ws = strideOf(width, g);
    if (isWanted(sine)) writeSine(writeTo(sine, g, frame), l, ls, frames);
    if (isWanted(triangle)) writeTriangle(writeTo(triangle, g, frame), l, ls, frames, constant);
    if (isWanted(saw)) writeSaw(writeTo(saw, g, frame), l, ls, frames, constant);
    if (wantSub)
      writePulse(writeTo(sub2, g, frame), scratch(SUBPHASES), 0.5, state, w, ws, l, ls, frames, constant);
    if (isWanted(pulse))
      writePulse(writeTo(pulse, g, frame), scratch(PHASES), 1, state, w, ws, l, ls, frames, constant);
  }
}
