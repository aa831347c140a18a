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
import {
  auxOf,
  groupsOf,
  isWanted,
  pointerTo,
  sampleRate,
  scratch,
  signalAt,
  stateOf,
  strideOf,
  writeConstant,
  writeTo,
} from "../../../kernels/instance.as";
import { add, div, higher, lower, madd, mul, splat, sub } from "../../../kernels/simd.as";

/** Triggers last this long. */
const TRIGGER_SECONDS: f32 = 0.001;

/** What a hand moves while a note sounds arrives over this long. */
const TOUCH_SECONDS: f32 = 0.005;
/** Rows of touches on the move. */
const TOUCH: u32 = 0;

/** Lanes whose note began in this segment: they take their touches at once. */
let began: v128 = i32x4.splat(0);

/**
 * A value from outside in straight lines of 5 ms: goal, step and frames left stand at `at`. The row it is written to, or
 * 0 where it stands still at `now`.
 */
function touch(at: usize, now: v128, frames: u32, row: usize): usize {
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
function writeTouch(signal: usize, g: u32, frame: u32, frames: u32, at: usize, now: v128): void {
  const row = touch(at, now, frames, scratch(TOUCH));
  if (!row) writeConstant(signal, g, frame, frames, now);
  else if (isWanted(signal)) memory.copy(writeTo(signal, g, frame), row, frames << 4);
}

/** One field of the four voice records of a group. */
// @ts-ignore: decorator
@inline function field(records: usize, offset: usize): v128 {
  return f32x4(
    load<f32>(records + offset),
    load<f32>(records + offset + VOICE_BYTES),
    load<f32>(records + offset + 2 * VOICE_BYTES),
    load<f32>(records + offset + 3 * VOICE_BYTES),
  );
}

/** Takes the flags the host set since the last segment; returns the lanes whose gate drops for one sample. */
function takeFlags(records: usize, state: usize, glide: usize): v128 {
  let drops = i32x4.splat(0);
  began = drops;
  for (let k: u32 = 0; k < 4; ++k) {
    const record = records + k * VOICE_BYTES;
    const flags = load<u32>(record, VOICE_FLAGS);
    if (!flags) continue;
    const o = k << 2;
    store<u32>(record, 0, VOICE_FLAGS);
    if (flags & VOICE_TRIGGER) {
      store<i32>(state + P.STATE_TRIGGERLEFT + o, <i32>(TRIGGER_SECONDS * sampleRate + 0.5));
      began = v128.or(began, i32x4.eq(i32x4(0, 1, 2, 3), i32x4.splat(<i32>k)));
    }
    if (flags & (VOICE_JUMP | VOICE_GLIDE)) {
      const to = load<f32>(record, VOICE_PITCH);
      const x = load<f32>(state + P.STATE_PROGRESS + o);
      const old = load<f32>(state + P.STATE_TO + o);
      const now = old - (old - load<f32>(state + P.STATE_FROM + o)) * (1 - x);
      const glides = (flags & VOICE_GLIDE) != 0 && load<f32>(glide + o) * sampleRate >= 0.5;
      store<f32>(state + P.STATE_FROM + o, glides ? now : to);
      store<f32>(state + P.STATE_TO + o, to);
      store<f32>(state + P.STATE_PROGRESS + o, glides ? 0 : 1);
    }
    if (flags & VOICE_DROP) drops = v128.or(drops, i32x4.eq(i32x4(0, 1, 2, 3), i32x4.splat(<i32>k)));
  }
  return drops;
}

function writePitch(instance: usize, g: u32, frame: u32, frames: u32, records: usize, state: usize): void {
  const out = signalAt(instance, P.OUT_PITCH),
    bendOut = signalAt(instance, P.OUT_BEND);
  const glide = signalAt(instance, P.PARAM_GLIDE),
    range = signalAt(instance, P.PARAM_BENDRANGE);
  const transpose = signalAt(instance, P.PARAM_TRANSPOSE),
    detune = signalAt(instance, P.PARAM_DETUNE);
  let pGlide = pointerTo(glide, g, frame),
    pRange = pointerTo(range, g, frame),
    pTranspose = pointerTo(transpose, g, frame),
    pDetune = pointerTo(detune, g, frame);
  const sGlide = strideOf(glide, g),
    sRange = strideOf(range, g),
    sTranspose = strideOf(transpose, g),
    sDetune = strideOf(detune, g);
  const from = v128.load(state + P.STATE_FROM),
    to = v128.load(state + P.STATE_TO);
  let progress = v128.load(state + P.STATE_PROGRESS);
  // A voice's own bend begins with its note, the channel's goes on.
  let bend = field(records, VOICE_BEND);
  const voiceRow = touch(state + P.STATE_BENDING, bend, frames, scratch(TOUCH));
  const starts = began;
  began = i32x4.splat(0);
  let shared = splat(load<f32>(auxOf(instance), CHANNEL_BEND));
  const sharedRow = touch(state + P.STATE_CHANNELBENDING, shared, frames, scratch(TOUCH + 1));
  began = starts;
  const scatter = field(records, VOICE_SCATTER);
  const gliding = v128.any_true(v128.and(f32x4.lt(progress, splat(1)), f32x4.ne(from, to)));
  const moves = gliding || (sRange | sTranspose | sDetune) != 0 || (voiceRow | sharedRow) != 0;
  const length: u32 = moves ? frames : 1;
  const p: usize = moves && isWanted(out) ? writeTo(out, g, frame) : 0;
  const q: usize = moves && isWanted(bendOut) ? writeTo(bendOut, g, frame) : 0;
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
      writeConstant(out, g, frame, frames, y);
      writeConstant(bendOut, g, frame, frames, bent);
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
  v128.store(state + P.STATE_PROGRESS, progress);
}

/** Lanes still inside their 1 ms trigger, frame by frame; counts down. */
function writeTrigger(signal: usize, g: u32, frame: u32, frames: u32, leftAt: usize): void {
  let left = v128.load(leftAt);
  if (!v128.any_true(left)) {
    writeConstant(signal, g, frame, frames, splat(0));
    return;
  }
  const wanted = isWanted(signal);
  const p: usize = wanted ? writeTo(signal, g, frame) : 0;
  for (let f: u32 = 0; f < frames; ++f) {
    const on = i32x4.gt_s(left, i32x4.splat(0));
    if (wanted) v128.store(p + (f << 4), v128.and(on, splat(1)));
    left = i32x4.add(left, on);
  }
  v128.store(leftAt, left);
}

function writeGate(signal: usize, g: u32, frame: u32, frames: u32, gate: v128, drops: v128): void {
  const dropped = v128.andnot(gate, drops);
  if (!v128.any_true(v128.xor(dropped, gate))) {
    writeConstant(signal, g, frame, frames, gate);
    return;
  }
  const p = writeTo(signal, g, frame);
  v128.store(p, dropped);
  for (let f: u32 = 1; f < frames; ++f) v128.store(p + (f << 4), gate);
}

export function process(instance: usize, frame: u32, frames: u32): void {
  const aux = auxOf(instance);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const records = aux + g * 4 * VOICE_BYTES,
      state = stateOf(instance, g);
    const drops = takeFlags(records, state, pointerTo(signalAt(instance, P.PARAM_GLIDE), g, frame));
    writePitch(instance, g, frame, frames, records, state);
    writeGate(signalAt(instance, P.OUT_GATE), g, frame, frames, field(records, VOICE_GATE), drops);
    writeTrigger(signalAt(instance, P.OUT_TRIGGER), g, frame, frames, state + P.STATE_TRIGGERLEFT);
    writeConstant(signalAt(instance, P.OUT_VELOCITY), g, frame, frames, field(records, VOICE_VELOCITY));
    writeConstant(signalAt(instance, P.OUT_RELEASE), g, frame, frames, field(records, VOICE_RELEASE));
    writeTouch(
      signalAt(instance, P.OUT_PRESSURE),
      g,
      frame,
      frames,
      state + P.STATE_PRESSING,
      field(records, VOICE_PRESSURE),
    );
    writeTouch(
      signalAt(instance, P.OUT_SLIDE),
      g,
      frame,
      frames,
      state + P.STATE_SLIDING,
      field(records, VOICE_SLIDE),
    );
    writeConstant(signalAt(instance, P.OUT_SCATTER), g, frame, frames, field(records, VOICE_SCATTER));
    began = i32x4.splat(0);
    writeTouch(
      signalAt(instance, P.OUT_WHEEL),
      g,
      frame,
      frames,
      state + P.STATE_WHEELING,
      splat(load<f32>(aux, CHANNEL_WHEEL)),
    );
    writeConstant(
      signalAt(instance, P.OUT_VOICE),
      g,
      frame,
      frames,
      f32x4.convert_i32x4_s(i32x4.add(i32x4.splat(<i32>(g << 2)), i32x4(0, 1, 2, 3))),
    );
  }
  writeConstant(signalAt(instance, P.OUT_HELD), 0, frame, frames, splat(load<f32>(aux, CHANNEL_HELD)));
  const any = load<u32>(aux, CHANNEL_ANY);
  const anyLeft = stateOf(instance, 0) + P.STATE_ANYLEFT;
  if (any) {
    store<u32>(aux, 0, CHANNEL_ANY);
    v128.store(anyLeft, i32x4.splat(<i32>(TRIGGER_SECONDS * sampleRate + 0.5)));
  }
  writeTrigger(signalAt(instance, P.OUT_ANY), 0, frame, frames, anyLeft);
}
