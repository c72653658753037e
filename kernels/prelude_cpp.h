// The C++ side of the language that kernels are written in (prelude.glsl is the other side).
//
// A kernel is a pure function on `real`, `rvec3`, `kuint` and masks, one lane for each particle or cell. The same
// text is compiled once for each instruction set; EMBER_ISA names the namespace it lands in, so that no two
// builds of a function can be mixed up by the linker:
//
//     lane types            the same for all lanes
//     real, rvec3           uni, uni3          float
//     kuint                 unuint, unint      32-bit integers
//     kmask                                    the result of comparing reals
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

#define KERNEL inline
#define IN(type) const type&
#define INOUT(type) type&

namespace ember::EMBER_ISA {

#ifdef EMBER_SCALAR

using real = float;
using kuint = uint32_t;
using kmask = bool;
constexpr int lanes = 1;

inline real load(const float* from)
{
    return *from;
}
inline kuint load_uint(const uint32_t* from)
{
    return *from;
}
inline void store(float* to, real value)
{
    *to = value;
}
inline void store_uint(uint32_t* to, kuint value)
{
    *to = value;
}
inline real lane_index()
{
    return 0;
}
inline kuint lane_index_uint()
{
    return 0;
}
inline real sel(kmask mask, real a, real b)
{
    return mask ? a : b;
}
inline bool any_lane(kmask mask)
{
    return mask;
}
inline kuint to_kuint(real whole)
{
    return uint32_t(int32_t(whole));
}
inline real signed_real(kuint bits)
{
    return float(int32_t(bits));
}
inline real floor(real a)
{
    return std::floor(a);
}
inline real sqrt(real a)
{
    return std::sqrt(a);
}
inline real abs(real a)
{
    return std::fabs(a);
}
inline real min(real a, real b)
{
    return b < a ? b : a;
}
inline real max(real a, real b)
{
    return a < b ? b : a;
}
inline real exp(real a)
{
    return std::exp(a);
}
inline real sin(real a)
{
    return std::sin(a);
}
inline real cos(real a)
{
    return std::cos(a);
}

#else

using real = xsimd::batch<float>;
using kuint = xsimd::batch<uint32_t>;
using kmask = xsimd::batch_bool<float>;
constexpr int lanes = int(real::size);

inline real load(const float* from)
{
    return real::load_aligned(from);
}
inline kuint load_uint(const uint32_t* from)
{
    return kuint::load_aligned(from);
}
inline void store(float* to, real value)
{
    value.store_aligned(to);
}
inline void store_uint(uint32_t* to, kuint value)
{
    value.store_aligned(to);
}
inline real lane_index()
{
    alignas(64) static constexpr float index[16] = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15};
    return real::load_aligned(index);
}
inline kuint lane_index_uint()
{
    alignas(64) static constexpr uint32_t index[16] = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15};
    return kuint::load_aligned(index);
}
inline real sel(kmask mask, real a, real b)
{
    return xsimd::select(mask, a, b);
}
inline bool any_lane(kmask mask)
{
    return xsimd::any(mask);
}
inline kuint to_kuint(real whole)
{
    return xsimd::bitwise_cast<kuint>(xsimd::to_int(whole));
}
inline real signed_real(kuint bits)
{
    return xsimd::to_float(xsimd::bitwise_cast<xsimd::batch<int32_t>>(bits));
}
inline real floor(real a)
{
    return xsimd::floor(a);
}
inline real sqrt(real a)
{
    return xsimd::sqrt(a);
}
inline real abs(real a)
{
    return xsimd::abs(a);
}
inline real min(real a, real b)
{
    return xsimd::min(a, b);
}
inline real max(real a, real b)
{
    return xsimd::max(a, b);
}
inline real exp(real a)
{
    return xsimd::exp(a);
}
inline real sin(real a)
{
    return xsimd::sin(a);
}
inline real cos(real a)
{
    return xsimd::cos(a);
}

#endif

using rvec3 = Vec3Of<real>;

/// A number below 2^31 as a real.
inline real to_real(kuint small)
{
    return signed_real(small);
}
/// The same vector in every lane.
inline rvec3 every_lane(const Vec3& v)
{
    return {real(v.x), real(v.y), real(v.z)};
}
inline kmask both(kmask a, kmask b)
{
    return a && b;
}
inline kmask either(kmask a, kmask b)
{
    return a || b;
}
inline rvec3 sel3(kmask mask, const rvec3& a, const rvec3& b)
{
    return {sel(mask, a.x, b.x), sel(mask, a.y, b.y), sel(mask, a.z, b.z)};
}
inline rvec3 floor3(const rvec3& a)
{
    return {floor(a.x), floor(a.y), floor(a.z)};
}

inline rvec3 load3(const float* x, const float* y, const float* z)
{
    return {load(x), load(y), load(z)};
}
inline void store3(float* x, float* y, float* z, const rvec3& v)
{
    store(x, v.x);
    store(y, v.y);
    store(z, v.z);
}

} // namespace ember::EMBER_ISA
