import * as P from "../../../generated/pattern.as";
import { retriggered, triggerFrames } from "../../../kernels/pulses.as";
import { scratch } from "../../../kernels/scratch.as";
import { NOWHERE, tell } from "../../../kernels/telling.as";
import { beatAt, running, starts } from "../../../kernels/time.as";
import { add, bipolar, div, mixBits, splat } from "../../../kernels/simd.as";

/** Positions are products of many small steps: this much short of a beat is the beat. */
const NEARLY: f64 = 1e-7;
const NOTE_BYTES: usize = 16;

/** The beat of the clip a voice is at; nowhere while the transport stands, or when it has been played once. */
function told(m: P.Module, state: P.State, k: u32, frame: u32): f32 {
  const fromAt = state.fromLowAt + ((<usize>k) << 2),
    beats = <f64>load<f32>(m.table),
    from = reinterpret<f64>((<u64>load<u32>(fromAt)) | ((<u64>load<u32>(fromAt, 16)) << 32)),
    position = beatAt(frame) - from,
    cycle = floor(position / beats);
  const isThere = running && position >= 0 && (m.mode == P.MODE_LOOP || cycle == 0);
  return isThere ? <f32>(position - cycle * beats) : NOWHERE;
}

function lane(m: P.Module, g: u32, k: u32, f: u32, state: P.State, table: usize, rows: usize): void {
  const o = (<usize>k) << 2,
    voice = m.sideCount == 2 ? ((g << 2) + k) >> 1 : (g << 2) + k;
  const reset = load<f32>(rows + o) > 0.5,
    before = load<f32>(state.beforeAt + o) > 0.5;
  store<f32>(state.beforeAt + o, load<f32>(rows + o));
  const now = beatAt(f);
  const fromAt = state.fromLowAt + o;
  if (load<u32>(state.startsSeenAt + o) != starts + 1) {
    store<u32>(state.startsSeenAt + o, starts + 1);
    store<u32>(fromAt, 0);
    store<u32>(fromAt, 0, 16);
    store<i32>(state.indexAt + o, 0);
    store<i32>(state.cycleAt + o, 0);
  }
  if (reset && !before) {
    const bits = reinterpret<u64>(now);
    store<u32>(fromAt, <u32>bits);
    store<u32>(fromAt, <u32>(bits >> 32), 16);
    store<i32>(state.indexAt + o, 0);
    store<i32>(state.cycleAt + o, 0);
  }
  const beats = <f64>load<f32>(table);
  let position =
    now - reinterpret<f64>((<u64>load<u32>(fromAt)) | ((<u64>load<u32>(fromAt, 16)) << 32)) + NEARLY;
  const cycle = <i32>floor(position / beats);
  const loops = m.mode == P.MODE_LOOP;
  if (cycle != load<i32>(state.cycleAt + o)) {
    store<i32>(state.cycleAt + o, cycle);
    store<i32>(state.indexAt + o, 0);
  }
  position -= <f64>cycle * beats;
  const head = table + 4 + ((<usize>voice) << 3);
  const notes = table + ((<usize>load<f32>(head)) << 2),
    count = <i32>load<f32>(head, 4);
  let index = load<i32>(state.indexAt + o),
    fresh = false;
  // On to the note that has begun last.
  while (index < count && <f64>load<f32>(notes + <usize>index * NOTE_BYTES) <= position) {
    ++index;
    fresh = true;
  }
  store<i32>(state.indexAt + o, index);
  let on = false;
  if (running && index > 0 && (loops || cycle == 0) && position >= 0) {
    const note = notes + <usize>(index - 1) * NOTE_BYTES;
    on = position < <f64>load<f32>(note, 4);
    if (on) {
      store<f32>(state.pitchAt + o, load<f32>(note, 8));
      store<f32>(state.velocityAt + o, load<f32>(note, 12));
    }
  }
  const begins = fresh && on;
  if (begins) {
    store<i32>(state.leftAt + o, triggerFrames());
    store<i32>(state.begunAt + o, load<i32>(state.begunAt + o) + 1);
  }
  store<f32>(rows + o, retriggered(state.highAt + o, on, begins) ? 1 : 0, 16);
  const left = load<i32>(state.leftAt + o);
  if (left > 0) store<i32>(state.leftAt + o, left - 1);
  store<f32>(rows + o, left > 0 ? 1 : 0, 32);
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const reset = m.reset,
    transpose = m.transpose,
    rows = scratch(0),
    table = m.table;
  const lanes = m.voiceCount * m.sideCount;
  // Lanes without a voice are 0.
  memory.fill(rows + 16, 0, 32);
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g),
      seeds = m.laneSeeds(g),
      used = min<u32>(4, lanes - (g << 2));
    if (m.outBeat.isWanted)
      for (let k: u32 = 0; k < used; ++k) {
        const voice = m.sideCount == 2 ? ((g << 2) + k) >> 1 : (g << 2) + k;
        tell(m.outBeat, voice, told(m, state, k, frame));
      }
    for (let f = frame, end = frame + frames; f < end; ++f) {
      v128.store(rows, reset.at(g, f));
      for (let k: u32 = 0; k < used; ++k) lane(m, g, k, f, state, table, rows);
      m.outPitch.put(g, f, add(state.pitch, div(transpose.at(g, f), splat(12))));
      m.outGate.put(g, f, v128.load(rows, 16));
      m.outTrigger.put(g, f, v128.load(rows, 32));
      m.outVelocity.put(g, f, state.velocity);
      const begun = state.begun;
      m.outScatter.put(
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
