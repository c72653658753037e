// What a picture is drawn from: a copy of the particles that nobody writes to any more, and where things
// stand.
#pragma once

#include "core/assets/assets.h"
#include "core/base/axes.h"
#include "core/blocks/mark.h"
#include "core/debris/frame_debris.h"
#include "core/effect/drive.h"
#include "core/scene/field.h"
#include "core/scene/giving.h"
#include "core/scene/meters.h"
#include "core/smoke/frame_smoke.h"
#include "kernels/rows.h"

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

namespace ember {

/// 12 bytes; a million of them are copied at every step. The place is a whole number of units of its block,
/// 21 bits for each axis: fine enough for any picture, and a particle far off makes only its own block
/// coarser.
struct FrameParticle {
    uint32_t low_bits = 0;   // x, and the lower 11 bits of y
    uint32_t high_bits = 0;  // the upper 10 bits of y, and z
    uint16_t age_share = 0;  // share of its life, of 65535
    uint16_t size_share = 0; // share of FrameSource::largest_size, of 65535
};

/// Particles that follow one another, with the box they are in.
struct FrameBlock {
    static constexpr uint32_t most = (1u << 21) - 1;

    Vec3 low;  // m
    Vec3 unit; // m
    size_t first = 0;
    int count = 0;

    static FrameBlock around(const float* x, const float* y, const float* z, size_t first, int count);
    void set_place(const Vec3& place, FrameParticle& particle) const;
    Vec3 place(const FrameParticle& p) const {
        const uint32_t y = p.low_bits >> 21 | (p.high_bits & 0x3ffu) << 11;
        return {low.x + unit.x * float(p.low_bits & most), low.y + unit.y * float(y),
                low.z + unit.z * float(p.high_bits >> 10)};
    }
};

/// How a particle lies in space, in 8 bytes: its turn to a fifth of a degree, its stretch along each of its
/// own axes to a percent, up to 64 times and down to a 64th.
struct FrameForm {
    uint32_t turn_bits = 0;
    uint32_t stretch_bits = 0;

    /// No stretch may be negative.
    static FrameForm of(const Quaternion& turn, const Vec3& stretch);
    Axes axes() const;
    Vec3 stretch() const;
};

/// A particle's velocity, as shares of FrameSource::fastest, of 32767.
struct FrameMotion {
    int16_t x = 0, y = 0, z = 0;

    static FrameMotion of(const Vec3& velocity, float fastest);
    Vec3 velocity(float fastest) const { return Vec3{float(x), float(y), float(z)} * (fastest / 32767); }
};

struct FrameTrailPoint {
    Vec3 place;
    float share = 0; // of the trail: 0 at the particle, 1 at its end
};

/// The way that a particle came, from where it is back.
struct FrameTrail {
    uint32_t first = 0, count = 0; // of FrameSource::trail_points
    float age_share = 0;           // of the particle's life
    float size = 0;                // m
    Mark mark;
};

struct FrameSource {
    size_t element = 0;                   // index in Effect::elements
    float largest_size = 0;               // m
    float fastest = 0;                    // m/s, along any axis
    std::vector<FrameBlock> blocks;       // one after the other
    std::vector<FrameParticle> particles; // in order of birth
    std::vector<Mark> marks;              // empty if no particle has a tint of its own
    std::vector<FrameForm> forms;         // empty if all are round
    std::vector<uint32_t> numbers;        // in order of birth; empty if nothing needs them
    std::vector<FrameTrail> trails;       // empty if it has none
    std::vector<FrameTrailPoint> trail_points;
    std::vector<FrameMotion> motions; // empty if nothing is blurred or drawn out along them

    /// Appends particles that are alike; for frames that are put together by hand. `largest_size` must be
    /// set.
    void add(const std::vector<Vec3>& places, float age_share, float size);
    /// The place of one particle; slow.
    Vec3 position(size_t particle) const;
};

/// A solid collider that is to be seen, where it stands.
struct FrameCollider {
    ColliderRow row;
    Colour colour;
    std::shared_ptr<const void> grid; // keeps what the row points to
    float mirror = 0, puddles = 0;    // of a plane
};

/// A lamp, where it stands.
struct FrameLight {
    Vec3 position;
    Vec3 direction;                       // length 1, into the middle of the cone
    Vec3 light;                           // on a surface that faces it at one metre
    float reach = 1;                      // m
    float cos_outer = -2, cos_inner = -2; // of the cone's rim; -2: all round
    bool shadows = true;
    size_t element = 0; // in Frame::effect
    bool operator==(const FrameLight&) const = default;
};

/// A particle that hit a collider.
struct FrameContact {
    Vec3 position;
    float speed = 0; // with which it came, along the normal, m/s
};

struct Frame {
    EffectPtr effect; // the one that this step ran with, as the document has it
    EffectPtr now;    // and as it was in that step: driven, and as triggers have it
    double time_s = 0;
    uint64_t step = 0;
    double kept_to_s = 0;     // until when it has been played: later than time_s if one has gone back
    size_t kept_bytes = 0;    // that what has been played takes
    bool is_replayed = false; // what comes next is a take's
    Gives gives{};            // in that step
    std::vector<FrameSource> sources;
    std::vector<std::shared_ptr<const FrameSmoke>> smokes;
    std::vector<FrameDebris> debris;
    std::vector<FrameCollider> colliders;
    std::vector<FrameLight> lights;
    std::shared_ptr<const Assets> assets;      // what looks and the stage draw with; may be null
    std::vector<Placement> placements;         // of all elements of `effect`
    std::vector<ModulatorValue> modulators;    // as they were in that step
    std::shared_ptr<const FieldReading> field; // if a lens asked for it
    std::vector<FrameContact> contacts;        // of this step, if they are noted
    Meters meters;

    size_t particle_count() const;
    size_t bytes() const;
};

} // namespace ember
