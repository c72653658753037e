#include "core/runtime/frame.h"

#include "core/particles/block.h"

#include <algorithm>

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
        bytes += source.particles.capacity() * sizeof(FrameParticle) +
                 source.marks.capacity() * sizeof(Mark) + source.blocks.capacity() * sizeof(FrameBlock);
    }
    return bytes;
}

} // namespace ember
