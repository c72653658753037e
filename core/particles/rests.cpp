#include "core/particles/rests.h"

#include <algorithm>

namespace ember {

namespace {

Quaternion of_length_1(const Quaternion& q) {
    const float scale = 1 / std::sqrt(dot(q.v, q.v) + q.w * q.w);
    return {q.v * scale, q.w * scale};
}

// The shortest turn that lays an axis along a line; which way round does not matter.
Quaternion turn_onto(const Vec3& axis, Vec3 line) {
    line = dot(axis, line) < 0 ? line * -1.0f : line;
    return of_length_1({cross(axis, line), 1 + dot(axis, line)});
}

// How each particle is turned as it arrives.
std::vector<Quaternion> turns_of(const std::vector<Landing>& landings, const FormRow& form,
                                 const BlockKernels& kernels) {
    std::vector<Quaternion> turns;
    ParticleBlock block;
    BlockForms forms;
    for (size_t first = 0; first < landings.size(); first += block_size) {
        block.count = int(std::min<size_t>(landings.size() - first, block_size));
        for (int i = 0; i < block.count; ++i) {
            const Landing& landing = landings[first + size_t(i)];
            block.number[i] = landing.number;
            block.age[i] = landing.age;
            block.lifetime[i] = landing.lifetime;
            block.vx[i] = landing.velocity.x;
            block.vy[i] = landing.velocity.y;
            block.vz[i] = landing.velocity.z;
        }
        kernels.form(form, block, forms);
        for (int i = 0; i < block.count; ++i) {
            turns.push_back({{forms.turn_x[i], forms.turn_y[i], forms.turn_z[i]}, forms.turn_w[i]});
        }
    }
    return turns;
}

} // namespace

void Rests::update(const ParticleBlocks& blocks, const std::vector<Landing>& landings, const FormRow& form,
                   std::optional<int> flat_axis, const TurnOf& turn_of, const BlockKernels& kernels) {
    if (rests_.empty() && landings.empty()) {
        return;
    }
    const std::vector<Quaternion> turns = turns_of(landings, form, kernels);
    std::vector<Rest> kept;
    kept.reserve(rests_.size() + landings.size());
    size_t known = 0, landed = 0;
    for (const auto& block : blocks) {
        for (int i = 0; i < block->count; ++i) {
            const uint32_t number = block->number[i];
            const uint32_t on = block->mark[i].stuck_to();
            if (on == 0) {
                continue;
            }
            while (known < rests_.size() && rests_[known].number < number) {
                ++known;
            }
            while (landed < landings.size() && landings[landed].number < number) {
                ++landed;
            }
            if (landed < landings.size() && landings[landed].number == number) {
                Quaternion turn = turns[landed];
                if (flat_axis) {
                    const Axes axes = turn.axes();
                    const Vec3 thin = *flat_axis == 0 ? axes.x : *flat_axis == 1 ? axes.y : axes.z;
                    turn = of_length_1(turn_onto(thin, landings[landed].normal) * turn);
                }
                kept.push_back({number, turn});
            } else if (known < rests_.size() && rests_[known].number == number) {
                kept.push_back({number, of_length_1(turn_of(on, number) * rests_[known].turn)});
            }
        }
    }
    rests_ = std::move(kept);
}

void Rests::overlay(const ParticleBlock& block, BlockForms& forms) const {
    if (rests_.empty() || block.count == 0) {
        return;
    }
    auto rest = std::lower_bound(rests_.begin(), rests_.end(), block.number[0],
                                 [](const Rest& each, uint32_t number) { return each.number < number; });
    for (int i = 0; i < block.count && rest != rests_.end(); ++i) {
        if (block.number[i] == rest->number) {
            forms.turn_x[i] = rest->turn.v.x;
            forms.turn_y[i] = rest->turn.v.y;
            forms.turn_z[i] = rest->turn.v.z;
            forms.turn_w[i] = rest->turn.w;
            ++rest;
        }
    }
}

} // namespace ember
