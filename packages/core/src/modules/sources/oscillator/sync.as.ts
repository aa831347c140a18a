/* eslint max-lines: ["error", 500] -- one subject: the synced lanes */
import { Signal } from "../../../kernels/signal.as";
// The synced lanes. A reset cannot be foreseen, so from the first rise at `sync` on every corner of a lane is corrected
// after it happened, with the causal (minimum-phase) step: naive wave plus a ring of corrections that the corners have
// added ahead. Until then, and again after a `reset`, a lane is what the closed forms say. Runs lane by lane.
import * as P from "../../../generated/oscillator.as";
import { scratch } from "../../../kernels/scratch.as";
import { sineOfCycles, splat } from "../../../kernels/simd.as";
import { CAUSAL_LENGTH, CAUSAL_POINTS, causalSlopeTable, causalStepTable } from "../../../kernels/tables.as";
import { crossingAge, seen } from "./crossing.as";

const WAVES: u32 = 5;
const RING: u32 = 32;
/** Samples of `sync` that are remembered. */
const PAST: u32 = 6;
/** Scratch row of the lane that is being made. */
const LANE: u32 = 3;


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
  return subAt(p, width, odd);
}

/** The sub at phase p of its first or second half; at p = 1 what it is just before. */
@inline function subAt(p: f32, width: f32, odd: i32): f32 {
  const q: f32 = 0.5 * (p + <f32>odd);
  return q < width || (p == 1 && q == width) ? 1 : -1;
}


@inline function ringAt(state: P.State, wave: u32, slot: u32, lane: u32): usize {
  return state.ringsAt + ((wave * RING + (slot & (RING - 1))) << 4) + (lane << 2);
}

/** A step of height `step` happened `age` samples ago: add what the band-limited one still lacks, from now on. */
function addStep(state: P.State, wave: u32, position: u32, lane: u32, step: f32, age: f32): void {
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
function addSlope(state: P.State, wave: u32, position: u32, lane: u32, change: f32, age: f32): void {
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

/** Slope of sine (0), triangle (1) and saw (2) per cycle at phase p. */
@inline function slopeAt(wave: u32, p: f32): f32 {
  if (wave == 0) return <f32>6.2831853 * sineAt(p + 0.25);
  if (wave == 2) return 2;
  return p < 0.5 ? 4 : -4;
}

/** One lane at the frame that is being made: what its corners are added to. */
@unmanaged
class Lane {
  state: P.State;
  lane: u32;
  position: u32;
  width: f32;
  widthBefore: f32;
  odd: i32;


  @inline step(wave: u32, height: f32, age: f32): void {
    addStep(this.state, wave, this.position, this.lane, height, age);
  }


  @inline bend(wave: u32, change: f32, age: f32): void {
    addSlope(this.state, wave, this.position, this.lane, change, age);
  }
}

/** Falling edges that the phase meets between two places of one cycle; the edge itself may move from `w0` to `w1`. */
@inline function passEdge(at: Lane, wave: u32, a: f32, b: f32, length: f32, after: f32): void {
  if (a < 0 == b < 0) return;
  at.step(wave, b < 0 ? 2 : -2, (length * b) / (b - a) + after);
}

/**
 * Corners within one cycle between two phases, `length` samples apart; `after` samples have passed since. `w0`, `w1`:
 * the width at both.
 */
function passCorners(at: Lane, from: f32, to: f32, length: f32, after: f32, w0: f32, w1: f32): void {
  if (from < 0.5 != to < 0.5 && to != from)
    at.bend(1, (-8 * abs<f32>(to - from)) / length, (length * (to - 0.5)) / (to - from) + after);
  passEdge(at, 3, from - w0, to - w1, length, after);
  const e0: f32 = 2 * w0 - <f32>at.odd,
    e1: f32 = 2 * w1 - <f32>at.odd;
  // An edge at a cycle's very end belongs to the turn of the cycle.
  if (e0 > 0 && e0 < 1 && e1 > 0 && e1 < 1) passEdge(at, 4, from - e0, to - e1, length, after);
}

/** Moves the phase on by `way` in `length` samples and corrects the corners passed; returns the new phase. */
function advance(at: Lane, from: f32, way: f32, length: f32, after: f32, w0: f32): f32 {
  const to = from + way;
  if (length <= 0) return to;
  if (to < 1 && to >= 0) {
    passCorners(at, from, to, length, after, w0, at.width);
    return to;
  }
  const up = to >= 1,
    rest = up ? to - 1 : to,
    since = (length * rest) / way,
    slope = abs<f32>(way) / length,
    w = w0 + ((at.width - w0) * (length - since)) / length;
  passCorners(at, from, up ? 1 : 0, length - since, after + since, w0, w);
  at.bend(1, 8 * slope, since + after);
  at.step(2, up ? -2 : 2, since + after);
  at.step(3, up ? 2 : -2, since + after);
  const left = subAt(up ? 1 : 0, w, at.odd);
  at.odd ^= 1;
  at.step(4, subAt(up ? 0 : 1, w, at.odd) - left, since + after);
  const now: f32 = up ? rest : rest + 1;
  passCorners(at, up ? 0 : 1, now, since, after, w, at.width);
  return now;
}

/** The jump of a hard reset, `age` samples ago. */
function jump(at: Lane, from: f32, to: f32, increment: f32, age: f32): void {
  for (let wave: u32 = 0; wave < WAVES; ++wave)
    at.step(wave, waveAt(wave, to, at.width, 0) - waveAt(wave, from, at.width, at.odd), age);
  for (let wave: u32 = 0; wave < 2; ++wave)
    at.bend(wave, increment * (slopeAt(wave, to) - slopeAt(wave, from)), age);
  at.odd = 0;
}

/** The turn of a soft reset, `age` samples ago: the wave goes back the way it came. */
function turn(at: Lane, phase: f32, increment: f32, age: f32): void {
  for (let wave: u32 = 0; wave < 3; ++wave) at.bend(wave, -2 * increment * slopeAt(wave, phase), age);
}


@inline function fraction(x: f32): f32 {
  const y: f32 = x - floor<f32>(x);
  return y < 1 ? y : 0;
}

function clearRing(at: Lane): void {
  for (let wave: u32 = 0; wave < WAVES; ++wave)
    for (let slot: u32 = 0; slot < RING; ++slot) store<f32>(ringAt(at.state, wave, slot, at.lane), 0);
}

/** True when a lane of the group is synced, or may be within these frames; else keeps what `sync` was. */
export function isSynced(state: P.State, sync: Signal, g: u32, frame: u32, frames: u32): bool {
  if (v128.any_true(state.synced)) return true;
  const first = sync.row(g, frame),
    stride = sync.step(g),
    half = f32x4.splat(0.5);
  let most = v128.load(first);
  for (let f: u32 = 1, n: u32 = stride ? frames : 1; f < n; ++f)
    most = f32x4.pmax(most, v128.load(first + f * stride));
  if (v128.any_true(v128.or(f32x4.gt(most, half), state.isHigh))) return true;
  for (let k: u32 = max(frames, PAST) - PAST; k < frames; ++k) {
    for (let older: usize = (PAST - 1) << 4; older > 0; older -= 16)
      v128.store(state.syncPastAt + older, v128.load(state.syncPastAt + older - 16));
    v128.store(state.syncPastAt, v128.load(first + k * stride));
  }
  return false;
}

/** Writes over the synced lanes of outputs that hold the closed forms; `constant`: one increment for all frames. */
export function runSynced(m: P.Module, g: u32, frame: u32, frames: u32, constant: bool): void {
  const state = m.state(g),
    at = changetype<Lane>(scratch(LANE));
  const syncSignal = m.sync,
    phaseSignal = m.phase,
    resetSignal = m.reset,
    levelSignal = m.level,
    widthSignal = m.width;
  const sync = syncSignal.row(g, frame),
    syncStride = syncSignal.step(g);
  const moved = phaseSignal.row(g, frame),
    movedStride = phaseSignal.step(g);
  const reset = resetSignal.row(g, frame),
    resetStride = resetSignal.step(g);
  const level = levelSignal.row(g, frame),
    levelStride = levelSignal.step(g);
  const widths = widthSignal.row(g, frame),
    widthStride = widthSignal.step(g);
  const soft = m.syncMode == P.SYNCMODE_SOFT;
  const start = m.startPhase;
  const phases = scratch(0),
    increments = scratch(1);
  at.state = state;
  for (let lane: u32 = 0; lane < 4; ++lane) {
    at.lane = lane;
    const offset = lane << 2;
    const past = state.syncPastAt + offset;
    at.position = load<u32>(state.positionAt + offset);
    at.odd = load<i32>(state.oddAt + offset);
    let synced = load<u32>(state.syncedAt + offset) != 0;
    let direction = load<f32>(state.directionAt + offset);
    let p = load<f32>(state.syncedPhaseAt + offset);
    let resetBefore = load<u32>(state.resetWasAt + offset) != 0;
    at.widthBefore = load<f32>(state.widthsAt + offset);
    let y1 = load<f32>(past),
      y2 = load<f32>(past, 16),
      y3 = load<f32>(past, 32),
      y4 = load<f32>(past, 48),
      y5 = load<f32>(past, 64),
      y6 = load<f32>(past, 80);
    let high = load<u32>(state.isHighAt + offset) != 0;
    for (let f: u32 = 0; f < frames; ++f) {
      const now = load<f32>(sync + f * syncStride + offset),
        resetNow = load<f32>(reset + f * resetStride + offset) > 0.5;
      at.width = load<f32>(widths + f * widthStride + offset);
      if (resetNow && !resetBefore) {
        if (synced) clearRing(at);
        synced = false;
        high = now > 0.5;
        y1 = y2 = y3 = y4 = y5 = y6 = now;
      }
      // A signal that stood still has jumped at this very sample; a wave has crossed in between.
      const jumps = y1 == y2 && y2 == y3 && y1 <= 0.5 && now > 0.5,
        rises = !high && (jumps || seen(now, y1, y2) > 0.5);
      high = high || rises ? seen(now, y1, y2) > 0.5 || now > 0.5 : false;
      if (rises || synced) {
        const increment = load<f32>((constant ? increments : increments + (f << 4)) + offset);
        if (!synced) {
          direction = 1;
          at.odd = load<i32>(scratch(2) + (f << 4) + offset) < 0 ? 1 : 0;
        }
        let way = direction * increment;
        const age: f32 =
          rises && !jumps
            ? crossingAge(
                seen(now, y1, y2),
                seen(y1, y2, y3),
                seen(y2, y3, y4),
                seen(y3, y4, y5),
                seen(y4, y5, y6),
              )
            : 0;
        if (!synced) p = fraction(unsignedAt(phases + (f << 4) + offset) - way);
        if (rises) {
          const widthNow = at.width,
            w = at.widthBefore + (widthNow - at.widthBefore) * (1 - age);
          at.width = w;
          p = synced
            ? advance(at, p, way * (1 - age), 1 - age, age, at.widthBefore)
            : fraction(p + way * (1 - age));
          at.width = widthNow;
          if (soft) {
            turn(at, p, way, age);
            direction = -direction;
            way = -way;
          } else {
            const target = fraction(start + load<f32>(moved + f * movedStride + offset));
            jump(at, p, target, way, age);
            p = target;
          }
          p = advance(at, p, way * age, age, 0, w);
        } else p = advance(at, p, way, 1, 0, at.widthBefore);
        synced = true;
        // Only absurd input leads out of the cycle.
        if (!(p >= 0 && p <= 1)) p = start;
        const gain = load<f32>(level + f * levelStride + offset);
        for (let wave: u32 = 0; wave < WAVES; ++wave) {
          const slot = ringAt(state, wave, at.position, lane);
          const correction = load<f32>(slot);
          store<f32>(slot, 0);
          const out = m.signal(P.OUT_SINE + (wave << 2));
          if (out.isWanted)
            store<f32>(
              out.row(g, frame + f) + offset,
              gain * (waveAt(wave, p, at.width, at.odd) + correction),
            );
        }
        at.position = (at.position + 1) & (RING - 1);
      }
      resetBefore = resetNow;
      at.widthBefore = at.width;
      y6 = y5;
      y5 = y4;
      y4 = y3;
      y3 = y2;
      y2 = y1;
      y1 = now;
    }
    store<u32>(state.positionAt + offset, at.position);
    store<i32>(state.oddAt + offset, at.odd);
    store<i32>(state.syncedAt + offset, synced ? -1 : 0);
    store<f32>(state.directionAt + offset, direction);
    store<f32>(state.syncedPhaseAt + offset, p);
    store<f32>(past, y1);
    store<f32>(past, y2, 16);
    store<f32>(past, y3, 32);
    store<f32>(past, y4, 48);
    store<f32>(past, y5, 64);
    store<f32>(past, y6, 80);
    store<i32>(state.isHighAt + offset, high ? -1 : 0);
  }
}


@inline function unsignedAt(p: usize): f32 {
  return <f32>(<f64>load<u32>(p) * 2.3283064365386963e-10);
}
