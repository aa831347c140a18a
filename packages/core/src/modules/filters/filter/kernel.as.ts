/* eslint max-lines: ["error", 500] -- one filter: swept, still, driven, and a frame at a time */
// State-variable filter, trapezoidal integration, zero-delay feedback: the analogue prototype under the bilinear
// transform, with the cutoff prewarped exactly. Its states are capacitor voltages, so it stays stable under any
// modulation (Zavalishin, The Art of VA Filter Design; Simper, linear trapezoidal SVF, 2013).
import * as P from "../../../generated/filter.as";
import { FIT, GROUP_BYTES, UNFIT } from "../../../kernels/abi";
import { scratch } from "../../../kernels/scratch.as";
import { sampleRate } from "../../../kernels/time.as";
import { add, at, madd, mul, splat, sub } from "../../../kernels/simd.as";
import { isEmpty } from "../../../kernels/quiet.as";
import { DRIVEN_SOUND, driveRow, isUndriven } from "../../../kernels/saturate.as";
import {
  A1,
  BETWEEN,
  G,
  INPUT,
  K,
  LINEAR_VECTORS,
  OUTPUTS,
  dampingOf,
  shareOf,
  shareOfCutoff,
  storeCoefficients,
  storeSweep,
} from "./coefficients.as";
import { outputOf, runSection } from "./sections.as";

/** Inputs of a group whose cutoff alone moves: the case that counts. */
// @ts-ignore: decorator
@inline function isSwept(m: P.Module, g: u32): bool {
  return (
    !m.in.isConstant(g) &&
    !m.cutoff.isConstant(g) &&
    m.resonance.isConstant(g) &&
    !m.pitch.isCabled &&
    isUndriven(m.state(g).drivenAt, m.drive.row(g, 0), m.drive.step(g))
  );
}

/** The one output that is asked for, or OUTPUTS when there are more or none. */
function onlyOutput(m: P.Module): u32 {
  let only = OUTPUTS;
  for (let kind: u32 = 0; kind < OUTPUTS; ++kind) {
    if (!m.signal(P.OUT_LOW + (kind << 2)).isWanted) continue;
    if (only != OUTPUTS) return OUTPUTS;
    only = kind;
  }
  return only;
}

/**
 * Two groups at once whose cutoff alone moves: each sample of a section waits for the one before it, and meanwhile the
 * other group gets on.
 */
// @ts-ignore: decorator
@inline function sweepTwo(m: P.Module, kind: u32, g: u32, frame: u32, frames: u32): void {
  const state = m.state(g),
    state2 = m.state(g + 1),
    signal = m.signal(P.OUT_LOW + (kind << 2));
  const k = dampingOf(m.resonance.at(g, frame)),
    k2 = dampingOf(m.resonance.at(g + 1, frame));
  // Coefficients of the second group stand so far behind those of the first.
  const other = scratch(G + 2) - scratch(G);
  let gs = scratch(G),
    as = scratch(A1);
  storeSweep(m.cutoff.row(g, frame), k, gs, as, frames);
  storeSweep(m.cutoff.row(g + 1, frame), k2, gs + other, as + other, frames);
  let x = m.in.row(g, frame),
    morph = m.morph.row(g, frame),
    out = signal.write(g, frame);
  // From a frame of one group to the same of the other.
  const toX = m.in.row(g + 1, frame) - x,
    toMorph = m.morph.row(g + 1, frame) - morph,
    toOut = signal.write(g + 1, frame) - out,
    step = m.morph.step(g);
  let one = state.one,
    two = state.two,
    one2 = state2.one,
    two2 = state2.two;
  for (let end = out + (frames << 4); out < end; out += 16) {
    const input = v128.load(x),
      input2 = v128.load(x + toX),
      tangent = v128.load(gs),
      tangent2 = v128.load(gs + other);
    const v1 = mul(v128.load(as), madd(tangent, sub(input, two), one)),
      w1 = mul(v128.load(as + other), madd(tangent2, sub(input2, two2), one2));
    const v2 = madd(tangent, v1, two),
      w2 = madd(tangent2, w1, two2);
    one = sub(add(v1, v1), one);
    one2 = sub(add(w1, w1), one2);
    two = sub(add(v2, v2), two);
    two2 = sub(add(w2, w2), two2);
    v128.store(out, outputOf(kind, input, v1, v2, k, v128.load(morph)));
    v128.store(out + toOut, outputOf(kind, input2, w1, w2, k2, v128.load(morph + toMorph)));
    x += 16;
    gs += 16;
    as += 16;
    morph += step;
  }
  state.one = one;
  state.two = two;
  state2.one = one2;
  state2.two = two2;
}

/** The same with the kind chosen outside the loop. */
function sweepPair(m: P.Module, kind: u32, g: u32, frame: u32, frames: u32): void {
  if (kind == 0) sweepTwo(m, 0, g, frame, frames);
  else if (kind == 1) sweepTwo(m, 1, g, frame, frames);
  else if (kind == 2) sweepTwo(m, 2, g, frame, frames);
  else if (kind == 3) sweepTwo(m, 3, g, frame, frames);
  else if (kind == 4) sweepTwo(m, 4, g, frame, frames);
  else sweepTwo(m, 5, g, frame, frames);
}

/** Nothing moves: coefficients are kept until a set value changes, which counts inside loops of one frame. */
function keepCoefficients(state: P.State, cutoff: v128, resonance: v128): void {
  const same = v128.and(i32x4.eq(cutoff, state.setCutoff), i32x4.eq(resonance, state.setResonance));
  if (i32x4.all_true(same)) return;
  const k = dampingOf(resonance);
  state.setCutoff = cutoff;
  state.setResonance = resonance;
  state.keptK = k;
  storeCoefficients(shareOfCutoff(cutoff, splat(1 / sampleRate)), k, state.keptGAt, state.keptA1At);
}

/** Runs one group; true when nothing comes in and nothing rings. */
function processGroup(m: P.Module, g: u32, frame: u32, frames: u32): bool {
  const state = m.state(g);
  const input = m.in;
  const steep = m.slope == P.SLOPE_24;
  const drive = m.drive,
    pDrive = drive.row(g, frame),
    sDrive = drive.step(g);
  const constantInput = input.isConstant(g);
  // Nothing comes in and nothing rings: every output stays zero.
  if (
    constantInput &&
    !v128.any_true(v128.load(input.row(g, frame))) &&
    isEmpty(state.address, LINEAR_VECTORS + DRIVEN_SOUND)
  ) {
    for (let kind: u32 = 0; kind < OUTPUTS; ++kind)
      m.signal(P.OUT_LOW + (kind << 2)).fill(g, frame, frames, splat(0));
    return m.settled(g);
  }
  const cutoff = m.cutoff,
    resonance = m.resonance;
  const tracking = m.tracking,
    pitch = m.pitch;
  const morph = m.morph;
  let pCutoff = cutoff.row(g, frame),
    pResonance = resonance.row(g, frame);
  let pTracking = tracking.row(g, frame),
    pPitch = pitch.row(g, frame);
  const sCutoff = cutoff.step(g),
    sResonance = resonance.step(g),
    sTracking = tracking.step(g),
    sPitch = pitch.step(g);
  const tracks = pitch.isCabled && (sTracking != 0 || v128.any_true(v128.load(pTracking)));
  const moving = (sCutoff | sResonance | (tracks ? sTracking | sPitch : 0)) != 0;
  const gs = scratch(G),
    as = scratch(A1),
    ks = scratch(K);
  const onlyCutoff = sCutoff != 0 && !tracks && sResonance == 0;
  const perFrame = splat(1 / sampleRate);
  if (onlyCutoff) {
    // The common case, an envelope on the cutoff: damping stays in a register.
    const r = v128.load(pResonance);
    const k = dampingOf(r);
    v128.store(ks, k);
    storeSweep(pCutoff, k, gs, as, frames);
  } else if (!moving && !tracks) {
    keepCoefficients(state, v128.load(pCutoff), v128.load(pResonance));
    v128.store(gs, state.keptG);
    v128.store(as, state.keptA1);
    v128.store(ks, state.keptK);
  } else
    for (let f: u32 = 0, n: u32 = moving ? frames : 1; f < n; ++f) {
      const r = v128.load(pResonance);
      const k = dampingOf(r);
      v128.store(ks + (f << 4), k);
      storeCoefficients(
        shareOf(v128.load(pCutoff), v128.load(pTracking), v128.load(pPitch), tracks, perFrame),
        k,
        gs + (f << 4),
        as + (f << 4),
      );
      pCutoff += sCutoff;
      pResonance += sResonance;
      pTracking += sTracking;
      pPitch += sPitch;
    }
  const stride: usize = moving ? 16 : 0,
    kStride: usize = onlyCutoff ? 0 : stride;
  let source = input.row(g, frame),
    sourceStride = input.step(g);
  if (!isUndriven(state.drivenAt, pDrive, sDrive)) {
    const driven = scratch(INPUT);
    driveRow(state.drivenAt, source, sourceStride, pDrive, sDrive, driven, frames, input.isFixed, false);
    source = driven;
    sourceStride = 16;
  }
  const pMorph = morph.row(g, frame),
    sMorph = morph.step(g);
  outputs(
    m,
    g,
    frame,
    frames,
    state,
    source,
    sourceStride,
    gs,
    as,
    ks,
    stride,
    kStride,
    pMorph,
    sMorph,
    steep,
  );
  return false;
}

/** Every output asked for, each in a pass of its own from the same states; 24 dB adds a second section of its type. */
function outputs(
  m: P.Module,
  g: u32,
  frame: u32,
  frames: u32,
  state: P.State,
  source: usize,
  sourceStride: usize,
  gs: usize,
  as: usize,
  ks: usize,
  stride: usize,
  kStride: usize,
  pMorph: usize,
  sMorph: usize,
  steep: bool,
): void {
  const one = state.one,
    two = state.two;
  const between = scratch(BETWEEN);
  let any = false;
  for (let kind: u32 = 0; kind < OUTPUTS; ++kind) {
    const out = m.signal(P.OUT_LOW + (kind << 2));
    if (!out.isWanted) continue;
    if (any) {
      state.one = one;
      state.two = two;
    }
    any = true;
    const target = out.write(g, frame);
    runSection(
      kind,
      source,
      sourceStride,
      steep ? between : target,
      state.address,
      gs,
      as,
      ks,
      stride,
      kStride,
      pMorph,
      sMorph,
      frames,
    );
    if (steep)
      runSection(
        kind,
        between,
        16,
        target,
        state.secondAt + (kind << 5),
        gs,
        as,
        ks,
        stride,
        kStride,
        pMorph,
        sMorph,
        frames,
      );
  }
  if (!any)
    runSection(
      0,
      source,
      sourceStride,
      between,
      state.address,
      gs,
      as,
      ks,
      stride,
      kStride,
      pMorph,
      sMorph,
      frames,
    );
}

export function process(m: P.Module, frame: u32, frames: u32): void {
  const only = m.slope == P.SLOPE_12 ? onlyOutput(m) : OUTPUTS,
    groups = m.groups;
  let resting = true;
  for (let g: u32 = 0; g < groups; ++g) {
    if (
      only != OUTPUTS &&
      g + 1 < groups &&
      isSwept(m, g) &&
      isSwept(m, g + 1) &&
      m.morph.step(g) == m.morph.step(g + 1)
    ) {
      sweepPair(m, only, g, frame, frames);
      resting = false;
      ++g;
    } else if (!processGroup(m, g, frame, frames)) resting = false;
  }
  if (resting) m.rest();
}

/** Fit for running frame by frame while nothing moves but the sound, and one output of one section is asked for. */
export function processReady(m: P.Module, frames: u32): u32 {
  const groups = m.groups,
    kind = onlyOutput(m);
  if (kind == OUTPUTS || m.slope != P.SLOPE_12 || m.pitch.isCabled) return UNFIT;
  if (!m.in.isUniform(groups) || m.in.isConstant(0) || !m.morph.isFlat) return UNFIT;
  for (let g: u32 = 0; g < groups; ++g) {
    const state = m.state(g);
    if (!m.cutoff.isConstant(g) || !m.resonance.isConstant(g)) return UNFIT;
    if (!isUndriven(state.drivenAt, m.drive.row(g, 0), m.drive.step(g))) return UNFIT;
    keepCoefficients(state, m.cutoff.at(g, 0), m.resonance.at(g, 0));
  }
  m.state(0).only = i32x4.splat(<i32>kind);
  return FIT;
}

/** One frame, two groups at a time: each is a long chain. */
// @ts-ignore: decorator
@inline function frameOf(kind: u32, m: P.Module, f: u32): void {
  const input = m.in,
    stride = input.stride,
    morph = m.morph.at(0, 0);
  let p = input.row(0, f),
    at = m.stateAt(0),
    out = m.signal(P.OUT_LOW + (kind << 2)).start(0) + (f << 4);
  const groups = m.groups,
    end = out + groups * GROUP_BYTES;
  for (const even = out + (groups & ~1) * GROUP_BYTES; out < even; out += 2 * GROUP_BYTES) {
    const state = changetype<P.State>(at),
      state2 = changetype<P.State>(at + P.STATE_BYTES),
      x = v128.load(p),
      x2 = v128.load(p + stride),
      g = state.keptG,
      g2 = state2.keptG,
      one = state.one,
      one2 = state2.one,
      two = state.two,
      two2 = state2.two;
    const v1 = mul(state.keptA1, madd(g, sub(x, two), one)),
      w1 = mul(state2.keptA1, madd(g2, sub(x2, two2), one2)),
      v2 = madd(g, v1, two),
      w2 = madd(g2, w1, two2);
    state.one = sub(add(v1, v1), one);
    state2.one = sub(add(w1, w1), one2);
    state.two = sub(add(v2, v2), two);
    state2.two = sub(add(w2, w2), two2);
    v128.store(out, outputOf(kind, x, v1, v2, state.keptK, morph));
    v128.store(out + GROUP_BYTES, outputOf(kind, x2, w1, w2, state2.keptK, morph));
    p += stride << 1;
    at += 2 * P.STATE_BYTES;
  }
  if (out < end) {
    const state = changetype<P.State>(at),
      x = v128.load(p),
      g = state.keptG,
      one = state.one,
      two = state.two;
    const v1 = mul(state.keptA1, madd(g, sub(x, two), one)),
      v2 = madd(g, v1, two);
    state.one = sub(add(v1, v1), one);
    state.two = sub(add(v2, v2), two);
    v128.store(out, outputOf(kind, x, v1, v2, state.keptK, morph));
  }
}

export function processFrame(m: P.Module, f: u32): void {
  const kind = <u32>i32x4.extract_lane(m.state(0).only, 0);
  if (kind == 0) frameOf(0, m, f);
  else if (kind == 1) frameOf(1, m, f);
  else if (kind == 2) frameOf(2, m, f);
  else if (kind == 3) frameOf(3, m, f);
  else if (kind == 4) frameOf(4, m, f);
  else frameOf(5, m, f);
}
