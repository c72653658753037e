// The C++ side of the language that kernels are written in (prelude.glsl is the other side).
//
// A kernel is a pure function on `real`, `rvec3`, `kuint` and masks, one lane for each particle or cell. The
// same text is compiled once for each instruction set; EMBER_ISA names the namespace it lands in, so that no
// two builds of a function can be mixed up by the linker:
//
//     lane types            the same for all lanes
//     real, rvec3           uni, uni3          float
//     kuint                 unuint, unint      32-bit integers
//     kmask                                    the result of comparing reals
//                           TABLE              where a table of floats begins; fetch(table, whole number)
//
// `sel(mask, a, b)` takes the place of branches on lane values.
#pragma once

#include "kernels/rows.h"
#include "kernels/vec3.h"

#include <cmath>
#include <cstdint>

#ifndef EMBER_ISA
#error "define EMBER_ISA as scalar, v2 or avx2 before including a kernel"
#endif

#ifndef EMBER_SCALAR
#include <xsimd/xsimd.hpp>
#endif

#define KERNEL [[gnu::always_inline]] inline
#define IN(type) const type&
#define INOUT(type) type&

namespace ember::EMBER_ISA {

#ifdef EMBER_SCALAR

using real = float;
using kuint = uint32_t;
using kmask = bool;
constexpr int lanes = 1;

KERNEL real load(const float* from) {
    return *from;
}
KERNEL kuint load_uint(const uint32_t* from) {
    return *from;
}
KERNEL void store(float* to, real value) {
    *to = value;
}
KERNEL void store_uint(uint32_t* to, kuint value) {
    *to = value;
}
KERNEL real load_any(const float* from) {
    return *from;
}
KERNEL void store_any(float* to, real value) {
    *to = value;
}
KERNEL real lane_index() {
    return 0;
}
KERNEL kuint lane_index_uint() {
    return 0;
}
KERNEL real sel(kmask mask, real a, real b) {
    return mask ? a : b;
}
KERNEL bool any_lane(kmask mask) {
    return mask;
}
KERNEL kuint whole_quotient(kuint a, unuint by) {
    return a / by;
}
KERNEL kuint to_kuint(real whole) {
    return uint32_t(int32_t(whole));
}
KERNEL real signed_real(kuint bits) {
    return float(int32_t(bits));
}
KERNEL real floor(real a) {
    return std::floor(a);
}
KERNEL real sqrt(real a) {
    return std::sqrt(a);
}
KERNEL real abs(real a) {
    return std::fabs(a);
}
KERNEL real min(real a, real b) {
    return b < a ? b : a;
}
KERNEL real max(real a, real b) {
    return a < b ? b : a;
}
KERNEL real exp(real a) {
    return std::exp(a);
}
KERNEL real sin(real a) {
    return std::sin(a);
}
KERNEL real cos(real a) {
    return std::cos(a);
}
KERNEL real pow(real a, real b) {
    return std::pow(a, b);
}
KERNEL real fetch(TABLE table, real index) {
    return table[int32_t(index)];
}
KERNEL void fetch_pair(TABLE table, real index, INOUT(real) entry, INOUT(real) next) {
    entry = table[int32_t(index)];
    next = table[int32_t(index) + 1];
}
KERNEL kuint fetch_bits(const uint32_t* table, kuint index) {
    return table[index];
}

#else

using real = xsimd::batch<float>;
using kuint = xsimd::batch<uint32_t>;
using kmask = xsimd::batch_bool<float>;
constexpr int lanes = int(real::size);

KERNEL real load(const float* from) {
    return real::load_aligned(from);
}
KERNEL kuint load_uint(const uint32_t* from) {
    return kuint::load_aligned(from);
}
KERNEL void store(float* to, real value) {
    value.store_aligned(to);
}
KERNEL void store_uint(uint32_t* to, kuint value) {
    value.store_aligned(to);
}
/// From and to anywhere, not only where a register's boundary is.
KERNEL real load_any(const float* from) {
    return real::load_unaligned(from);
}
KERNEL void store_any(float* to, real value) {
    value.store_unaligned(to);
}
KERNEL real lane_index() {
    alignas(64) static constexpr float index[16] = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15};
    return real::load_aligned(index);
}
KERNEL kuint lane_index_uint() {
    alignas(64) static constexpr uint32_t index[16] = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15};
    return kuint::load_aligned(index);
}
KERNEL real sel(kmask mask, real a, real b) {
    return xsimd::select(mask, a, b);
}
KERNEL bool any_lane(kmask mask) {
    return xsimd::any(mask);
}
KERNEL kuint whole_quotient(kuint a, unuint by) {
    alignas(64) uint32_t each[lanes];
    a.store_aligned(each);
    for (uint32_t& lane : each) {
        lane /= by;
    }
    return kuint::load_aligned(each);
}
KERNEL kuint to_kuint(real whole) {
    return xsimd::bitwise_cast<kuint>(xsimd::to_int(whole));
}
KERNEL real signed_real(kuint bits) {
    return xsimd::to_float(xsimd::bitwise_cast<xsimd::batch<int32_t>>(bits));
}
KERNEL real floor(real a) {
    return xsimd::floor(a);
}
KERNEL real sqrt(real a) {
    return xsimd::sqrt(a);
}
KERNEL real abs(real a) {
    return xsimd::abs(a);
}
KERNEL real min(real a, real b) {
    return xsimd::min(a, b);
}
KERNEL real max(real a, real b) {
    return xsimd::max(a, b);
}
KERNEL real exp(real a) {
    return xsimd::exp(a);
}
/// The sine of an angle that is so many quarter turns further. The library's own takes another way by the
/// largest angle of the register, so that the last digit of one lane would depend on what the others hold;
/// here each lane is by itself (polynomials: S. Moshier, "Methods and Programs for Mathematical Functions",
/// 1989).
KERNEL real sine_after(real angle, real quarters_more) {
    real quarters = xsimd::nearbyint(angle * real(0.636619772f));
    real rest = angle - quarters * real(1.5703125f) - quarters * real(4.837512969970703e-4f) -
                quarters * real(7.549789954891882e-8f);
    real z = rest * rest;
    real sine =
        ((real(-1.9515295891e-4f) * z + real(8.3321608736e-3f)) * z - real(1.6666654611e-1f)) * z * rest +
        rest;
    real cosine =
        ((real(2.443315711809948e-5f) * z - real(1.388731625493765e-3f)) * z + real(4.166664568298827e-2f)) *
            z * z -
        real(0.5f) * z + real(1.0f);
    quarters = quarters + quarters_more;
    real of_two = quarters - real(2.0f) * xsimd::floor(quarters * real(0.5f));
    real of_four = quarters - real(4.0f) * xsimd::floor(quarters * real(0.25f));
    real turned = xsimd::select(of_two > real(0.5f), cosine, sine);
    return xsimd::select(of_four > real(1.5f), real(0.0f) - turned, turned);
}
KERNEL real sin(real a) {
    return sine_after(a, real(0.0f));
}
KERNEL real cos(real a) {
    return sine_after(a, real(1.0f));
}
KERNEL real pow(real a, real b) {
    return xsimd::pow(a, b);
}
KERNEL real gathered(const float* table, xsimd::batch<int32_t> index) {
#ifdef __AVX2__
    // Two indices a register, then entry by entry: the processor's own gather takes 2.6 times as long where
    // it is guarded against leaks, the library's way through memory longer still.
    const __m256i at = index;
    const __m128i low = _mm256_castsi256_si128(at), high = _mm256_extracti128_si256(at, 1);
    const int64_t a = _mm_cvtsi128_si64(low), b = _mm_extract_epi64(low, 1);
    const int64_t c = _mm_cvtsi128_si64(high), d = _mm_extract_epi64(high, 1);
    return _mm256_setr_ps(table[int32_t(a)], table[a >> 32], table[int32_t(b)], table[b >> 32],
                          table[int32_t(c)], table[c >> 32], table[int32_t(d)], table[d >> 32]);
#else
    return real::gather(table, index);
#endif
}
KERNEL real fetch(TABLE table, real index) {
    return gathered(table, xsimd::to_int(index));
}
/// What a table holds at an index, and at the next one.
KERNEL void fetch_pair(TABLE table, real index, INOUT(real) entry, INOUT(real) next) {
#ifdef __AVX2__
    // The same way; both numbers are read at once.
    const __m256i at = xsimd::to_int(index);
    const __m128i low = _mm256_castsi256_si128(at), high = _mm256_extracti128_si256(at, 1);
    const auto two_pairs = [&](int64_t indices) {
        const auto pair_at = [&](int64_t i) { return reinterpret_cast<const __m64*>(table + i); };
        return _mm_loadh_pi(_mm_loadl_pi(_mm_setzero_ps(), pair_at(int32_t(indices))),
                            pair_at(indices >> 32));
    };
    const __m256 first =
        _mm256_set_m128(two_pairs(_mm_cvtsi128_si64(high)), two_pairs(_mm_cvtsi128_si64(low)));
    const __m256 last =
        _mm256_set_m128(two_pairs(_mm_extract_epi64(high, 1)), two_pairs(_mm_extract_epi64(low, 1)));
    entry = _mm256_shuffle_ps(first, last, 0x88);
    next = _mm256_shuffle_ps(first, last, 0xdd);
#else
    entry = fetch(table, index);
    next = fetch(table, index + real(1.0f));
#endif
}
/// Entries below 2^31.
KERNEL kuint fetch_bits(const uint32_t* table, kuint index) {
    return xsimd::bitwise_cast<kuint>(
        gathered(reinterpret_cast<const float*>(table), xsimd::bitwise_cast<xsimd::batch<int32_t>>(index)));
}

#endif

using rvec3 = Vec3Of<real>;

#ifndef EMBER_SCALAR
KERNEL uni min(uni a, uni b) {
    return b < a ? b : a;
}
KERNEL uni max(uni a, uni b) {
    return a < b ? b : a;
}
KERNEL uni sqrt(uni a) {
    return std::sqrt(a);
}
KERNEL uni sel(bool mask, uni a, uni b) {
    return mask ? a : b;
}
#endif

/// A number below 2^31 as a real.
KERNEL real to_real(kuint small) {
    return signed_real(small);
}
/// The same vector in every lane.
KERNEL rvec3 every_lane(const Vec3& v) {
    return {real(v.x), real(v.y), real(v.z)};
}
/// An entry of a table that is the same for all lanes.
KERNEL uni fetch_uni(TABLE table, unint index) {
    return table[index];
}
KERNEL kmask both(kmask a, kmask b) {
    return a && b;
}
KERNEL kmask either(kmask a, kmask b) {
    return a || b;
}
KERNEL rvec3 sel3(kmask mask, const rvec3& a, const rvec3& b) {
    return {sel(mask, a.x, b.x), sel(mask, a.y, b.y), sel(mask, a.z, b.z)};
}
KERNEL rvec3 floor3(const rvec3& a) {
    return {floor(a.x), floor(a.y), floor(a.z)};
}

KERNEL rvec3 load3(const float* x, const float* y, const float* z) {
    return {load(x), load(y), load(z)};
}
KERNEL void store3(float* x, float* y, float* z, const rvec3& v) {
    store(x, v.x);
    store(y, v.y);
    store(z, v.z);
}

} // namespace ember::EMBER_ISA
