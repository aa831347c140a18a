// Frequency shifter: the sound and itself a quarter of a cycle later (two chains of all-passes, see hilbert.ts), each
// multiplied by an oscillation and by the same a quarter later: sum and difference are one sideband each.
import * as P from "../../../generated/freqshift.as";
import { add, madd, mixed, mul, sineOfCycles, splat, sub } from "../../../kernels/simd.as";
import { signedPhase, stepPhase } from "../../../kernels/phase.as";
import { catchUp, notePassed } from "../../../kernels/slumber.as";
import { isQuiet } from "../../../kernels/quiet.as";

/** All-passes in a chain; each node between two of them keeps its last two samples. */
const SECTIONS: u32 = 9;
const NODE: usize = 32;
const CHAIN: usize = (SECTIONS + 1) * NODE;
/** Vectors that sound is kept in: both chains, and the sample before. */
const KEPT: u32 = 41;
const QUARTER: i32 = 0x40000000;

/** A chain: each section is (a - z^-2) / (1 - a z^-2). */
@inline function chain(nodes: usize, table: usize, x: v128): v128 {
  let value = x;
  for (let n: u32 = 0; n < SECTIONS; ++n) {
    const node = nodes + n * NODE,
      next = node + NODE;
    const y = sub(
      mul(v128.load32_splat(table + (n << 2)), add(value, v128.load(next, 16))),
      v128.load(node, 16),
    );
    v128.store(node, v128.load(node), 16);
    v128.store(node, value);
    value = y;
  }
  const last = nodes + SECTIONS * NODE;
  v128.store(last, v128.load(last), 16);
  v128.store(last, value);
  return value;
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const input = m.in,
    shift = m.shift,
    mix = m.mix;
  let resting = true;
  for (let g: u32 = 0, groups = m.groups; g < groups; ++g) {
    const state = m.state(g);
    if (m.settled(g) && isQuiet(input, g, frame, state.address, KEPT)) {
      m.outUp.fill(g, frame, frames, splat(0));
      m.outDown.fill(g, frame, frames, splat(0));
      continue;
    }
    resting = false;
    const nodes = state.nodesAt;
    catchUp(state.passedAt, state.highAt, frame);
    for (let f = frame, end = frame + frames; f < end; ++f) {
      const x = input.at(g, f),
        share = mix.at(g, f);
      const real = chain(nodes, m.table, x),
        late = chain(nodes + CHAIN, m.table + (SECTIONS << 2), state.before);
      state.before = x;
      const high = state.high;
      const cosine = sineOfCycles(signedPhase(i32x4.add(high, i32x4.splat(QUARTER)))),
        sine = sineOfCycles(signedPhase(high));
      stepPhase(state.highAt, high, state.low, shift.at(g, f));
      const a = mul(real, cosine),
        b = mul(late, sine);
      m.outUp.put(g, f, mixed(x, sub(a, b), share));
      m.outDown.put(g, f, mixed(x, add(a, b), share));
    }
    notePassed(state.passedAt, frame + frames, shift.at(g, frame + frames - 1));
  }
  if (resting) m.rest();
}
