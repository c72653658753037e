#include "core/runtime/frame.h"

#include "core/blocks/block.h"

#include <algorithm>
#include <bit>
#include <cmath>

namespace ember {

FrameBlock FrameBlock::around(const float* x, const float* y, const float* z, size_t first, int count) {
    const auto range = [count](const float* values, float& low, float& unit) {
        const auto [least, largest] = std::minmax_element(values, values + count);
        low = *least;
        unit = std::max(*largest - *least, 1e-6f) / float(most);
    };
    FrameBlock block;
    block.first = first;
    block.count = count;
    range(x, block.low.x, block.unit.x);
    range(y, block.low.y, block.unit.y);
    range(z, block.low.z, block.unit.z);
    return block;
}

void FrameBlock::set_place(const Vec3& place, FrameParticle& particle) const {
    const auto units = [](float from_low, float one) {
        return std::min(uint32_t(std::max(from_low / one + 0.5f, 0.0f)), most);
    };
    const uint32_t x = units(place.x - low.x, unit.x), y = units(place.y - low.y, unit.y),
                   z = units(place.z - low.z, unit.z);
    particle.low_bits = x | (y & 0x7ffu) << 21;
    particle.high_bits = y >> 11 | z << 10;
}

namespace {

// Of a quaternion the largest part follows from the others, none of which exceeds the square root of a half.
constexpr float form_range = 0.70711f;
constexpr float form_steps = 1023;
// Stretch is kept as the middle bits of its float: four of the exponent, from 2^-8 up, and six of the
// fraction.
constexpr int stretch_shift = 17;
constexpr uint32_t stretch_least = (127 - 8) << 6;

} // namespace

FrameForm FrameForm::of(const Quaternion& turn, const Vec3& stretch) {
    const float parts[4] = {turn.v.x, turn.v.y, turn.v.z, turn.w};
    uint32_t largest = 0;
    for (uint32_t i = 1; i < 4; ++i) {
        largest = std::fabs(parts[i]) > std::fabs(parts[largest]) ? i : largest;
    }
    const auto bits = [](float share) { return uint32_t(std::clamp(share, 0.0f, 1.0f) * form_steps + 0.5f); };
    FrameForm form;
    form.turn_bits = largest;
    for (uint32_t i = 0; i < 4; ++i) {
        if (i != largest) {
            const float part = parts[largest] < 0 ? -parts[i] : parts[i];
            form.turn_bits = form.turn_bits << 10 | bits((part / form_range + 1) * 0.5f);
        }
    }
    for (const float factor : {stretch.x, stretch.y, stretch.z}) {
        const uint32_t rounded =
            (std::bit_cast<uint32_t>(factor) + (1u << (stretch_shift - 1))) >> stretch_shift;
        form.stretch_bits = form.stretch_bits << 10 |
                            (std::clamp(rounded, stretch_least, stretch_least + 1023) - stretch_least);
    }
    return form;
}

Axes FrameForm::axes() const {
    const uint32_t largest = turn_bits >> 30;
    float parts[4];
    float rest = 1;
    for (uint32_t i = 0, shift = 20; i < 4; ++i) {
        if (i != largest) {
            parts[i] = (float(turn_bits >> shift & 1023u) / form_steps * 2 - 1) * form_range;
            rest -= parts[i] * parts[i];
            shift -= 10;
        }
    }
    parts[largest] = std::sqrt(std::max(rest, 0.0f));
    return Quaternion{{parts[0], parts[1], parts[2]}, parts[3]}.axes();
}

Vec3 FrameForm::stretch() const {
    const auto factor = [this](int shift) {
        const uint32_t bits = stretch_bits >> shift & 1023u;
        return bits == 0 ? 0.0f : std::bit_cast<float>((bits + stretch_least) << stretch_shift);
    };
    return {factor(20), factor(10), factor(0)};
}

void FrameSource::add(const std::vector<Vec3>& places, float age_share, float size) {
    float x[block_size], y[block_size], z[block_size];
    for (size_t done = 0; done < places.size(); done += block_size) {
        const auto count = int(std::min<size_t>(block_size, places.size() - done));
        for (int i = 0; i < count; ++i) {
            const Vec3& place = places[done + size_t(i)];
            x[i] = place.x;
            y[i] = place.y;
            z[i] = place.z;
        }
        blocks.push_back(FrameBlock::around(x, y, z, particles.size(), count));
        for (int i = 0; i < count; ++i) {
            FrameParticle particle;
            blocks.back().set_place(places[done + size_t(i)], particle);
            particle.age_share = uint16_t(age_share * 65535);
            particle.size_share = uint16_t(size / largest_size * 65535);
            particles.push_back(particle);
        }
    }
}

FrameMotion FrameMotion::of(const Vec3& velocity, float fastest) {
    const float scale = 32767 / std::max(fastest, 1e-9f);
    const auto part = [scale](float v) { return int16_t(std::clamp(v * scale, -32767.0f, 32767.0f)); };
    return {part(velocity.x), part(velocity.y), part(velocity.z)};
}

Vec3 FrameSource::position(size_t particle) const {
    const auto after = std::upper_bound(blocks.begin(), blocks.end(), particle,
                                        [](size_t at, const FrameBlock& block) { return at < block.first; });
    return (after - 1)->place(particles[particle]);
}

size_t Frame::particle_count() const {
    size_t count = 0;
    for (const FrameSource& source : sources) {
        count += source.particles.size();
    }
    return count;
}

size_t Frame::bytes() const {
    size_t bytes = 0;
    for (const FrameSource& source : sources) {
        bytes +=
            source.particles.capacity() * sizeof(FrameParticle) + source.marks.capacity() * sizeof(Mark) +
            source.forms.capacity() * sizeof(FrameForm) + source.motions.capacity() * sizeof(FrameMotion) +
            source.numbers.capacity() * sizeof(uint32_t) + source.trails.capacity() * sizeof(FrameTrail) +
            source.trail_points.capacity() * sizeof(FrameTrailPoint) +
            source.blocks.capacity() * sizeof(FrameBlock);
    }
    return bytes;
}

} // namespace ember
