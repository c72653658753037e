// Compiled once for each instruction set; EMBER_ISA names the namespace (see core/CMakeLists.txt).
#include "core/particles/block_kernels.h"

#include "kernels/prelude_cpp.h"

namespace ember::EMBER_ISA {

#include "kernels/random.kern"

#include "kernels/noise.kern"

#include "kernels/forces.kern"

#include "kernels/motion.kern"

#include "kernels/birth.kern"

#include "kernels/collide.kern"

namespace {

void give_birth(const BirthRow& row, uint32_t first, int count, const float* waits, ParticleBlock& block) {
    for (int i = 0; i < count; i += lanes) {
        const kuint number = kuint(first + uint32_t(i)) + lane_index_uint();
        store3(block.x + i, block.y + i, block.z + i, birth_position(row, number));
        store3(block.vx + i, block.vy + i, block.vz + i, birth_velocity(row, number));
        store(block.lifetime + i,
              between(row.lifetime_low, row.lifetime_high, unit_random(row.seed, number, FOR_LIFETIME)));
        store(block.size + i, between(row.size_low, row.size_high, unit_random(row.seed, number, FOR_SIZE)));
        store(block.age + i, load(waits + i));
        store_uint(block.number + i, number);
    }
    block.count = count;
}

void clear(const ParticleBlock& block, ForceSums& sums) {
    for (int i = 0; i < block.count; i += lanes) {
        store3(sums.push_x + i, sums.push_y + i, sums.push_z + i, every_lane({}));
        store(sums.damping + i, real(0.0f));
    }
}

// Runs `add(position, velocity, push, damping)` over the block.
template <class Add>
void each_particle(const ParticleBlock& block, ForceSums& sums, Add add) {
    for (int i = 0; i < block.count; i += lanes) {
        rvec3 push = load3(sums.push_x + i, sums.push_y + i, sums.push_z + i);
        real damping = load(sums.damping + i);
        add(load3(block.x + i, block.y + i, block.z + i), load3(block.vx + i, block.vy + i, block.vz + i),
            push, damping);
        store3(sums.push_x + i, sums.push_y + i, sums.push_z + i, push);
        store(sums.damping + i, damping);
    }
}

void add_force(const ForceRow& row, const ParticleBlock& block, ForceSums& sums) {
    using V = const rvec3&;
    switch (row.kind) {
    case FORCE_PUSH:
        return each_particle(block, sums, [&](V, V, rvec3& push, real&) { add_push(row, push); });
    case FORCE_AIR:
        return each_particle(block, sums,
                             [&](V, V, rvec3& push, real& damping) { add_air(row, push, damping); });
    case FORCE_DRAG:
        return each_particle(block, sums,
                             [&](V, V velocity, rvec3&, real& damping) { add_drag(row, velocity, damping); });
    case FORCE_TURBULENCE:
        return each_particle(block, sums,
                             [&](V position, V, rvec3& push, real&) { add_turbulence(row, position, push); });
    default:
        return;
    }
}

void advance_block(const ForceSums& sums, float step_s, ParticleBlock& block, PathStarts& starts) {
    for (int i = 0; i < block.count; i += lanes) {
        rvec3 position = load3(block.x + i, block.y + i, block.z + i);
        rvec3 velocity = load3(block.vx + i, block.vy + i, block.vz + i);
        store3(starts.x + i, starts.y + i, starts.z + i, position);
        store3(starts.vx + i, starts.vy + i, starts.vz + i, velocity);
        const real age = load(block.age + i);
        // A newborn waits until its moment within the step.
        const real own_step = real(step_s) + min(age, real(0.0f));
        advance(load3(sums.push_x + i, sums.push_y + i, sums.push_z + i), load(sums.damping + i), own_step,
                position, velocity);
        store3(block.x + i, block.y + i, block.z + i, position);
        store3(block.vx + i, block.vy + i, block.vz + i, velocity);
        store(block.age + i, age + real(step_s));
    }
}

// Runs `meet` (a contact finder) and the response over the block.
template <class Meet>
void collide_with(const ColliderRow& row, const PathStarts& starts, float step_s, ParticleBlock& block,
                  Meet meet) {
    for (int i = 0; i < block.count; i += lanes) {
        const rvec3 start = load3(starts.x + i, starts.y + i, starts.z + i);
        rvec3 position = load3(block.x + i, block.y + i, block.z + i);
        const Contact contact = meet(row, start, position, load(block.size + i) * real(0.5f));
        if (!any_lane(contact.met)) {
            continue;
        }
        rvec3 velocity = load3(block.vx + i, block.vy + i, block.vz + i);
        const real own_step = min(load(block.age + i), real(step_s));
        respond(row, contact, load_uint(block.number + i), own_step,
                load3(starts.vx + i, starts.vy + i, starts.vz + i), position, velocity);
        store3(block.x + i, block.y + i, block.z + i, position);
        store3(block.vx + i, block.vy + i, block.vz + i, velocity);
    }
}

void collide(const ColliderRow& row, const PathStarts& starts, float step_s, ParticleBlock& block) {
    switch (row.kind) {
    case COLLIDER_PLANE:
        return collide_with(row, starts, step_s, block, meet_plane);
    case COLLIDER_BOX:
        return collide_with(row, starts, step_s, block, meet_box);
    default:
        return;
    }
}

} // namespace

extern const BlockKernels kernel_set = {give_birth, clear, add_force, advance_block, collide};

} // namespace ember::EMBER_ISA
