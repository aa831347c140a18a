// Note source: renders what the host's voice records say. Records change only between segments, at the exact sample.
import * as P from "../../../generated/notes.as";
import {
  CHANNEL_ANY,
  CHANNEL_BEND,
  CHANNEL_HELD,
  CHANNEL_WHEEL,
  VOICE_BEND,
  VOICE_BYTES,
  VOICE_DROP,
  VOICE_FLAGS,
  VOICE_GATE,
  VOICE_GLIDE,
  VOICE_JUMP,
  VOICE_PITCH,
  VOICE_PRESSURE,
  VOICE_RELEASE,
  VOICE_SCATTER,
  VOICE_SLIDE,
  VOICE_TRIGGER,
  VOICE_VELOCITY,
} from "../../../kernels/abi";
import { Signal } from "../../../kernels/signal.as";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate } from "../../../kernels/time.as";
import { add, div, higher, lower, madd, mul, splat, sub } from "../../../kernels/simd.as";

/** Triggers last this long. */
const TRIGGER_SECONDS: f32 = 0.001;

/** What a hand moves while a note sounds arrives over this long. */
const TOUCH_SECONDS: f32 = 0.005;
/** Rows of touches on the move. */
const TOUCH: u32 = 0;

/**
 * A value from outside in straight lines of 5 ms: goal, step and frames left stand at `at`. Lanes whose note `began` in
 * this segment take it at once. The row it is written to, or 0 where it stands still at `now`.
 */
function touch(at: usize, now: v128, began: v128, frames: u32, row: usize): usize {
  const goal = v128.load(at),
    moved = f32x4.ne(now, goal),
    length = max<f32>(nearest<f32>(TOUCH_SECONDS * sampleRate), 1);
  let step = v128.load(at, 16),
    left = v128.load(at, 32);
  if (v128.any_true(v128.or(moved, began))) {
    const here = sub(goal, mul(step, left));
    const walks = v128.andnot(moved, began);
    step = v128.bitselect(mul(sub(now, here), splat(1 / length)), v128.andnot(step, began), walks);
    left = v128.bitselect(splat(length), v128.andnot(left, began), walks);
    v128.store(at, now);
    v128.store(at, step, 16);
  }
  if (!v128.any_true(left)) return 0;
  for (let f: u32 = 0; f < frames; ++f) {
    left = higher(sub(left, splat(1)), splat(0));
    v128.store(row + (f << 4), sub(now, mul(step, left)));
  }
  v128.store(at, left, 32);
  return row;
}

/** Writes a touch into an output. */
function writeTouch(
  signal: Signal,
  g: u32,
  frame: u32,
  frames: u32,
  at: usize,
  now: v128,
  began: v128,
): void {
  const row = touch(at, now, began, frames, scratch(TOUCH));
  if (!row) signal.fill(g, frame, frames, now);
  else if (signal.isWanted) memory.copy(signal.write(g, frame), row, frames << 4);
}

/** One field of the four voice records of a group. */
@inline function field(records: usize, offset: usize): v128 {
  return f32x4(
    load<f32>(records + offset),
    load<f32>(records + offset + VOICE_BYTES),
    load<f32>(records + offset + 2 * VOICE_BYTES),
    load<f32>(records + offset + 3 * VOICE_BYTES),
  );
}

const NO_LANES: v128 = i32x4.splat(0);


@inline function hasFlags(records: usize): bool {
  return (
    (load<u32>(records, VOICE_FLAGS) |
      load<u32>(records, VOICE_FLAGS + VOICE_BYTES) |
      load<u32>(records, VOICE_FLAGS + 2 * VOICE_BYTES) |
      load<u32>(records, VOICE_FLAGS + 3 * VOICE_BYTES)) !=
    0
  );
}

/** Lanes for which the host has set a flag since the last segment. */
function flagged(records: usize, flag: u32): v128 {
  let lanes = NO_LANES;
  for (let k: u32 = 0; k < 4; ++k)
    if (load<u32>(records + k * VOICE_BYTES, VOICE_FLAGS) & flag)
      lanes = v128.or(lanes, i32x4.eq(i32x4(0, 1, 2, 3), i32x4.splat(<i32>k)));
  return lanes;
}

/** Does what the flags that the host set since the last segment say, and takes them back. */
function takeFlags(records: usize, state: P.State, glide: usize): void {
  for (let k: u32 = 0; k < 4; ++k) {
    const record = records + k * VOICE_BYTES;
    const flags = load<u32>(record, VOICE_FLAGS);
    if (!flags) continue;
    const o = k << 2;
    store<u32>(record, 0, VOICE_FLAGS);
    if (flags & VOICE_TRIGGER) store<i32>(state.triggerLeftAt + o, <i32>(TRIGGER_SECONDS * sampleRate + 0.5));
    if (flags & (VOICE_JUMP | VOICE_GLIDE)) {
      const to = load<f32>(record, VOICE_PITCH);
      const x = load<f32>(state.progressAt + o);
      const old = load<f32>(state.toAt + o);
      const now = old - (old - load<f32>(state.fromAt + o)) * (1 - x);
      const glides = (flags & VOICE_GLIDE) != 0 && load<f32>(glide + o) * sampleRate >= 0.5;
      store<f32>(state.fromAt + o, glides ? now : to);
      store<f32>(state.toAt + o, to);
      store<f32>(state.progressAt + o, glides ? 0 : 1);
    }
  }
}

function writePitch(
  m: P.Module,
  g: u32,
  frame: u32,
  frames: u32,
  records: usize,
  state: P.State,
  began: v128,
): void {
  const out = m.outPitch,
    bendOut = m.outBend;
  const glide = m.glide,
    range = m.bendRange;
  const transpose = m.transpose,
    detune = m.detune;
  let pGlide = glide.row(g, frame),
    pRange = range.row(g, frame),
    pTranspose = transpose.row(g, frame),
    pDetune = detune.row(g, frame);
  const sGlide = glide.step(g),
    sRange = range.step(g),
    sTranspose = transpose.step(g),
    sDetune = detune.step(g);
  const from = state.from,
    to = state.to;
  let progress = state.progress;
  // A voice's own bend begins with its note, the channel's goes on.
  let bend = field(records, VOICE_BEND);
  const voiceRow = touch(state.bendingAt, bend, began, frames, scratch(TOUCH));
  let shared = splat(load<f32>(m.aux, CHANNEL_BEND));
  const sharedRow = touch(state.channelBendingAt, shared, NO_LANES, frames, scratch(TOUCH + 1));
  const scatter = field(records, VOICE_SCATTER);
  const gliding = v128.any_true(v128.and(f32x4.lt(progress, splat(1)), f32x4.ne(from, to)));
  const moves = gliding || (sRange | sTranspose | sDetune) != 0 || (voiceRow | sharedRow) != 0;
  const length: u32 = moves ? frames : 1;
  const p: usize = moves && out.isWanted ? out.write(g, frame) : 0;
  const q: usize = moves && bendOut.isWanted ? bendOut.write(g, frame) : 0;
  for (let f: u32 = 0; f < length; ++f) {
    if (voiceRow) bend = v128.load(voiceRow + (f << 4));
    if (sharedRow) shared = v128.load(sharedRow + (f << 4));
    const bent = mul(mul(add(bend, shared), v128.load(pRange)), splat(1.0 / 12.0));
    let y = sub(to, mul(sub(to, from), sub(splat(1), progress)));
    y = add(y, madd(v128.load(pTranspose), splat(1.0 / 12.0), bent));
    y = madd(mul(scatter, v128.load(pDetune)), splat(1.0 / 1200.0), y);
    if (p) v128.store(p + (f << 4), y);
    if (q) v128.store(q + (f << 4), bent);
    if (!moves) {
      out.fill(g, frame, frames, y);
      bendOut.fill(g, frame, frames, bent);
    } else {
      progress = lower(
        add(progress, div(splat(1), higher(mul(v128.load(pGlide), splat(sampleRate)), splat(1)))),
        splat(1),
      );
    }
    pGlide += sGlide;
    pRange += sRange;
    pTranspose += sTranspose;
    pDetune += sDetune;
  }
  state.progress = progress;
}

/** Lanes still inside their 1 ms trigger, frame by frame; counts down. */
function writeTrigger(signal: Signal, g: u32, frame: u32, frames: u32, leftAt: usize): void {
  let left = v128.load(leftAt);
  if (!v128.any_true(left)) {
    signal.fill(g, frame, frames, splat(0));
    return;
  }
  const wanted = signal.isWanted;
  const p: usize = wanted ? signal.write(g, frame) : 0;
  for (let f: u32 = 0; f < frames; ++f) {
    const on = i32x4.gt_s(left, i32x4.splat(0));
    if (wanted) v128.store(p + (f << 4), v128.and(on, splat(1)));
    left = i32x4.add(left, on);
  }
  v128.store(leftAt, left);
}

function writeGate(signal: Signal, g: u32, frame: u32, frames: u32, gate: v128, drops: v128): void {
  const dropped = v128.andnot(gate, drops);
  if (!v128.any_true(v128.xor(dropped, gate))) {
    signal.fill(g, frame, frames, gate);
    return;
  }
  const p = signal.write(g, frame);
  v128.store(p, dropped);
  for (let f: u32 = 1; f < frames; ++f) v128.store(p + (f << 4), gate);
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const aux = m.aux;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const records = aux + g * 4 * VOICE_BYTES,
      state = m.state(g);
    let drops = NO_LANES,
      began = NO_LANES;
    if (hasFlags(records)) {
      drops = flagged(records, VOICE_DROP);
      began = flagged(records, VOICE_TRIGGER);
      takeFlags(records, state, m.glide.row(g, frame));
    }
    writePitch(m, g, frame, frames, records, state, began);
    writeGate(m.outGate, g, frame, frames, field(records, VOICE_GATE), drops);
    writeTrigger(m.outTrigger, g, frame, frames, state.triggerLeftAt);
    m.outVelocity.fill(g, frame, frames, field(records, VOICE_VELOCITY));
    m.outRelease.fill(g, frame, frames, field(records, VOICE_RELEASE));
    writeTouch(m.outPressure, g, frame, frames, state.pressingAt, field(records, VOICE_PRESSURE), began);
    writeTouch(m.outSlide, g, frame, frames, state.slidingAt, field(records, VOICE_SLIDE), began);
    m.outScatter.fill(g, frame, frames, field(records, VOICE_SCATTER));
    const wheel = splat(load<f32>(aux, CHANNEL_WHEEL));
    writeTouch(m.outWheel, g, frame, frames, state.wheelingAt, wheel, NO_LANES);
    m.outVoice.fill(
      g,
      frame,
      frames,
      f32x4.convert_i32x4_s(i32x4.add(i32x4.splat(<i32>(g << 2)), i32x4(0, 1, 2, 3))),
    );
  }
  m.outHeld.fill(0, frame, frames, splat(load<f32>(aux, CHANNEL_HELD)));
  const any = load<u32>(aux, CHANNEL_ANY);
  const anyLeft = m.state(0).anyLeftAt;
  if (any) {
    store<u32>(aux, 0, CHANNEL_ANY);
    v128.store(anyLeft, i32x4.splat(<i32>(TRIGGER_SECONDS * sampleRate + 0.5)));
  }
  writeTrigger(m.outAny, 0, frame, frames, anyLeft);
}
