import * as P from "../../../generated/pattern.as";
import { retriggered, triggerFrames } from "../../../kernels/pulses.as";
import {
  beatAt,
  choiceOf,
  groupsOf,
  laneSeedsOf,
  peek,
  put,
  running,
  scratch,
  sidesOf,
  signalAt,
  starts,
  stateOf,
  tableOf,
  voicesOf,
} from "../../../kernels/instance.as";
import { add, bipolar, div, mixBits, splat } from "../../../kernels/simd.as";

/** Positions are products of many small steps: this much short of a beat is the beat. */
const NEARLY: f64 = 1e-7;
const NOTE_BYTES: usize = 16;

function lane(instance: usize, g: u32, k: u32, f: u32, state: usize, table: usize, rows: usize): void {
  const o = (<usize>k) << 2,
    voice = sidesOf(instance) == 2 ? ((g << 2) + k) >> 1 : (g << 2) + k;
  const reset = load<f32>(rows + o) > 0.5,
    before = load<f32>(state + P.STATE_BEFORE + o) > 0.5;
  store<f32>(state + P.STATE_BEFORE + o, load<f32>(rows + o));
  const now = beatAt(f);
  const fromAt = state + P.STATE_FROMLOW + o;
  if (load<u32>(state + P.STATE_STARTSSEEN + o) != starts + 1) {
    store<u32>(state + P.STATE_STARTSSEEN + o, starts + 1);
    store<u32>(fromAt, 0);
    store<u32>(fromAt, 0, 16);
    store<i32>(state + P.STATE_INDEX + o, 0);
    store<i32>(state + P.STATE_CYCLE + o, 0);
  }
  if (reset && !before) {
    const bits = reinterpret<u64>(now);
    store<u32>(fromAt, <u32>bits);
    store<u32>(fromAt, <u32>(bits >> 32), 16);
    store<i32>(state + P.STATE_INDEX + o, 0);
    store<i32>(state + P.STATE_CYCLE + o, 0);
  }
  const beats = <f64>load<f32>(table);
  let position =
    now - reinterpret<f64>((<u64>load<u32>(fromAt)) | ((<u64>load<u32>(fromAt, 16)) << 32)) + NEARLY;
  const cycle = <i32>floor(position / beats);
  const loops = choiceOf(instance, P.SET_MODE) == P.MODE_LOOP;
  if (cycle != load<i32>(state + P.STATE_CYCLE + o)) {
    store<i32>(state + P.STATE_CYCLE + o, cycle);
    store<i32>(state + P.STATE_INDEX + o, 0);
  }
  position -= <f64>cycle * beats;
  const head = table + 4 + ((<usize>voice) << 3);
  const notes = table + ((<usize>load<f32>(head)) << 2),
    count = <i32>load<f32>(head, 4);
  let index = load<i32>(state + P.STATE_INDEX + o),
    fresh = false;
  // On to the note that has begun last.
  while (index < count && <f64>load<f32>(notes + <usize>index * NOTE_BYTES) <= position) {
    ++index;
    fresh = true;
  }
  store<i32>(state + P.STATE_INDEX + o, index);
  let on = false;
  if (running && index > 0 && (loops || cycle == 0) && position >= 0) {
    const note = notes + <usize>(index - 1) * NOTE_BYTES;
    on = position < <f64>load<f32>(note, 4);
    if (on) {
      store<f32>(state + P.STATE_PITCH + o, load<f32>(note, 8));
      store<f32>(state + P.STATE_VELOCITY + o, load<f32>(note, 12));
    }
  }
  const begins = fresh && on;
  if (begins) {
    store<i32>(state + P.STATE_LEFT + o, triggerFrames());
    store<i32>(state + P.STATE_BEGUN + o, load<i32>(state + P.STATE_BEGUN + o) + 1);
  }
  store<f32>(rows + o, retriggered(state + P.STATE_HIGH + o, on, begins) ? 1 : 0, 16);
  const left = load<i32>(state + P.STATE_LEFT + o);
  if (left > 0) store<i32>(state + P.STATE_LEFT + o, left - 1);
  store<f32>(rows + o, left > 0 ? 1 : 0, 32);
}

export function process(instance: usize, frame: u32, frames: u32): void {
  const reset = signalAt(instance, P.IN_RESET),
    transpose = signalAt(instance, P.PARAM_TRANSPOSE),
    rows = scratch(0),
    table = tableOf(instance);
  const lanes = voicesOf(instance) * sidesOf(instance);
  // Lanes without a voice are 0.
  memory.fill(rows + 16, 0, 32);
  for (let g: u32 = 0, groups = groupsOf(instance); g < groups; ++g) {
    const state = stateOf(instance, g),
      seeds = laneSeedsOf(instance, g),
      used = min<u32>(4, lanes - (g << 2));
    for (let f = frame, end = frame + frames; f < end; ++f) {
      v128.store(rows, peek(reset, g, f));
      for (let k: u32 = 0; k < used; ++k) lane(instance, g, k, f, state, table, rows);
      put(
        instance,
        P.OUT_PITCH,
        g,
        f,
        add(v128.load(state + P.STATE_PITCH), div(peek(transpose, g, f), splat(12))),
      );
      put(instance, P.OUT_GATE, g, f, v128.load(rows, 16));
      put(instance, P.OUT_TRIGGER, g, f, v128.load(rows, 32));
      put(instance, P.OUT_VELOCITY, g, f, v128.load(state + P.STATE_VELOCITY));
      const begun = v128.load(state + P.STATE_BEGUN);
      put(
        instance,
        P.OUT_SCATTER,
        g,
        f,
        v128.and(
          bipolar(mixBits(v128.xor(seeds, i32x4.mul(begun, i32x4.splat(0x9e3779b1))))),
          i32x4.ne(begun, i32x4.splat(0)),
        ),
      );
    }
  }
}
