// Clock: every output follows from one position in beats, kept in 64 bits.
import * as P from "../../../generated/clock.as";
import { retriggered, triggerFrames } from "../../../kernels/pulses.as";
import {
  beatAt,
  choiceOf,
  groupsOf,
  isWanted,
  outerBeatAt,
  outerRunning,
  outerStarts,
  peek,
  running,
  sampleRate,
  scratch,
  signalAt,
  starts,
  stateOf,
  voicesOf,
  sidesOf,
  writeTo,
} from "../../../kernels/instance.as";
import { beatsOfNoteValue } from "../../../kernels/notevalues.as";

const OUTPUTS: u32 = 9,
  PULSES: u32 = 6;
const BEATS_PER_BAR: f64 = 4;
/** Positions are sums of many small steps: this much short of a pulse is the pulse. */
const NEARLY: f64 = 1e-7;
/** Where a lane's position stands in the state: low words of four lanes, then high words. */
// @ts-ignore: decorator
@inline function loadPosition(at: usize, k: u32): f64 {
  return reinterpret<f64>((<u64>load<u32>(at + (k << 2))) | ((<u64>load<u32>(at + 16 + (k << 2))) << 32));
}
// @ts-ignore: decorator
@inline function storePosition(at: usize, k: u32, value: f64): void {
  const bits = reinterpret<u64>(value);
  store<u32>(at + (k << 2), <u32>bits);
  store<u32>(at + 16 + (k << 2), <u32>(bits >> 32));
}

/** A pulse of some length in beats at a position: writes its gate, restarting cleanly where it meets the one before. */
function pulse(
  state: usize,
  n: u32,
  k: u32,
  position: f64,
  length: f64,
  swing: f64,
  width: f64,
  on: bool,
  out: usize,
): void {
  const place = position / length + NEARLY;
  let whole = floor(place);
  let share = place - whole;
  if (swing > 0 && (<i64>whole) & 1) {
    // Every second pulse comes later: until then the one before goes on.
    if (share < swing) {
      whole -= 1;
      share = 1 + share;
    } else share -= swing;
  }
  const index = <i32>whole;
  const at = state + P.STATE_INDICES + (n << 4) + (k << 2);
  const known = load<i32>(at);
  // Indices are kept plus one: 0 means none yet, a negative one is a pulse that was cut short when the transport stopped.
  const spent = -(index + 1);
  if (!on && known == index + 1) store<i32>(at, spent);
  else if (on && known != spent) store<i32>(at, index + 1);
  const isNew = on && known != index + 1 && known != spent;
  const sounds = on && known != spent && share < width;
  const high = retriggered(state + P.STATE_HIGHS + (n << 4) + (k << 2), sounds, isNew);
  store<f32>(out, high ? 1 : 0);
}

function lane(instance: usize, g: u32, k: u32, f: u32, state: usize, rows: usize, source: i32): void {
  const o = k << 2;
  const reset = load<f32>(rows + o) > 0.5,
    before = load<f32>(state + P.STATE_BEFORE + o) > 0.5;
  store<f32>(state + P.STATE_BEFORE + o, load<f32>(rows + o));
  const isRunning =
    source == P.SOURCE_OWN ? true : source == P.SOURCE_EXTERNAL ? outerRunning != 0 : running != 0;
  const start = (source == P.SOURCE_EXTERNAL ? outerStarts : starts) + 1;
  let begins = load<u32>(state + P.STATE_STARTSSEEN + o) != start && isRunning;
  const from = state + P.STATE_FROMLOW;
  const now =
    source == P.SOURCE_OWN
      ? loadPosition(state + P.STATE_OWNLOW, k)
      : source == P.SOURCE_EXTERNAL
        ? outerBeatAt(f)
        : beatAt(f);
  if (begins) {
    store<u32>(state + P.STATE_STARTSSEEN + o, start);
    storePosition(from, k, source == P.SOURCE_OWN ? now : 0);
  }
  if (reset && !before) storePosition(from, k, now);
  if (begins || (reset && !before))
    for (let n: u32 = 0; n < PULSES; ++n) store<i32>(state + P.STATE_INDICES + (n << 4) + o, 0);
  if (begins) store<i32>(state + P.STATE_STARTLEFT + o, triggerFrames());
  const position = now - loadPosition(from, k);
  const counts = isRunning && position >= -NEARLY;
  const width = <f64>load<f32>(rows + 48 + o),
    swing = <f64>load<f32>(rows + 32 + o);
  const outs = rows + 64 + o;
  const beat = max(position, 0.0);
  pulse(state, 0, k, beat, 1, 0, width, counts, outs);
  pulse(state, 1, k, beat, BEATS_PER_BAR, 0, width, counts, outs + 16);
  store<f32>(outs + 32, <f32>(beat - floor(beat + NEARLY) < 0 ? 0 : beat - floor(beat + NEARLY)));
  store<f32>(outs + 48, isRunning ? 1 : 0);
  const left = load<i32>(state + P.STATE_STARTLEFT + o);
  store<f32>(outs + 64, left > 0 ? 1 : 0);
  if (left > 0) store<i32>(state + P.STATE_STARTLEFT + o, left - 1);
  for (let n: u32 = 0; n < 4; ++n) {
    if (!isWanted(signalAt(instance, P.OUT_DIV1 + (n << 2)))) continue;
    pulse(
      state,
      2 + n,
      k,
      beat,
      beatsOfNoteValue(choiceOf(instance, P.SET_DIVISION1 + (n << 2))),
      swing,
      width,
      counts,
      outs + 80 + (n << 4),
    );
  }
  if (source == P.SOURCE_OWN)
    storePosition(state + P.STATE_OWNLOW, k, now + <f64>load<f32>(rows + 16 + o) / 60.0 / <f64>sampleRate);
}

export function process(instance: usize, frame: u32, frames: u32): void {
  const source = choiceOf(instance, P.SET_SOURCE);
  const reset = signalAt(instance, P.IN_RESET),
    tempo = signalAt(instance, P.PARAM_TEMPO),
    swing = signalAt(instance, P.PARAM_SWING),
    width = signalAt(instance, P.PARAM_WIDTH);
  const lanes = voicesOf(instance) * sidesOf(instance),
    rows = scratch(0);
  // Lanes without a voice are 0.
  memory.fill(rows + 64, 0, OUTPUTS << 4);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g);
    const used = min<u32>(4, lanes - (g << 2));
    for (let f = frame, end = frame + frames; f < end; ++f) {
      v128.store(rows, peek(reset, g, f));
      v128.store(rows + 16, peek(tempo, g, f));
      v128.store(rows + 32, peek(swing, g, f));
      v128.store(rows + 48, peek(width, g, f));
      for (let k: u32 = 0; k < used; ++k) lane(instance, g, k, f, state, rows, source);
      for (let n: u32 = 0; n < OUTPUTS; ++n) {
        const out = signalAt(instance, P.OUT_BEAT + (n << 2));
        if (isWanted(out)) v128.store(writeTo(out, g, f), v128.load(rows + 64 + (n << 4)));
      }
    }
  }
}
