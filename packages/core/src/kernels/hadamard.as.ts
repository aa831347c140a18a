// The Hadamard matrix of 16, scaled to be orthogonal, over 16 vectors in memory: two rounds of four-point butterflies.
import { add, mul, splat, sub } from "./simd.as";

/** Sixteenths of the matrix: 1 / sqrt 16, exactly. */
const SCALE: f32 = 0.25;


@inline function butterfly(at: usize, apart: usize, scale: bool): void {
  const a = v128.load(at),
    b = v128.load(at + apart),
    c = v128.load(at + 2 * apart),
    d = v128.load(at + 3 * apart);
  const s0 = add(a, b),
    s1 = sub(a, b),
    s2 = add(c, d),
    s3 = sub(c, d);
  let w = add(s0, s2),
    x = add(s1, s3),
    y = sub(s0, s2),
    z = sub(s1, s3);
  if (scale) {
    const k = splat(SCALE);
    w = mul(w, k);
    x = mul(x, k);
    y = mul(y, k);
    z = mul(z, k);
  }
  v128.store(at, w);
  v128.store(at + apart, x);
  v128.store(at + 2 * apart, y);
  v128.store(at + 3 * apart, z);
}

/** In place. */
export function hadamard16(at: usize): void {
  for (let n: usize = 0; n < 256; n += 64) butterfly(at + n, 16, false);
  for (let n: usize = 0; n < 64; n += 16) butterfly(at + n, 64, true);
}

/** Four vectors in a row as a square: rows become columns. */
@inline export function transpose(at: usize): void {
  const a = v128.load(at),
    b = v128.load(at, 16),
    c = v128.load(at, 32),
    d = v128.load(at, 48);
  const ab0 = v128.shuffle<i32>(a, b, 0, 4, 1, 5),
    ab1 = v128.shuffle<i32>(a, b, 2, 6, 3, 7),
    cd0 = v128.shuffle<i32>(c, d, 0, 4, 1, 5),
    cd1 = v128.shuffle<i32>(c, d, 2, 6, 3, 7);
  v128.store(at, v128.shuffle<i64>(ab0, cd0, 0, 2));
  v128.store(at, v128.shuffle<i64>(ab0, cd0, 1, 3), 16);
  v128.store(at, v128.shuffle<i64>(ab1, cd1, 0, 2), 32);
  v128.store(at, v128.shuffle<i64>(ab1, cd1, 1, 3), 48);
}
