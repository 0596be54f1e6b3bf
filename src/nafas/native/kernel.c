// The inner loops of measuring and writing. Each stands next to a NumPy way that does the same and is the reference
// (tests/sound/test_native.py). Only operations that every machine rounds alike: no fused multiply-add, no reordering,
// vectors of 16 bytes at most. No Python.h: the library is called through ctypes, without Python's lock.

#include <math.h>
#include <stddef.h>
#include <stdint.h>
#include <string.h>
#ifdef __SSE2__
#include <emmintrin.h>
#endif

typedef double pair __attribute__((vector_size(16)));
typedef float four __attribute__((vector_size(16)));
typedef int32_t ints __attribute__((vector_size(16)));

static four load(const float *x) {
    four v;
    memcpy(&v, x, sizeof v);
    return v;
}

// Absolute values as integers: of floats that are not negative, the larger one has the larger bits.
static ints magnitude(four v) {
    return (ints)v & 0x7fffffff;
}

static ints larger(ints a, ints b) {
    ints mask = a > b;
    return (a & mask) | (b & ~mask);
}

static float highest_of(ints m) {
    int32_t top = m[0];
    for (int k = 1; k < 4; k++) top = m[k] > top ? m[k] : top;
    float value;
    memcpy(&value, &top, sizeof value);
    return value;
}

// What rings on in silence for seconds becomes numbers too small to be calculated with quickly: nothing, then.
static pair normal(pair z) {
    for (int s = 0; s < 2; s++)
        if (fabs(z[s]) < 1e-30) z[s] = 0;
    return z;
}

// K-weighting (two second-order sections) of `hops` runs of `hop` samples, and the mean of left squared, right squared
// and left times right of each run. `right` is NULL for one channel.
// c: b0 b1 b2 a1 a2 of each section. state: two values of each section, left and right of each.
// What a section keeps is calculated from its input and from what it kept, not from its output: so one sample waits for
// a multiplication and a subtraction of the sample before, not for twice as many.
void nafas_k_powers(const float *left, const float *right, int64_t hops, int64_t hop, const double *c, double *state,
                    double *powers) {
    pair z[4];
    memcpy(z, state, sizeof z);
    pair z0 = z[0], z1 = z[1], z2 = z[2], z3 = z[3];
    const float *other = right ? right : left;
    double d1 = c[1] - c[3] * c[0], d2 = c[2] - c[4] * c[0], e1 = c[6] - c[8] * c[5], e2 = c[7] - c[9] * c[5];
    for (int64_t h = 0; h < hops; h++) {
        pair squares = {0, 0};
        double cross = 0;
        for (int64_t i = 0; i < hop; i++, left++, other++) {
            pair x = {*left, *other};
            pair y = c[0] * x + z0;
            pair next = (d1 * x + z1) - c[3] * z0;
            z1 = d2 * x - c[4] * z0;
            z0 = next;
            pair w = c[5] * y + z2;
            next = (e1 * y + z3) - c[8] * z2;
            z3 = e2 * y - c[9] * z2;
            z2 = next;
            squares += w * w;
            cross += w[0] * w[1];
        }
        powers[3 * h] = squares[0] / hop;
        powers[3 * h + 1] = squares[1] / hop;
        powers[3 * h + 2] = cross / hop;
        z0 = normal(z0), z1 = normal(z1), z2 = normal(z2), z3 = normal(z3);
    }
    z[0] = z0, z[1] = z1, z[2] = z2, z[3] = z3;
    memcpy(state, z, sizeof z);
}

enum { SIDE = 8, PIECE = 64, TAPS = 2 * SIDE + 1 };

// The highest absolute value after four-times oversampling between samples SIDE and SIDE + size of `piece`, at most PIECE
// of them; where it cannot be above `floor`, a bound that is not above it either. taps: four phases. bound: the filter's
// absolute sum; slope, bend: see the second bound in true_peak.py.
static float piece_peak(const float *piece, int64_t size, float floor, const float *taps, float bound, float slope, float bend) {
    int64_t wide = size + 2 * SIDE, i = 0;
    ints most = {0, 0, 0, 0}, bent = {0, 0, 0, 0}, top = {0, 0, 0, 0};
    for (; i + 4 <= wide; i += 4) most = larger(magnitude(load(piece + i)), most);
    float high = highest_of(most);
    for (; i < wide; i++) high = fabsf(piece[i]) > high ? fabsf(piece[i]) : high;
    if (high * bound <= floor) return high * bound;
    for (i = 0; i + 6 <= wide; i += 4) {
        four a = load(piece + i), b = load(piece + i + 1), d = load(piece + i + 2);
        bent = larger(magnitude((d - b) - (b - a)), bent);
    }
    float turn = highest_of(bent);
    for (; i + 2 < wide; i++) {
        float t = fabsf((piece[i + 2] - piece[i + 1]) - (piece[i + 1] - piece[i]));
        turn = t > turn ? t : turn;
    }
    float second = (slope * high + bend * turn) * 1.000001f;
    if (second <= floor) return second;
    for (i = 0; i + 4 <= size; i += 4)
        for (int phase = 0; phase < 4; phase++) {
            four sum = {0, 0, 0, 0};
            for (int t = 0; t < TAPS; t++) sum += taps[phase * TAPS + t] * load(piece + i + t);
            top = larger(magnitude(sum), top);
        }
    float found = highest_of(top);
    for (; i < size; i++)
        for (int phase = 0; phase < 4; phase++) {
            float sum = 0;
            for (int t = 0; t < TAPS; t++) sum += taps[phase * TAPS + t] * piece[i + t];
            found = fabsf(sum) > found ? fabsf(sum) : found;
        }
    return found;
}

// The highest of all of them, or `floor` where none is above it.
float nafas_highest_peak(const float *x, int64_t n, float floor, const float *taps, float bound, float slope, float bend) {
    int64_t last = n - 2 * SIDE;
    for (int64_t p = 0; p < last; p += PIECE) {
        float found = piece_peak(x + p, last - p < PIECE ? last - p : PIECE, floor, taps, bound, slope, bend);
        floor = found > floor ? found : floor;
    }
    return floor;
}

// Raise each of `peaks` to the highest of its run of PIECE samples, or a bound of it where it is not above `limit`.
void nafas_piece_peaks(const float *x, int64_t n, float limit, const float *taps, float bound, float slope, float bend,
                       double *peaks) {
    int64_t last = n - 2 * SIDE;
    for (int64_t p = 0; p < last; p += PIECE) {
        float found = piece_peak(x + p, last - p < PIECE ? last - p : PIECE, limit, taps, bound, slope, bend);
        if (found > peaks[p / PIECE]) peaks[p / PIECE] = found;
    }
}

// Multiply samples `first` to `first + n` of a stretch by a gain that goes straight from the middle of one of its pieces
// of `size` samples to the middle of the next; `curve` has one value for each of `count` pieces. `x` is the first of n.
void nafas_glide(float *x, int64_t n, int64_t first, const double *curve, int64_t count, int64_t size) {
    for (int64_t i = 0; i < n;) {
        int64_t at = first + i, k = (2 * at - size) / (2 * size), end;
        double begin, slope = 0;
        if (2 * at < size || count < 2) k = 0, end = count < 2 ? n : (size + 1) / 2 - first, begin = curve[0];
        else if (k >= count - 1) end = n, begin = curve[count - 1];
        else end = ((2 * k + 3) * size + 1) / 2 - first, begin = curve[k], slope = (curve[k + 1] - begin) / size;
        double middle = (k + 0.5) * size;
        for (end = end < n ? end : n; i < end; i++) x[i] *= (float)(slope * ((double)(first + i) - middle) + begin);
    }
}

// Samples as whole steps of 24 bits, rounded to nearest and clipped, three bytes each, frame by frame.
void nafas_pack24(const float *left, const float *right, int64_t n, uint8_t *out) {
    int32_t steps[2 * 256];
    int channels = right ? 2 : 1;
    for (int64_t at = 0; at < n; at += 256) {
        int64_t size = n - at < 256 ? n - at : 256;
        for (int s = 0; s < channels; s++) {
            const float *x = (s ? right : left) + at;
            int64_t i = 0;
#ifdef __SSE2__
            const __m128 full = _mm_set1_ps(8388608.f), low = _mm_set1_ps(-8388608.f), high = _mm_set1_ps(8388607.f);
            for (; i + 4 <= size; i += 4) {
                __m128 v = _mm_min_ps(_mm_max_ps(_mm_mul_ps(_mm_loadu_ps(x + i), full), low), high);
                int32_t four_steps[4];
                _mm_storeu_si128((__m128i *)four_steps, _mm_cvtps_epi32(v));
                for (int k = 0; k < 4; k++) steps[channels * (i + k) + s] = four_steps[k];
            }
#endif
            for (; i < size; i++) {
                float v = x[i] * 8388608.f;
                v = v < -8388608.f ? -8388608.f : v > 8388607.f ? 8388607.f : v;
                steps[channels * i + s] = (int32_t)lrintf(v);
            }
        }
        uint8_t *o = out + 3 * channels * at;
        int64_t many = channels * size;
        for (int64_t k = 0; k + 1 < many; k++) memcpy(o + 3 * k, steps + k, 4);  // the fourth byte is written over
        memcpy(o + 3 * (many - 1), steps + many - 1, 3);
    }
}

// Packed frames of 24 bits as floats, channel by channel, full scale 1. Little-endian machines only, as packing is.
void nafas_unpack24(const uint8_t *data, int64_t n, float *left, float *right) {
    const float scale = 4.656612873077393e-10f;  // 2 to the -31
    if (right) {
        for (int64_t i = 0; i < n; i++) {
            int32_t a, b;
            memcpy(&a, data + 6 * i, 4);
            memcpy(&b, data + 6 * i + 2, 4);
            left[i] = (float)(int32_t)((uint32_t)a << 8) * scale;
            right[i] = (float)(int32_t)((uint32_t)b & 0xffffff00u) * scale;
        }
        return;
    }
    for (int64_t i = 0; i < n; i++) {
        const uint8_t *d = data + 3 * i;
        uint32_t a = (uint32_t)d[0] << 8 | (uint32_t)d[1] << 16 | (uint32_t)d[2] << 24;
        left[i] = (float)(int32_t)a * scale;
    }
}

// Multiply by a level that runs straight in dB: 10 to the (first + slope * i) / 20, i from 0. `right` may be NULL.
void nafas_ramp(float *left, float *right, int64_t n, double first, double slope) {
    double steps[64], step = pow(10, slope / 20), power = 1;
    for (int i = 0; i < 64; i++, power *= step) steps[i] = power;
    for (int64_t at = 0; at < n; at += 64) {
        double level = pow(10, (first + slope * (double)at) / 20);
        int64_t size = n - at < 64 ? n - at : 64;
        for (int64_t i = 0; i < size; i++) left[at + i] *= (float)(level * steps[i]);
        if (right)
            for (int64_t i = 0; i < size; i++) right[at + i] *= (float)(level * steps[i]);
    }
}

// Add `n` samples of a loop of `length` samples, from its sample `at` on and around, to what is there, times `gains`
// (NULL: as they are).
void nafas_add_around(float *out, int64_t n, const float *loop, int64_t length, int64_t at, const float *gains) {
    for (int64_t done = 0; done < n; at = 0) {
        int64_t size = n - done < length - at ? n - done : length - at;
        const float *x = loop + at;
        float *o = out + done;
        if (gains)
            for (int64_t i = 0; i < size; i++) o[i] += x[i] * gains[done + i];
        else
            for (int64_t i = 0; i < size; i++) o[i] += x[i];
        done += size;
    }
}
