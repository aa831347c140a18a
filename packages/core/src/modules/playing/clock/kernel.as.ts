// Clock: every output follows from one position in beats, kept in 64 bits.
import * as P from "../../../generated/clock.as";
import { retriggered, triggerFrames } from "../../../kernels/pulses.as";
import { scratch } from "../../../kernels/scratch.as";
import {
  beatAt,
  outerBeatAt,
  outerRunning,
  outerStarts,
  running,
  sampleRate,
  starts,
} from "../../../kernels/time.as";
import { beatsOfNoteValue } from "../../../kernels/notevalues.as";

const OUTPUTS: u32 = 9,
  PULSES: u32 = 6;
const BEATS_PER_BAR: f64 = 4;
/** Positions are sums of many small steps: this much short of a pulse is the pulse. */
const NEARLY: f64 = 1e-7;
/** Where a lane's position stands in the state: low words of four lanes, then high words. */
@inline function loadPosition(at: usize, k: u32): f64 {
  return reinterpret<f64>((<u64>load<u32>(at + (k << 2))) | ((<u64>load<u32>(at + 16 + (k << 2))) << 32));
}


@inline function storePosition(at: usize, k: u32, value: f64): void {
  const bits = reinterpret<u64>(value);
  store<u32>(at + (k << 2), <u32>bits);
  store<u32>(at + 16 + (k << 2), <u32>(bits >> 32));
}

/** A pulse of some length in beats at a position: writes its gate, restarting cleanly where it meets the one before. */
function pulse(
  state: P.State,
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
  const at = state.indicesAt + (n << 4) + (k << 2);
  const known = load<i32>(at);
  // Indices are kept plus one: 0 means none yet, a negative one is a pulse that was cut short when the transport stopped.
  const spent = -(index + 1);
  if (!on && known == index + 1) store<i32>(at, spent);
  else if (on && known != spent) store<i32>(at, index + 1);
  const isNew = on && known != index + 1 && known != spent;
  const sounds = on && known != spent && share < width;
  const high = retriggered(state.highsAt + (n << 4) + (k << 2), sounds, isNew);
  store<f32>(out, high ? 1 : 0);
}

function lane(m: P.Module, g: u32, k: u32, f: u32, state: P.State, rows: usize, source: i32): void {
  const o = k << 2;
  const reset = load<f32>(rows + o) > 0.5,
    before = load<f32>(state.beforeAt + o) > 0.5;
  store<f32>(state.beforeAt + o, load<f32>(rows + o));
  const isRunning =
    source == P.SOURCE_OWN ? true : source == P.SOURCE_EXTERNAL ? outerRunning != 0 : running != 0;
  const start = (source == P.SOURCE_EXTERNAL ? outerStarts : starts) + 1;
  let begins = load<u32>(state.startsSeenAt + o) != start && isRunning;
  const from = state.fromLowAt;
  const now =
    source == P.SOURCE_OWN
      ? loadPosition(state.ownLowAt, k)
      : source == P.SOURCE_EXTERNAL
        ? outerBeatAt(f)
        : beatAt(f);
  if (begins) {
    store<u32>(state.startsSeenAt + o, start);
    storePosition(from, k, source == P.SOURCE_OWN ? now : 0);
  }
  if (reset && !before) storePosition(from, k, now);
  if (begins || (reset && !before))
    for (let n: u32 = 0; n < PULSES; ++n) store<i32>(state.indicesAt + (n << 4) + o, 0);
  if (begins) store<i32>(state.startLeftAt + o, triggerFrames());
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
  const left = load<i32>(state.startLeftAt + o);
  store<f32>(outs + 64, left > 0 ? 1 : 0);
  if (left > 0) store<i32>(state.startLeftAt + o, left - 1);
  for (let n: u32 = 0; n < 4; ++n) {
    if (!m.signal(P.OUT_DIV1 + (n << 2)).isWanted) continue;
    pulse(
      state,
      2 + n,
      k,
      beat,
      beatsOfNoteValue(m.choice(P.SET_DIVISION1 + (n << 2))),
      swing,
      width,
      counts,
      outs + 80 + (n << 4),
    );
  }
  if (source == P.SOURCE_OWN)
    storePosition(state.ownLowAt, k, now + <f64>load<f32>(rows + 16 + o) / 60.0 / <f64>sampleRate);
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const source = m.source;
  const reset = m.reset,
    tempo = m.tempo,
    swing = m.swing,
    width = m.width;
  const lanes = m.voiceCount * m.sideCount,
    rows = scratch(0);
  // Lanes without a voice are 0.
  memory.fill(rows + 64, 0, OUTPUTS << 4);
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    const used = min<u32>(4, lanes - (g << 2));
    for (let f = frame, end = frame + frames; f < end; ++f) {
      v128.store(rows, reset.at(g, f));
      v128.store(rows + 16, tempo.at(g, f));
      v128.store(rows + 32, swing.at(g, f));
      v128.store(rows + 48, width.at(g, f));
      for (let k: u32 = 0; k < used; ++k) lane(m, g, k, f, state, rows, source);
      for (let n: u32 = 0; n < OUTPUTS; ++n) {
        const out = m.signal(P.OUT_BEAT + (n << 2));
        if (out.isWanted) v128.store(out.write(g, f), v128.load(rows + 64 + (n << 4)));
      }
    }
  }
}
