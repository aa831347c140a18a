// A signal as kernels meet it: a header (see abi.ts) and its data, group by group, frame by frame.
import {
  SIGNAL_CABLED,
  SIGNAL_DATA,
  SIGNAL_FIXED,
  SIGNAL_GROUPS,
  SIGNAL_GROUP_STRIDE,
  SIGNAL_STAMP,
  SIGNAL_STRIDES,
  SIGNAL_WANTED,
} from "./abi";
import { segment } from "./time.as";


@unmanaged
export class Signal {

  @inline get address(): usize {
    return changetype<usize>(this);
  }
  /** False for set values and unconnected ports. */
  @inline get isCabled(): bool {
    return load<u32>(this.address, SIGNAL_CABLED) != 0;
  }
  /** True when somebody reads this output; kernels skip the others. */
  @inline get isWanted(): bool {
    return load<u32>(this.address, SIGNAL_WANTED) != 0;
  }
  /** True inside feedback loops: always written frame by frame. */
  @inline get isFixed(): bool {
    return load<u32>(this.address, SIGNAL_FIXED) != 0;
  }


  @inline get groups(): u32 {
    return load<u32>(this.address, SIGNAL_GROUPS);
  }
  /** Bytes from a group to the next. */
  @inline get stride(): usize {
    return load<u32>(this.address, SIGNAL_GROUP_STRIDE);
  }
  /** True when it is one vector for all groups that stands still, as a set value is. */
  @inline get isFlat(): bool {
    return (this.stride | this.step(0)) == 0;
  }
  /** True when its groups all move or all stand still: then a frame of one tells where the others' is. */
  isUniform(groups: u32): bool {
    const step = this.step(0);
    for (let g: u32 = 1; g < groups; ++g) if (this.step(g) != step) return false;
    return true;
  }
  /** First frame of a group. */
  @inline start(group: u32): usize {
    return <usize>load<u32>(this.address, SIGNAL_DATA) + group * load<u32>(this.address, SIGNAL_GROUP_STRIDE);
  }
  /** Bytes from one frame to the next: 0 while it is constant. */
  @inline step(group: u32): usize {
    return load<u32>(this.address + (group << 2), SIGNAL_STRIDES);
  }


  @inline setStep(group: u32, step: u32): void {
    store<u32>(this.address + (group << 2), step, SIGNAL_STRIDES);
  }


  @inline isConstant(group: u32): bool {
    return this.step(group) == 0;
  }
  /** Where a frame of a group is read; the next is a `step` further. */
  @inline row(group: u32, frame: u32): usize {
    return this.start(group) + frame * this.step(group);
  }
  /** One sample vector. */
  @inline at(group: u32, frame: u32): v128 {
    return v128.load(this.row(group, frame));
  }
  /** Opens a group of an output for writing frame by frame; where its first frame goes. */
  @inline write(group: u32, frame: u32): usize {
    this.setStep(group, 16);
    return this.start(group) + (frame << 4);
  }
  /** Writes one sample vector, where anybody reads it. */
  @inline put(group: u32, frame: u32, value: v128): void {
    if (this.isWanted) v128.store(this.write(group, frame), value);
  }


  @inline markChanged(): void {
    store<u32>(this.address, segment, SIGNAL_STAMP);
  }

  /** Writes one value for all frames: as a constant, or frame by frame inside a loop. */
  fill(group: u32, frame: u32, frames: u32, value: v128): void {
    if (!this.isWanted) return;
    const data = this.start(group);
    if (this.isFixed) {
      this.setStep(group, 16);
      for (let p = data + (frame << 4), end = p + (frames << 4); p < end; p += 16) v128.store(p, value);
    } else {
      if (this.isConstant(group) && !v128.any_true(v128.xor(v128.load(data), value))) return;
      this.setStep(group, 0);
      this.markChanged();
      v128.store(data, value);
    }
  }

  /** Copies a row of vectors, where anybody reads it; silence where `row` is 0. */
  putRow(group: u32, frame: u32, frames: u32, row: usize): void {
    if (!this.isWanted) return;
    const out = this.write(group, frame);
    if (row) memory.copy(out, row, frames << 4);
    else memory.fill(out, 0, frames << 4);
  }

  /** Makes what was just written at `frame` the constant of a group. */
  hold(group: u32, frame: u32, frames: u32): void {
    const data = this.start(group),
      value = v128.load(data + (frame << 4));
    this.markChanged();
    if (this.isFixed) {
      for (let p = data + (frame << 4), end = p + (frames << 4); p < end; p += 16) v128.store(p, value);
    } else {
      this.setStep(group, 0);
      v128.store(data, value);
    }
  }

  /** True when it is constant and has been since before a segment. */
  @inline isQuietSince(since: u32): bool {
    return (
      !v128.any_true(
        v128.or(v128.load(this.address, SIGNAL_STRIDES), v128.load(this.address, SIGNAL_STRIDES + 16)),
      ) && load<u32>(this.address, SIGNAL_STAMP) <= since
    );
  }
}

const zeroVector: usize = memory.data(16, 16);
const oneVector: usize = memory.data<f32>([1, 1, 1, 1], 16);
/** Constant zero, all groups: read where nothing is connected. */
export const ZERO: Signal = changetype<Signal>(memory.data(64, 16));
/** Constant one: factors of parameters without modulation. */
export const ONE: Signal = changetype<Signal>(memory.data(64, 16));
export function zeroSignal(): usize {
  store<u32>(ZERO.address, <u32>zeroVector, SIGNAL_DATA);
  return ZERO.address;
}
export function oneSignal(): usize {
  store<u32>(ONE.address, <u32>oneVector, SIGNAL_DATA);
  return ONE.address;
}
