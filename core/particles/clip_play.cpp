#include "core/particles/clip_play.h"

#include <algorithm>
#include <cmath>
#include <memory>

namespace ember {

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
