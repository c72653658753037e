#include "core/particles/clip_play.h"

#include <algorithm>
#include <cmath>
#include <memory>

namespace ember {

ClipPart played_part(const Emitter& emitter, double clip_length_s) {
    const double to = emitter.clip_to > 0 ? std::min(double(emitter.clip_to), clip_length_s) : clip_length_s;
    return {std::min(double(emitter.clip_from), to), to};
}

std::optional<ClipTime> clip_time(const Emitter& emitter, const Clip& clip, double time_s) {
    const ClipPart part = played_part(emitter, clip.length_s());
    const double long_s = part.length_s();
    double played_s = (time_s - double(emitter.clip_start)) * double(emitter.clip_speed);
    if (played_s < 0 || long_s <= 0) {
        return std::nullopt;
    }
    uint32_t round = 0;
    if (played_s >= long_s) {
        switch (emitter.clip_end) {
        case ClipEnd::gone:
            return std::nullopt;
        case ClipEnd::held:
            played_s = long_s;
            break;
        case ClipEnd::again:
            round = uint32_t(std::min(played_s / long_s, 1e9));
            played_s -= double(round) * long_s;
            break;
        }
    }
    const double last = double(clip.frames.size()) - 1;
    double frame = (part.from_s + played_s) * clip.frames_per_s;
    // Times that are those of a frame but for rounding show that frame.
    constexpr double rounding = 1e-6;
    frame = std::abs(frame - std::round(frame)) < rounding ? std::round(frame) : frame;
    return ClipTime{std::min(frame, last), round};
}

ParticleBlocks clip_particles(const Emitter& emitter, const Clip& clip, const ClipTime& time,
                              const Placement& placed) {
    const auto number = size_t(time.frame);
    const auto share = float(time.frame - double(number));
    const std::vector<ClipParticle>& now = clip.frames[number];
    const std::vector<ClipParticle>& next = clip.frames[std::min(number + 1, clip.frames.size() - 1)];
    const bool is_last = number + 1 >= clip.frames.size();
    const auto rate = float(clip.frames_per_s);
    ParticleBlocks blocks;
    auto there = next.begin();
    size_t shown = 0;
    for (const ClipParticle& particle : now) {
        if (shown == size_t(emitter.capacity)) {
            break;
        }
        if (emitter.clip_source > 0 && particle.source + 1 != uint32_t(emitter.clip_source)) {
            continue;
        }
        const auto order = [](const ClipParticle& each) { return std::pair(each.source, each.number); };
        there =
            std::lower_bound(there, next.end(), particle, [&](const ClipParticle& a, const ClipParticle& b) {
                return order(a) < order(b);
            });
        const bool stays = !is_last && there != next.end() && order(*there) == order(particle);
        const Vec3 way = stays ? there->place - particle.place : Vec3();
        const Vec3 place = (particle.place + way * share) * emitter.scale;
        const Vec3 velocity = way * (rate * emitter.clip_speed * emitter.scale);
        if (blocks.empty() || blocks.back()->count == block_size) {
            blocks.push_back(std::make_unique<ParticleBlock>());
        }
        ParticleBlock& block = *blocks.back();
        const auto i = size_t(block.count++);
        const Vec3 in_world = placed.position + placed.axes.out(place), moving = placed.axes.out(velocity);
        block.x[i] = in_world.x;
        block.y[i] = in_world.y;
        block.z[i] = in_world.z;
        block.vx[i] = moving.x;
        block.vy[i] = moving.y;
        block.vz[i] = moving.z;
        block.age[i] = particle.age + (stays ? share / rate : 0);
        block.lifetime[i] = std::max(particle.lifetime, 1e-3f);
        block.size[i] = particle.size * emitter.scale;
        block.number[i] = particle.number + (particle.source << 24) + time.round * 0x9e3779b9u;
        block.mark[i].set_tint(particle.tint);
        ++shown;
    }
    return blocks;
}

} // namespace ember
