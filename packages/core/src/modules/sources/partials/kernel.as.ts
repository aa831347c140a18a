/* eslint max-lines: ["error", 500] -- one bank of partials */
// Partials: the partials of one voice stand in the lanes of vectors, four at a time. Phases are exact (64-bit); between
// anchors, every 32 absolute frames, each partial is a complex number turned on by a fixed step, and its level moves in a
// straight line. Where the pitch moves from sample to sample the sines are computed anew at each.
import { ZERO } from "../../../kernels/signal.as";
import * as P from "../../../generated/partials.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { riseRow } from "../../../kernels/edges.as";
import { OCTAVES_PER_DB } from "../../../kernels/levels.as";
import { frequencyRow, signedPhase, stepPhase } from "../../../kernels/phase.as";
import {
  add,
  clamp,
  exp2,
  higher,
  log2,
  lower,
  madd,
  mixBits,
  mul,
  sineOfCycles,
  splat,
  sub,
} from "../../../kernels/simd.as";

const ANCHOR: u32 = 32;
const SETS: u32 = 16;
const FREQUENCIES: u32 = 0,
  ODD: u32 = 1,
  EVEN: u32 = 2,
  PLACES: u32 = 3,
  SUMS: u32 = 4,
  RISES: u32 = 5;
/** Partials fade out between these shares of the sample rate. */
const FADES: f32 = 0.42,
  GONE: f32 = 0.47;
/** Loudness of all partials together, as the effective value of one sine of level 1. */
const LOUDNESS: f32 = 0.9;

/** Where four partials of a voice stand in the group's state: 16 sets for each of four voices. */
@inline function setAt(base: usize, voice: u32, n: u32): usize {
  return base + ((<usize>((voice << 4) + n)) << 4);
}

/** Ratios of four partials from number `first` on. */
function ratios(m: P.Module, series: i32, stretch: f32, first: v128, n: u32): v128 {
  if (series == P.SERIES_ODD) return sub(add(first, first), splat(1));
  if (series == P.SERIES_STRETCHED)
    return mul(
      first,
      f32x4.sqrt(higher(splat(0), madd(mul(first, first), splat(<f32>0.01 * stretch), splat(1)))),
    );
  if (series == P.SERIES_POWER) return exp2(mul(log2(first), splat(1 + stretch * <f32>0.5)));
  if (series == P.SERIES_OWN) return v128.load(m.table + 256 + (n << 4));
  return first;
}

/** Levels four partials should have now, before motion: tilt, their own level, count, the limit at the top. */
@inline function levels(
  m: P.Module,
  first: v128,
  n: u32,
  count: f32,
  tilt: f32,
  hertz: v128,
  loudness: f32,
): v128 {
  const tilted = exp2(mul(log2(first), splat(tilt * OCTAVES_PER_DB)));
  const there = v128.and(mul(v128.load(m.table + (n << 4)), splat(loudness)), f32x4.le(first, splat(count)));
  const top = clamp(
    mul(sub(splat(GONE * sampleRate), hertz), splat(1 / ((GONE - FADES) * sampleRate))),
    splat(0),
    splat(1),
  );
  return mul(mul(tilted, there), top);
}

/** What count and tilt alone make loud, taken back: the powers of the partials add. */
function loudnessOf(count: f32, tilt: f32): f32 {
  let sum = splat(0);
  for (let n: u32 = 0; n < SETS; ++n) {
    const first = add(splat(<f32>(n << 2)), f32x4(1, 2, 3, 4)),
      gain = exp2(mul(log2(first), splat(tilt * OCTAVES_PER_DB)));
    sum = add(sum, v128.and(mul(gain, gain), f32x4.le(first, splat(count))));
  }
  const all =
    f32x4.extract_lane(sum, 0) +
    f32x4.extract_lane(sum, 1) +
    f32x4.extract_lane(sum, 2) +
    f32x4.extract_lane(sum, 3);
  return LOUDNESS / sqrt<f32>(max<f32>(all, 1e-6));
}


@inline function laneOf(x: v128, k: u32): f32 {
  return k == 0
    ? f32x4.extract_lane(x, 0)
    : k == 1
      ? f32x4.extract_lane(x, 1)
      : k == 2
        ? f32x4.extract_lane(x, 2)
        : f32x4.extract_lane(x, 3);
}

/** Reads the controls at an anchor: goals of levels over the next 32 frames, and motion on. */
function anchor(m: P.Module, g: u32, k: u32, f: u32, state: P.State, hertz: f32, sets: u32): void {
  const count = laneOf(m.count.at(g, f), k),
    tilt = laneOf(m.tilt.at(g, f), k),
    stretch = laneOf(m.stretch.at(g, f), k);
  const motion = laneOf(m.motion.at(g, f), k),
    rate = laneOf(m.motionRate.at(g, f), k),
    ratio = laneOf(m.motionRatio.at(g, f), k);
  const series = m.series,
    loudness = loudnessOf(count, tilt);
  const fresh = (load<u32>(state.startedAt + (k << 2)) & 2) == 0;
  store<u32>(state.startedAt + (k << 2), load<u32>(state.startedAt + (k << 2)) | 2);
  const octaves = splat(f32x4.extract_lane(log2(splat(ratio)), 0));
  for (let n: u32 = 0; n < sets; ++n) {
    const first = add(splat(<f32>(n << 2)), f32x4(1, 2, 3, 4));
    const frequency = mul(ratios(m, series, stretch, first, n), splat(hertz));
    let goal = levels(m, first, n, count, tilt, frequency, loudness);
    const at = setAt(state.motionsAt, k, n),
      lowAt = setAt(state.motionLowsAt, k, n);
    const high = v128.load(at),
      row = scratch(PLACES) + 512;
    if (motion > 0) {
      // Full depth: from silence to the whole level.
      goal = mul(
        goal,
        sub(splat(1), mul(splat(motion * <f32>0.5), add(splat(1), sineOfCycles(signedPhase(high))))),
      );
    }
    const motionHertz = lower(
      mul(exp2(mul(octaves, sub(first, splat(1)))), splat(rate * <f32>ANCHOR)),
      splat(0.4 * sampleRate),
    );
    stepPhase(row, high, v128.load(lowAt), motionHertz);
    v128.store(at, v128.load(row));
    v128.store(lowAt, v128.load(row, 16));
    const gainAt = setAt(state.gainsAt, k, n);
    // The first anchor stands where it should at once.
    if (fresh) v128.store(gainAt, goal);
    v128.store(setAt(state.stepsAt, k, n), mul(sub(goal, v128.load(gainAt)), splat(1 / <f32>ANCHOR)));
  }
}

/** Complex numbers, turns and fixed steps of a voice's partials from their exact phases, brought up to this frame. */
function turn(m: P.Module, k: u32, state: P.State, series: i32, stretch: f32, hertz: f32): void {
  const elapsed = load<u32>(state.elapsedAt + (k << 2)),
    times = i32x4.splat(<i32>elapsed),
    quarter = splat(0.25);
  store<u32>(state.elapsedAt + (k << 2), 0);
  store<f32>(state.heardAt + (k << 2), hertz);
  store<f32>(state.heardStretchAt + (k << 2), stretch);
  for (let n: u32 = 0; n < SETS; ++n) {
    const pAt = setAt(state.phasesAt, k, n),
      lAt = setAt(state.lowsAt, k, n),
      highAt = setAt(state.stepHighsAt, k, n),
      lowAt = setAt(state.stepLowsAt, k, n);
    let high = v128.load(pAt);
    if (elapsed) {
      // phase += elapsed · step in 64 bits, from 32-bit parts: elapsed is at most 32.
      const stepLow = v128.load(lowAt),
        low = v128.load(lAt),
        product = i32x4.mul(stepLow, times),
        nextLow = i32x4.add(low, product);
      const upper = i32x4.shr_u(
        i32x4.add(
          i32x4.mul(i32x4.shr_u(stepLow, 16), times),
          i32x4.shr_u(i32x4.mul(v128.and(stepLow, i32x4.splat(0xffff)), times), 16),
        ),
        16,
      );
      high = i32x4.sub(
        i32x4.add(i32x4.add(high, i32x4.mul(v128.load(highAt), times)), upper),
        i32x4.lt_u(nextLow, low),
      );
      v128.store(pAt, high);
      v128.store(lAt, nextLow);
    }
    const first = add(splat(<f32>(n << 2)), f32x4(1, 2, 3, 4));
    const step = mul(
      lower(mul(ratios(m, series, stretch, first, n), splat(hertz)), splat(0.49 * sampleRate)),
      splat(1 / sampleRate),
    );
    const p4 = add(signedPhase(high), quarter),
      s4 = add(step, quarter),
      turnAt = state.turnsAt + ((<usize>((k << 4) + n)) << 5);
    v128.store(setAt(state.sinesAt, k, n), sineOfCycles(signedPhase(high)));
    v128.store(setAt(state.cosinesAt, k, n), sineOfCycles(sub(p4, f32x4.nearest(p4))));
    v128.store(turnAt, sineOfCycles(sub(s4, f32x4.nearest(s4))));
    v128.store(turnAt, sineOfCycles(step), 16);
    const fixed = mul(step, splat(4294967296.0)),
      whole = f32x4.floor(fixed);
    v128.store(highAt, i32x4.trunc_sat_f32x4_s(whole));
    v128.store(lowAt, i32x4.trunc_sat_f32x4_u(mul(sub(fixed, whole), splat(4294967296.0))));
  }
}

/** Adds four partials to a row of sums: lanes 0 and 2 are odd numbers, 1 and 3 even ones. */
function runSet(state: P.State, k: u32, n: u32, sums: usize, run: u32): void {
  const cAt = setAt(state.cosinesAt, k, n),
    sAt = setAt(state.sinesAt, k, n),
    gAt = setAt(state.gainsAt, k, n),
    turnAt = state.turnsAt + ((<usize>((k << 4) + n)) << 5);
  let c = v128.load(cAt),
    s = v128.load(sAt),
    loud = v128.load(gAt);
  const tc = v128.load(turnAt),
    ts = v128.load(turnAt, 16),
    step = v128.load(setAt(state.stepsAt, k, n));
  for (let end = sums + ((<usize>run) << 4); sums < end; sums += 16) {
    v128.store(sums, madd(s, loud, v128.load(sums)));
    loud = add(loud, step);
    const next = sub(mul(c, tc), mul(s, ts));
    s = madd(s, tc, mul(c, ts));
    c = next;
  }
  v128.store(cAt, c);
  v128.store(sAt, s);
  v128.store(gAt, loud);
}

/** Sets a voice's phases to where they start: it plays as if it had never played. */
function begin(m: P.Module, g: u32, k: u32, state: P.State): void {
  // Phases spread out by the square of the number: the wave has no needle in it (Schroeder 1970).
  for (let n: u32 = 0; n < SETS; ++n) {
    const first = add(splat(<f32>(n << 2)), f32x4(1, 2, 3, 4)),
      turn = mul(mul(first, first), splat(1.0 / 128.0));
    v128.store(
      setAt(state.phasesAt, k, n),
      i32x4.trunc_sat_f32x4_s(mul(sub(turn, f32x4.nearest(turn)), splat(4294967296.0))),
    );
    v128.store(
      setAt(state.motionsAt, k, n),
      mixBits(
        i32x4.add(i32x4.splat(<i32>(n * 977 + k * 131)), i32x4.add(m.laneSeeds(g), i32x4(11, 22, 33, 44))),
      ),
    );
  }
  for (let n: u32 = 0; n < SETS; ++n) {
    v128.store(setAt(state.lowsAt, k, n), splat(0));
    v128.store(setAt(state.motionLowsAt, k, n), splat(0));
  }
  store<u32>(state.startedAt + (k << 2), 1);
  store<u32>(state.elapsedAt + (k << 2), 0);
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const out = m.outOut,
    odd = m.outOdd,
    even = m.outEven,
    gain = m.level,
    countSignal = m.count;
  const voices = m.voiceCount,
    series = m.series,
    stretchSignal = m.stretch,
    reset = m.reset;
  const sumRow = scratch(SUMS);
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      row = scratch(FREQUENCIES),
      oddRow = scratch(ODD),
      evenRow = scratch(EVEN);
    const steady = frequencyRow(g, frame, frames, row, m.pitch, ZERO, ZERO, ZERO),
      still = stretchSignal.step(g) == 0,
      rises = scratch(RISES);
    const resets = riseRow(state.resetBeforeAt, reset, g, frame, frames, rises);
    memory.fill(oddRow, 0, frames << 4);
    memory.fill(evenRow, 0, frames << 4);
    for (let k: u32 = 0; k < 4 && (g << 2) + k < voices; ++k) {
      if (!(load<u32>(state.startedAt + (k << 2)) & 1)) begin(m, g, k, state);
      // A growing count begins at an anchor: until then its partials have no level.
      const sets = countSignal.step(g)
        ? SETS
        : min<u32>(
            SETS,
            (<u32>max<f32>(laneOf(countSignal.at(g, frame), k), load<f32>(state.countsAt + (k << 2))) + 3) >>
              2,
          );
      memory.fill(sumRow, 0, frames << 4);
      for (let f: u32 = 0; f < frames;) {
        const at = frame + f,
          hertz = laneOf(v128.load(steady ? row : row + (f << 4)), k),
          stretch = laneOf(stretchSignal.at(g, at), k);
        if (resets && load<u32>(rises + (f << 4) + (k << 2))) {
          begin(m, g, k, state);
          store<u32>(state.originAt + (k << 2), time + at);
        }
        const since = time + at - load<u32>(state.originAt + (k << 2));
        const begins = (since & (ANCHOR - 1)) == 0 || !(load<u32>(state.startedAt + (k << 2)) & 2);
        if (begins) {
          anchor(m, g, k, at, state, hertz, SETS);
          store<f32>(state.countsAt + (k << 2), laneOf(countSignal.at(g, at), k));
        }
        // A new pitch, or an anchor: complex numbers from the phases.
        if (
          begins ||
          load<f32>(state.heardAt + (k << 2)) != hertz ||
          load<f32>(state.heardStretchAt + (k << 2)) != stretch
        )
          turn(m, k, state, series, stretch, hertz);
        const run: u32 =
          steady && still && !resets ? min<u32>(frames - f, ANCHOR - (since & (ANCHOR - 1))) : 1;
        for (let n: u32 = 0; n < sets; ++n) runSet(state, k, n, sumRow + (f << 4), run);
        store<u32>(state.elapsedAt + (k << 2), load<u32>(state.elapsedAt + (k << 2)) + run);
        f += run;
      }
      for (let f: u32 = 0; f < frames; ++f) {
        const sums = v128.load(sumRow + (f << 4)),
          pairs = add(sums, v128.shuffle<i32>(sums, sums, 2, 3, 0, 1));
        store<f32>(oddRow + (f << 4) + (k << 2), f32x4.extract_lane(pairs, 0));
        store<f32>(evenRow + (f << 4) + (k << 2), f32x4.extract_lane(pairs, 1));
      }
    }
    for (let f: u32 = 0; f < frames; ++f) {
      const at = frame + f,
        loud = gain.at(g, at),
        a = mul(loud, v128.load(oddRow + (f << 4))),
        b = mul(loud, v128.load(evenRow + (f << 4)));
      if (out.isWanted) v128.store(out.write(g, at), add(a, b));
      if (odd.isWanted) v128.store(odd.write(g, at), a);
      if (even.isWanted) v128.store(even.write(g, at), b);
    }
  }
}
