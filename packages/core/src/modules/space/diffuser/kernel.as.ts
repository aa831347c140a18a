// Diffuser: all-passes after Schroeder ("Natural sounding artificial reverberation", 1962) in a row, or each inside the
// delay of the one before (Gardner, "A real-time multichannel room simulator", 1992). Delays are whole samples where
// they stand still, so that every stage is flat; on their way they glide.
import * as P from "../../../generated/diffuser.as";
import { sampleRate, time } from "../../../kernels/time.as";
import { INTERPOLATION_CUBIC, maskOf, past, readPast, SLACK, slotOf } from "../../../kernels/delays.as";
import { Counting, mostOf } from "../../../kernels/counting.as";
import { gainOfDb } from "../../../kernels/levels.as";
import { LOOP_RANGE, softLimit } from "../../../kernels/limits.as";
import { scratch } from "../../../kernels/scratch.as";
import { add, clamp, lower, madd, mixed, mul, splat, sub, uniform } from "../../../kernels/simd.as";

const STAGES: u32 = 16;
/** With gains near 1 an all-pass holds much more than what comes out of it. */
const ALLPASS_KNEE: f32 = 64;
const FADE_SECONDS: f32 = 0.02;
/** A delay on its way has come by 63 % after this. */
const GLIDE_SECONDS: f32 = 0.03;
const THERE: f32 = 1e-3;
/** Stages that were there from the start began so many frames ago. */
const LONG_AGO: u32 = 0x20000000;
/** Of a frame: what goes into each stage's delay in a row, and what each stage gives, the sound itself first. */
const INSIDES: u32 = 0,
  NODES: u32 = 1,
  LENGTHS: u32 = 2;

/** Share of a side: a balance, 1 at 0. */
@inline function balance(pan: v128): v128 {
  return lower(madd(pan, f32x4(-1, 1, -1, 1), splat(1)), splat(1));
}

/** The last stage that somebody listens to by itself. */
function listened(m: P.Module): u32 {
  for (let n = STAGES; n > 0; --n) if (m.signal(P.OUT_STAGE1 + ((n - 1) << 2)).isWanted) return n;
  return 0;
}

/** What comes back of a stage's delay now, where it was written since the stage began. */
@inline function back(
  state: P.State,
  n: u32,
  goal: v128,
  ring: usize,
  mask: u32,
  now: u32,
  keep: v128,
): v128 {
  const behindAt = state.behindAt + (n << 4),
    goalAt = state.goalsAt + (n << 4);
  const way = mul(add(v128.load(behindAt), sub(goal, v128.load(goalAt))), keep);
  const behind = v128.and(way, f32x4.gt(f32x4.abs(way), splat(THERE)));
  v128.store(goalAt, goal);
  v128.store(behindAt, behind);
  const delay = clamp(sub(goal, behind), splat(1), splat(<f32>(mask - SLACK)));
  const r = v128.any_true(behind)
    ? readPast(INTERPOLATION_CUBIC, ring, mask, now, delay, uniform(delay), 0)
    : past(ring, mask, now, i32x4.trunc_sat_f32x4_s(delay), uniform(delay));
  const age = now - load<u32>(state.beganAt + (n << 4));
  return age > mask ? r : v128.and(r, f32x4.ge(splat(<f32>age), delay));
}

/** Length of a stage in whole frames; `base`: the time in frames, `ratio`: its share at full spread. */
@inline function lengthOf(base: v128, spread: v128, ratio: v128): v128 {
  return f32x4.nearest(mul(base, madd(spread, sub(ratio, splat(1)), splat(1))));
}

/** Stages from `ran` to `count` begin now: with nothing in them, and what goes into them fades in. */
function beginStages(
  state: P.State,
  isFirst: bool,
  ran: u32,
  count: u32,
  now: u32,
  table: usize,
  base: v128,
  spread: v128,
): void {
  for (let n = ran; n < count; ++n) {
    store<u32>(state.beganAt + (n << 4), isFirst ? now - LONG_AGO : now);
    v128.store(state.behindAt + (n << 4), splat(0));
    v128.store(state.goalsAt + (n << 4), lengthOf(base, spread, v128.load32_splat(table + (n << 2))));
  }
}

/** Keeps the ages of stages small enough to be told apart. */
function keepAges(state: P.State, now: u32): void {
  for (let n: u32 = 0; n < STAGES; ++n) {
    const at = state.beganAt + (n << 4);
    if (now - load<u32>(at) > LONG_AGO) store<u32>(at, now - LONG_AGO);
  }
}

/**
 * Do all stages stand still, at the same length on all lanes, with nothing on its way? Then their lengths, whole frames,
 * are written to `lengths`.
 */
function standStill(
  state: P.State,
  table: usize,
  ran: u32,
  mask: u32,
  now: u32,
  milliseconds: v128,
  spread: v128,
  stages: v128,
  lengths: usize,
): bool {
  const wanted = f32x4.nearest(stages);
  if (mostOf(wanted) != ran || !Counting.at(state.countAt).isAt(ran)) return false;
  if (!uniform(milliseconds) || !uniform(spread)) return false;
  const base = mul(milliseconds, splat(sampleRate / 1000));
  for (let n: u32 = 0; n < ran; ++n) {
    const length = lengthOf(base, spread, v128.load32_splat(table + (n << 2)));
    const isMoving = v128.or(
      v128.load(state.behindAt + (n << 4)),
      f32x4.ne(v128.load(state.goalsAt + (n << 4)), length),
    );
    if (v128.any_true(isMoving) || now - load<u32>(state.beganAt + (n << 4)) <= mask) return false;
    store<u32>(lengths + (n << 2), <u32>clampedLength(f32x4.extract_lane(length, 0), mask));
  }
  return true;
}


@inline function clampedLength(frames: f32, mask: u32): f32 {
  return min(max(frames, 1), <f32>(mask - SLACK));
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    isNested = m.nested != 0,
    table = m.table + (m.ratio == P.RATIO_UNRELATED ? STAGES << 2 : 0);
  const groupBytes = m.auxBytes / m.groups,
    bytes = groupBytes / STAGES,
    mask = maskOf(bytes),
    keep = splat(<f32>Math.exp(-1 / <f64>(GLIDE_SECONDS * sampleRate))),
    fade: f32 = 1 / (FADE_SECONDS * sampleRate);
  const insides = scratch(INSIDES),
    nodes = scratch(NODES),
    lengths = scratch(LENGTHS),
    stagesOut = listened(m),
    perMs = splat(sampleRate / 1000);
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      stages = Counting.at(state.countAt),
      rings = m.aux + <usize>g * groupBytes;
    const silent = input.isConstant(g) && !v128.any_true(v128.load(input.row(g, frame)));
    let quiet = load<u32>(state.quietAt);
    if (silent && quiet > mask) {
      m.outOut.fill(g, frame, frames, splat(0));
      for (let n: u32 = 0; n < STAGES; ++n)
        m.signal(P.OUT_STAGE1 + (n << 2)).fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    keepAges(state, time + frame);
    const isStill = (m.time.step(g) | m.spread.step(g) | m.stages.step(g)) == 0,
      levelsMove = (m.input.step(g) | m.wet.step(g)) != 0;
    let ran = load<u32>(state.ranAt),
      isSteady =
        isStill &&
        standStill(
          state,
          table,
          ran,
          mask,
          time + frame,
          m.time.at(g, frame),
          m.spread.at(g, frame),
          m.stages.at(g, frame),
          lengths,
        ),
      gainIn = splat(0),
      gainOut = splat(0);
    for (let f = frame, end = frame + frames; f < end; ++f) {
      const now = time + f,
        dry = input.at(g, f),
        gain = m.gain.at(g, f),
        base = mul(m.time.at(g, f), perMs),
        spread = m.spread.at(g, f);
      if (levelsMove || f == frame) {
        gainIn = gainOfDb(m.input.at(g, f));
        gainOut = gainOfDb(m.wet.at(g, f));
      }
      const isFirst = !v128.any_true(stages.started);
      const count = isSteady ? ran : stages.move(f32x4.nearest(m.stages.at(g, f)), fade);
      if (count > ran) beginStages(state, isFirst, ran, count, now, table, base, spread);
      ran = count;
      let x = mul(dry, gainIn);
      v128.store(nodes, x);
      let loudest = splat(0);
      for (let n: u32 = 0; n < count; ++n) {
        const ring = rings + n * bytes;
        let r: v128;
        if (isSteady) r = v128.load(slotOf(ring, mask, now - load<u32>(lengths + (n << 2))));
        else {
          const length = lengthOf(base, spread, v128.load32_splat(table + (n << 2)));
          r = back(state, n, length, ring, mask, now, keep);
          x = mul(x, splat(min(<f32>(now - load<u32>(state.beganAt + (n << 4))) * fade, 1)));
        }
        const v = softLimit(sub(x, mul(gain, r)), ALLPASS_KNEE, LOOP_RANGE);
        loudest = v128.or(loudest, v);
        v128.store(insides + (n << 4), v);
        const y = madd(gain, v, r);
        v128.store(nodes + ((n + 1) << 4), y);
        // In a row the next stage hears what this one gives, nested what goes into its delay.
        if (!isNested) v128.store(slotOf(ring, mask, now), v);
        x = isNested ? v : y;
      }
      if (isNested)
        for (let n: u32 = 0; n < count; ++n) {
          const v = v128.load(insides + (n << 4));
          const inner =
            n + 1 < count ? madd(stages.presence(n + 2), sub(v128.load(nodes + ((n + 2) << 4)), v), v) : v;
          v128.store(slotOf(rings + n * bytes, mask, now), inner);
        }
      quiet = v128.any_true(loudest) || v128.any_true(dry) ? 0 : quiet + 1;
      for (let n: u32 = 0; n < stagesOut; ++n) {
        const stage = m.signal(P.OUT_STAGE1 + (n << 2));
        if (!stage.isWanted) continue;
        stage.put(
          g,
          f,
          n < count ? mul(v128.load(nodes + ((n + 1) << 4)), stages.presence(n + 1)) : splat(0),
        );
      }
      const wet = isNested ? nestedOut(stages, nodes) : rowOut(stages, nodes, count);
      m.outOut.put(
        g,
        f,
        mixed(
          mul(dry, balance(m.dryPan.at(g, f))),
          mul(mul(wet, gainOut), balance(m.wetPan.at(g, f))),
          m.mix.at(g, f),
        ),
      );
    }
    store<u32>(state.quietAt, min<u32>(quiet, 0x7fffffff));
    store<u32>(state.ranAt, ran);
  }
  if (resting) m.rest();
}

/** After the stages that are in use, faded while their number changes. */
@inline function rowOut(stages: Counting, nodes: usize, count: u32): v128 {
  let old = v128.load(nodes),
    next = old;
  for (let n: u32 = 1; n <= count; ++n) {
    const y = v128.load(nodes + (n << 4));
    old = v128.bitselect(y, old, f32x4.eq(stages.now, splat(<f32>n)));
    next = v128.bitselect(y, next, f32x4.eq(stages.next, splat(<f32>n)));
  }
  return stages.between(old, next);
}

/** The outermost stage has all others in it. */
@inline function nestedOut(stages: Counting, nodes: usize): v128 {
  const none = v128.load(nodes);
  return madd(stages.presence(1), sub(v128.load(nodes, 16), none), none);
}
