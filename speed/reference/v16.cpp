// Reference for the speed suite: the patch V16 written by hand, fused, 4 lanes wide, with two-point BLEPs.
// 16 voices × (3 saws → state-variable filter, cutoff moved by an envelope at audio rate → amplifier, second envelope).
// Prints seconds of sound rendered per second of work. Build: g++ -O3 -msse4.1 v16.cpp -o v16
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <smmintrin.h>

typedef __m128 v4;
static inline v4 S(float x) { return _mm_set1_ps(x); }
static inline v4 pick(v4 mask, v4 a, v4 b) { return _mm_blendv_ps(b, a, mask); }

static inline v4 exp2v(v4 x) {
  v4 whole = _mm_round_ps(x, _MM_FROUND_TO_NEAREST_INT | _MM_FROUND_NO_EXC);
  v4 f = _mm_sub_ps(x, whole);
  v4 y = S(1.3333558e-3f);
  y = _mm_add_ps(_mm_mul_ps(y, f), S(9.6181291e-3f));
  y = _mm_add_ps(_mm_mul_ps(y, f), S(5.5504109e-2f));
  y = _mm_add_ps(_mm_mul_ps(y, f), S(2.4022651e-1f));
  y = _mm_add_ps(_mm_mul_ps(y, f), S(6.9314718e-1f));
  y = _mm_add_ps(_mm_mul_ps(y, f), S(1.f));
  __m128i e = _mm_slli_epi32(_mm_add_epi32(_mm_cvtps_epi32(whole), _mm_set1_epi32(127)), 23);
  return _mm_mul_ps(y, _mm_castsi128_ps(e));
}

static inline v4 tanHalf(v4 u) {
  v4 y = _mm_mul_ps(u, S(1.5707963268f)), y2 = _mm_mul_ps(y, y);
  v4 n = _mm_mul_ps(y, _mm_add_ps(_mm_mul_ps(_mm_sub_ps(y2, S(105.f)), y2), S(945.f)));
  v4 d = _mm_add_ps(_mm_mul_ps(_mm_add_ps(_mm_mul_ps(y2, S(15.f)), S(-420.f)), y2), S(945.f));
  return _mm_div_ps(_mm_mul_ps(_mm_add_ps(n, n), d), _mm_mul_ps(_mm_sub_ps(d, n), _mm_add_ps(d, n)));
}

// Two-point polynomial BLEP around the wrap.
static inline v4 saw(v4& p, v4 inc, v4 inverse) {
  v4 y = _mm_sub_ps(_mm_add_ps(p, p), S(1.f));
  v4 early = _mm_cmplt_ps(p, inc), late = _mm_cmpgt_ps(p, _mm_sub_ps(S(1.f), inc));
  v4 a = _mm_sub_ps(_mm_mul_ps(p, inverse), S(1.f));
  v4 b = _mm_add_ps(_mm_mul_ps(_mm_sub_ps(p, S(1.f)), inverse), S(1.f));
  y = _mm_add_ps(y, _mm_and_ps(early, _mm_mul_ps(a, a)));
  y = _mm_sub_ps(y, _mm_and_ps(late, _mm_mul_ps(b, b)));
  p = _mm_add_ps(p, inc);
  p = _mm_sub_ps(p, _mm_and_ps(_mm_cmpge_ps(p, S(1.f)), S(1.f)));
  return y;
}

struct Envelope { v4 level, target, rate; };
static inline v4 step(Envelope& e) {
  e.level = _mm_add_ps(e.level, _mm_mul_ps(_mm_sub_ps(e.target, e.level), e.rate));
  return e.level;
}

int main(int argc, char** argv) {
  const float rate = 48000.f;
  const int seconds = argc > 1 ? atoi(argv[1]) : 20, blocks = seconds * 375;
  v4 phase[4][3], inc[4][3], inverse[4][3], one[4], two[4];
  Envelope filter[4], amp[4];
  for (int g = 0; g < 4; ++g) {
    for (int o = 0; o < 3; ++o) {
      float f[4];
      for (int k = 0; k < 4; ++k) f[k] = 261.6256f * powf(2.f, ((g * 4 + k) * 2 - 12) / 12.f + (o - 1) * 0.004f) / rate;
      inc[g][o] = _mm_loadu_ps(f);
      inverse[g][o] = _mm_div_ps(S(1.f), inc[g][o]);
      phase[g][o] = S(0.1f * o);
    }
    one[g] = two[g] = S(0.f);
    filter[g] = { S(0.f), S(1.f), S(0.0004f) };
    amp[g] = { S(0.f), S(1.f), S(0.002f) };
  }
  float sum = 0;
  static float out[128];
  auto start = std::chrono::steady_clock::now();
  for (int block = 0; block < blocks; ++block) {
    if (block % 100 == 0) for (int g = 0; g < 4; ++g) filter[g].target = S(1.f), amp[g].target = S(1.f);
    if (block % 100 == 50) for (int g = 0; g < 4; ++g) filter[g].target = S(0.2f), amp[g].target = S(0.1f);
    for (int i = 0; i < 128; ++i) {
      v4 mixed = S(0.f);
      for (int g = 0; g < 4; ++g) {
        v4 x = _mm_add_ps(_mm_add_ps(saw(phase[g][0], inc[g][0], inverse[g][0]), saw(phase[g][1], inc[g][1], inverse[g][1])), saw(phase[g][2], inc[g][2], inverse[g][2]));
        v4 cutoff = _mm_mul_ps(S(400.f), exp2v(_mm_mul_ps(step(filter[g]), S(3.f))));
        v4 t = tanHalf(_mm_min_ps(_mm_mul_ps(cutoff, S(1.f / rate)), S(0.495f)));
        v4 k = S(1.2f);
        v4 a1 = _mm_div_ps(S(1.f), _mm_add_ps(S(1.f), _mm_mul_ps(t, _mm_add_ps(t, k))));
        v4 v3 = _mm_sub_ps(x, two[g]);
        v4 v1 = _mm_mul_ps(a1, _mm_add_ps(one[g], _mm_mul_ps(t, v3)));
        v4 v2 = _mm_add_ps(two[g], _mm_mul_ps(t, v1));
        one[g] = _mm_sub_ps(_mm_add_ps(v1, v1), one[g]);
        two[g] = _mm_sub_ps(_mm_add_ps(v2, v2), two[g]);
        mixed = _mm_add_ps(mixed, _mm_mul_ps(v2, step(amp[g])));
      }
      float lanes[4];
      _mm_storeu_ps(lanes, mixed);
      out[i] = lanes[0] + lanes[1] + lanes[2] + lanes[3];
    }
    sum += out[17];
  }
  double took = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  printf("%.2f\n", seconds / took);
  return sum == 12345.f;
}
