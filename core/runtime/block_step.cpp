#include "core/runtime/block_step.h"

#include "core/base/stopwatch.h"

#include <algorithm>

namespace ember {

namespace {

ParticleEvent event_of(const BlockContext& context, const ParticleBlock& block, int i, float strength) {
    return {{block.x[i], block.y[i], block.z[i]},
            {block.vx[i], block.vy[i], block.vz[i]},
            context.colours->of(block, i),
            block.number[i],
            strength};
}

// What hit this collider: sticks to it or gives birth, as it may be.
void note_impacts(const BlockContext& context, size_t collider, const Impacts& impacts,
                  const PathStarts& starts, ParticleBlock& block, ParticleEvents& events) {
    for (int i = 0; i < block.count; ++i) {
        if (impacts.speed[i] <= 0 || block.mark[i].stuck_to() != 0) {
            continue;
        }
        // Tiny ones rest or slide.
        if (context.events.hits && impacts.speed[i] > 1e-3f) {
            events.hits.push_back(event_of(context, block, i, impacts.speed[i]));
        }
        if (context.program.colliders[collider].row.on_hit == HIT_STICK) {
            block.mark[i].stick_to(context.sticking_numbers[collider]);
            if (context.program.emitter->form != Form::round) {
                events.landings.push_back({block.number[i],
                                           block.age[i],
                                           block.lifetime[i],
                                           {starts.vx[i], starts.vy[i], starts.vz[i]},
                                           impacts.normal(i)});
            }
        }
    }
}

// What sticks moves with what it sticks to, whatever else acts on it; if that is gone, it is let go.
void carry_stuck(const BlockContext& context, const PathStarts& starts, float step_s, ParticleBlock& block,
                 const bool* was_stuck, ParticleEvents& events) {
    for (int i = 0; i < block.count; ++i) {
        const uint32_t number = block.mark[i].stuck_to();
        if (number == 0) {
            continue;
        }
        const auto& numbers = context.sticking_numbers;
        const auto found = std::find(numbers.begin(), numbers.end(), number);
        if (found == numbers.end()) {
            block.mark[i].stick_to(0);
            continue;
        }
        const auto collider = size_t(found - numbers.begin());
        const Vec3 start = {starts.x[i], starts.y[i], starts.z[i]};
        Vec3 place = {block.x[i], block.y[i], block.z[i]};
        const ColliderRow* held_by = &context.program.colliders[collider].row;
        if (held_by->kind == COLLIDER_HULL) {
            held_by = context.pieces.touching(was_stuck[i] ? start : place, block.size[i] * 0.5f,
                                              !was_stuck[i], context.program.colliders[collider].pieces.of);
            if (held_by == nullptr) {
                block.mark[i].stick_to(0);
                continue;
            }
            if (held_by->is_moving != 0 && context.program.emitter->form != Form::round) {
                events.carried.push_back(
                    {block.number[i],
                     Quaternion::of({held_by->turned_x, held_by->turned_y, held_by->turned_z})});
            }
        }
        const ColliderRow& row = *held_by;
        Vec3 velocity;
        if (row.is_moving != 0) {
            const Axes turned = {row.turned_x, row.turned_y, row.turned_z};
            if (was_stuck[i]) {
                place = row.position + turned.out(start - row.was_position);
            }
            velocity = (place - (row.was_position + turned.in(place - row.position))) / step_s;
        } else if (was_stuck[i]) {
            place = start;
        }
        block.x[i] = place.x;
        block.y[i] = place.y;
        block.z[i] = place.z;
        block.vx[i] = velocity.x;
        block.vy[i] = velocity.y;
        block.vz[i] = velocity.z;
    }
}

} // namespace

void step_block(const BlockContext& context, ParticleBlock& block, size_t block_index, float step_s,
                const BlockKernels& run, CostSheet& cost, ParticleEvents& events) {
    ForceSums sums;
    PathStarts starts;
    const SourceProgram& program = context.program;
    Stopwatch watch;
    const Stopwatch whole;

    run.clear(program.life, block, sums);
    for (const Influence<ForceRow>& force : program.forces) {
        const FoundPush found = force.row.kind == FORCE_FOUND
                                    ? context.found.of(force.element, context.source, block_index)
                                    : FoundPush();
        run.add_force(force.row, block, step_s, found, sums);
        const double ms = watch.lap_ms();
        cost.element_ms[force.element] += ms;
        cost.forces_ms += ms;
    }
    run.advance(program.life, sums, step_s, block, starts);
    const double motion_ms = watch.lap_ms();
    cost.element_ms[program.element] += motion_ms;
    cost.forces_ms += motion_ms;

    bool was_stuck[block_size];
    if (program.is_sticky) {
        std::transform(block.mark, block.mark + block.count, was_stuck,
                       [](const Mark& mark) { return mark.stuck_to() != 0; });
    }
    const bool notes_impacts = context.events.hits || program.is_sticky;
    Impacts impacts;
    for (size_t c = 0; c < program.colliders.size(); ++c) {
        const Influence<ColliderRow>& collider = program.colliders[c];
        if (collider.row.kind == COLLIDER_HULL) {
            context.pieces.collide(collider.row, collider.pieces, starts, step_s, block, impacts,
                                   events.pushes, run);
        } else {
            run.collide(collider.row, starts, step_s, block, notes_impacts ? &impacts : nullptr);
        }
        if (notes_impacts && collider.row.kind >= 0) {
            note_impacts(context, c, impacts, starts, block, events);
        }
        const double ms = watch.lap_ms();
        cost.element_ms[collider.element] += ms;
        cost.collision_ms += ms;
    }
    if (program.is_sticky) {
        carry_stuck(context, starts, step_s, block, was_stuck, events);
    } else {
        // What held them may be muted or unlinked.
        std::for_each_n(block.mark, block.count, [](Mark& mark) { mark.stick_to(0); });
    }
    if (context.events.deaths) {
        for (int i = 0; i < block.count; ++i) {
            if (block.age[i] >= block.lifetime[i]) {
                events.deaths.push_back(event_of(context, block, i, 0));
            }
        }
    }
    ParticlePool::bury(block);
    const double deaths_ms = watch.lap_ms();
    cost.element_ms[program.element] += deaths_ms;
    cost.deaths_ms += deaths_ms;
    cost.source_ms[program.element] += whole.elapsed_ms();
}

} // namespace ember
