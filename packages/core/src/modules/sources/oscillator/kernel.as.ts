/* eslint max-lines: ["error", 500] -- one oscillator: phases and the waves of one phase */
// Oscillator: one 64-bit phase, waves as closed forms of it, their corners band-limited from the step tables.
//
// While nothing rises at `sync` every wave is a closed form of the phase (kernels/corners). What cannot be foreseen, a
// reset by `sync`, is the business of sync.as.ts, for the lanes that have met one.
//
// Whether a signal stands still or moves must not change a bit: rows are filled once where nothing moves, and the same
// expressions read them either way.
import * as P from "../../../generated/oscillator.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate } from "../../../kernels/time.as";
import {
  cornersFor,
  inverseOf,
  limitedIncrement,
  signedCycles,
  steps,
  stepsAt,
  triangleAt,
  widestIncrement,
} from "../../../kernels/corners.as";
import { anyRise, rising } from "../../../kernels/edges.as";
import { C4, fixedCycles } from "../../../kernels/phase.as";
import {
  add,
  at,
  bipolar,
  clamp,
  COMMON,
  exp2,
  lower,
  madd,
  mixBits,
  mul,
  select,
  SIGN,
  sineOfCycles,
  splat,
  sub,
} from "../../../kernels/simd.as";
import { isSynced, runSynced } from "./sync.as";
import { INCREMENTS, PHASES, SUBPHASES, runSteadySaw, writeSaw } from "./saw.as";

const TO_FIXED: f32 = 4294967296.0;
/** Drift at 1 wanders this far, in octaves (15 cents), around twice in three seconds. */
const DRIFT_OCTAVES: f32 = 0.0125;
const DRIFT_RATE: f32 = 0.7;

/** Smooth random per lane: cubic steps between hashed values. */
function driftAt(group: P.State, seeds: v128): v128 {
  const t = group.driftTime;
  const index = i32x4.trunc_sat_f32x4_s(t);
  const f = sub(t, f32x4.convert_i32x4_s(index));
  const a = bipolar(mixBits(v128.xor(i32x4.mul(index, i32x4.splat(0x9e3779b9)), seeds)));
  const b = bipolar(
    mixBits(v128.xor(i32x4.mul(i32x4.add(index, i32x4.splat(1)), i32x4.splat(0x9e3779b9)), seeds)),
  );
  group.driftTime = add(t, splat(DRIFT_RATE / sampleRate));
  const s = mul(mul(f, f), sub(splat(3), add(f, f)));
  return madd(sub(b, a), s, a);
}

const PAST_WIDTHS: u32 = 3;

const MOVING = 0,
  STEADY = 1,
  DONE = 2;

/** The phase a wave starts from, in fixed point. */
function startOf(m: P.Module): v128 {
  const start = m.startPhase;
  return i32x4.splat(<i32>(<u32>((<u64>(<f64>start * 4294967296.0)) & 0xffffffff)));
}

/**
 * Writes phase, increment and sub phase of every frame into scratch rows. STEADY when the increment is constant: then
 * only the first vector of its row is written. DONE when `sawOut` was given (only the saw is wanted) and has been
 * written on the way.
 */
function runPhases(
  m: P.Module,
  g: u32,
  frame: u32,
  frames: u32,
  wantSub: bool,
  resets: bool,
  sawOut: usize,
  sawLevel: usize,
  sawLevelStride: usize,
): i32 {
  const state = m.state(g);
  const pitch = m.pitch,
    fm = m.fm,
    hz = m.hz;
  const phase = m.phase;
  const octave = m.octave,
    semitones = m.semitones;
  const fine = m.fine,
    tracking = m.tracking;
  const base = m.frequency,
    factor = m.frequencyFactor;
  const drift = m.drift;
  let pPitch = pitch.row(g, frame),
    pFm = fm.row(g, frame),
    pHz = hz.row(g, frame),
    pPhase = phase.row(g, frame);
  let pOctave = octave.row(g, frame),
    pSemitones = semitones.row(g, frame),
    pFine = fine.row(g, frame);
  let pTracking = tracking.row(g, frame),
    pBase = base.row(g, frame),
    pFactor = factor.row(g, frame),
    pDrift = drift.row(g, frame);
  const sPitch = pitch.step(g),
    sFm = fm.step(g),
    sHz = hz.step(g),
    sPhase = phase.step(g);
  const sOctave = octave.step(g),
    sSemitones = semitones.step(g),
    sFine = fine.step(g);
  const sTracking = tracking.step(g),
    sBase = base.step(g),
    sFactor = factor.step(g),
    sDrift = drift.step(g);
  const tracks = pitch.isCabled ? i32x4.splat(-1) : i32x4.splat(0);
  const drifts = sDrift != 0 || v128.any_true(f32x4.ne(v128.load(pDrift), splat(0)));
  const steady =
    (sPitch | sFm | sHz | sOctave | sSemitones | sFine | sTracking | sBase | sFactor) == 0 && !drifts;
  const modulated = phase.isCabled;
  const seeds = m.laneSeeds(g);
  const perFixed = splat(TO_FIXED / sampleRate),
    perFrame = splat(1.0 / sampleRate);
  if (!v128.any_true(state.started)) {
    state.high = startOf(m);
    state.started = i32x4.splat(-1);
    state.phaseBefore = v128.load(pPhase);
  }
  let high = state.high,
    low = state.low,
    cycle = state.cycle;
  let before = state.phaseBefore;
  const firstLow = low;
  let increment = splat(0),
    stepHigh = splat(0),
    stepLow = splat(0);
  const phases = scratch(PHASES),
    increments = scratch(INCREMENTS),
    subphases = scratch(SUBPHASES);
  const constant = steady && !modulated,
    length: u32 = constant && !wantSub && !resets ? 1 : frames;
  const reset = m.reset;
  let pReset = reset.row(g, frame);
  const sReset = reset.step(g);
  for (let f: u32 = 0; f < length; ++f) {
    if (resets) {
      const rises = rising(state.resetBeforeAt, v128.load(pReset));
      pReset += sReset;
      if (v128.any_true(rises)) {
        high = v128.bitselect(startOf(m), high, rises);
        low = v128.andnot(low, rises);
        cycle = v128.andnot(cycle, rises);
        before = v128.bitselect(v128.load(pPhase), before, rises);
        state.driftTime = v128.andnot(state.driftTime, rises);
      }
    }
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
      const moved = v128.load(pPhase),
        way = sub(moved, before);
      v128.store(phases + row, i32x4.add(high, fixedCycles(moved)));
      v128.store(increments + row, limitedIncrement(add(increment, sub(way, f32x4.nearest(way)))));
      before = moved;
    } else {
      v128.store(phases + row, high);
      if (f == 0 || !constant) v128.store(increments + row, increment);
    }
    if (wantSub) v128.store(subphases + row, v128.or(i32x4.shl(cycle, 31), i32x4.shr_u(high, 1)));
    const nextLow = i32x4.add(low, stepLow);
    const carry = i32x4.lt_u(nextLow, low);
    const first = i32x4.add(high, stepHigh);
    const next = i32x4.sub(first, carry);
    if (wantSub) {
      const over = v128.or(i32x4.lt_u(first, high), v128.and(carry, i32x4.eq(next, i32x4.splat(0))));
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
    if (cornersFor(widestIncrement(increments, 1)) == 0) {
      state.high = v128.load(phases);
      state.low = firstLow;
      runSteadySaw(state, sawOut, sawLevel, sawLevelStride, frames, stepHigh, stepLow, increment);
      return DONE;
    }
  }
  for (let p = phases + (length << 4), end = phases + (frames << 4); p < end; p += 16) {
    v128.store(p, high);
    const nextLow = i32x4.add(low, stepLow);
    high = i32x4.sub(i32x4.add(high, stepHigh), i32x4.lt_u(nextLow, low));
    low = nextLow;
  }
  state.high = high;
  state.low = low;
  state.cycle = cycle;
  state.phaseBefore = before;
  return constant ? STEADY : MOVING;
}

function writeSine(out: usize, level: usize, levelStride: usize, frames: u32): void {
  const phases = scratch(PHASES);
  for (let f: u32 = 0; f < frames; ++f) {
    v128.store(
      out + (f << 4),
      mul(v128.load(level), sineOfCycles(signedCycles(v128.load(phases + (f << 4))))),
    );
    level += levelStride;
  }
}

function writeTriangle(out: usize, level: usize, levelStride: usize, frames: u32, constant: bool): void {
  const phases = scratch(PHASES);
  let increments = scratch(INCREMENTS);
  const corners = cornersFor(widestIncrement(increments, constant ? 1 : frames));
  const half = i32x4.splat(<i32>0x80000000);
  let increment = v128.load(increments),
    inverse = inverseOf(increment);
  for (let f: u32 = 0; f < frames; ++f) {
    if (!constant) {
      increment = v128.load(increments);
      inverse = inverseOf(increment);
      increments += 16;
    }
    const phase = v128.load(phases + (f << 4));
    const wave = triangleAt(
      signedCycles(phase),
      signedCycles(i32x4.add(phase, half)),
      increment,
      inverse,
      corners,
    );
    v128.store(out + (f << 4), mul(v128.load(level), wave));
    level += levelStride;
  }
}

/** Farther from now than this a cubic through the last four samples foretells nothing. */
const FORESIGHT: f32 = 5;
const ROUNDS: u32 = 4;

/**
 * Samples between now and the falling edge's meeting with the phase, u cycles away. The edge may move: the way between
 * is the phase's less the edge's, found by repeated division. Exactly |u| · inverse where it stands still. `slope1` …
 * `slope3`: how the width moved over the last samples, by Newton's backward differences, so that it can be foreseen.
 */
@inline function samplesTo(
  u: v128,
  increment: v128,
  inverse: v128,
  slope1: v128,
  slope2: v128,
  slope3: v128,
): v128 {
  let samples = mul(f32x4.abs(u), inverse);
  if (!v128.any_true(f32x4.ne(v128.or(slope1, v128.or(slope2, slope3)), splat(0)))) return samples;
  let relative = increment;
  for (let k: u32 = 0; k < ROUNDS; ++k) {
    // Before now where the phase has passed the edge on its way up.
    const t = v128.xor(
      lower(samples, splat(FORESIGHT)),
      v128.and(v128.not(v128.xor(u, relative)), at(COMMON, SIGN)),
    );
    const speed = madd(
      add(t, splat(1)),
      madd(add(t, splat(2)), mul(slope3, splat(1.0 / 6.0)), mul(slope2, splat(0.5))),
      slope1,
    );
    relative = sub(increment, speed);
    samples = mul(f32x4.abs(u), inverseOf(relative));
  }
  return samples;
}

/** Pulse of a phase row. `scale` 1 for the pulse, 0.5 for the sub (half the increment). */
function writePulse(
  out: usize,
  row: usize,
  scale: f32,
  state: P.State,
  width: usize,
  widthStride: usize,
  level: usize,
  levelStride: usize,
  frames: u32,
  constant: bool,
): void {
  let increments = scratch(INCREMENTS);
  const corners = cornersFor(widestIncrement(increments, constant ? 1 : frames));
  const moves = widthStride != 0;
  let w1 = v128.load(state.widthsAt),
    w2 = v128.load(state.widthsAt, 16),
    w3 = v128.load(state.widthsAt, 32);
  let increment = mul(v128.load(increments), splat(scale)),
    inverse = inverseOf(increment);
  for (let f: u32 = 0; f < frames; ++f) {
    const w = v128.load(width);
    if (!constant) {
      increment = mul(v128.load(increments), splat(scale));
      inverse = inverseOf(increment);
      increments += 16;
    }
    const s = signedCycles(v128.load(row + (f << 4)));
    const p = add(s, v128.and(f32x4.lt(s, splat(0)), splat(1)));
    const low = f32x4.ge(p, w);
    const fall = sub(p, w);
    const fallSigned = sub(fall, f32x4.nearest(fall));
    let samples: v128;
    if (moves || f < PAST_WIDTHS) {
      const slope = sub(w, w1),
        older = sub(w1, w2),
        bent = sub(slope, older);
      samples = samplesTo(fallSigned, increment, inverse, slope, bent, sub(bent, sub(older, sub(w2, w3))));
      w3 = w2;
      w2 = w1;
      w1 = w;
    } else samples = mul(f32x4.abs(fallSigned), inverse);
    // -0.5 and 0.5 are the same place; the sign must agree with the naive wave next to the edge only.
    const edges = sub(stepsAt(fallSigned, samples, inverse, corners), steps(s, inverse, corners));
    v128.store(
      out + (f << 4),
      mul(v128.load(level), madd(splat(2), edges, select(splat(-1), splat(1), low))),
    );
    width += widthStride;
    level += levelStride;
  }
}

/** Keeps the last widths, newest first, for the next block. */
function keepWidths(state: P.State, width: usize, stride: usize, frames: u32): void {
  for (let f: u32 = max(frames, PAST_WIDTHS) - PAST_WIDTHS; f < frames; ++f) {
    v128.store(state.widthsAt, v128.load(state.widthsAt, 16), 32);
    v128.store(state.widthsAt, v128.load(state.widthsAt), 16);
    v128.store(state.widthsAt, v128.load(width + f * stride));
  }
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const sine = m.outSine,
    triangle = m.outTriangle,
    saw = m.outSaw;
  const pulse = m.outPulse,
    sub2 = m.outSub;
  const level = m.level,
    width = m.width,
    sync = m.sync,
    reset = m.reset;
  const wantSub = sub2.isWanted;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    const l = level.row(g, frame),
      ls = level.step(g),
      w = width.row(g, frame),
      ws = width.step(g);
    const fresh = !v128.any_true(state.started);
    if (fresh) {
      for (let k: usize = 0; k < PAST_WIDTHS << 4; k += 16) v128.store(state.widthsAt + k, v128.load(w));
    }
    const resets = reset.isCabled && anyRise(state.resetBeforeAt, reset, g, frame, frames);
    const synced = sync.isCabled && (resets || isSynced(state, sync, g, frame, frames));
    state.resetWas = state.resetBefore;
    const onlySaw =
      saw.isWanted && !synced && !wantSub && !sine.isWanted && !triangle.isWanted && !pulse.isWanted;
    const result = runPhases(
      m,
      g,
      frame,
      frames,
      wantSub || synced,
      resets,
      onlySaw ? saw.write(g, frame) : 0,
      l,
      ls,
    );
    if (result != DONE) {
      const constant = result == STEADY;
      if (sine.isWanted) writeSine(sine.write(g, frame), l, ls, frames);
      if (triangle.isWanted) writeTriangle(triangle.write(g, frame), l, ls, frames, constant);
      if (saw.isWanted) writeSaw(saw.write(g, frame), l, ls, frames, constant);
      if (wantSub)
        writePulse(sub2.write(g, frame), scratch(SUBPHASES), 0.5, state, w, ws, l, ls, frames, constant);
      if (pulse.isWanted)
        writePulse(pulse.write(g, frame), scratch(PHASES), 1, state, w, ws, l, ls, frames, constant);
      if (synced) runSynced(m, g, frame, frames, constant);
    }
    keepWidths(state, w, ws, frames);
  }
}
