#include "core/runtime/neighbourhood.h"

#include "core/base/stopwatch.h"
#include "core/blocks/neighbours.h"
#include "core/scene/placements.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr size_t particles_a_task = 256;

// The sources that take part in one influence.
std::vector<size_t> partners(const std::vector<RunningSource>& sources, size_t element, auto list_of) {
    std::vector<size_t> result;
    for (size_t s = 0; s < sources.size(); ++s) {
        const auto& list = list_of(*sources[s].program);
        if (sources[s].pool->live() > 0 && std::any_of(list.begin(), list.end(), [&](const auto& influence) {
                return influence.element == element;
            })) {
            result.push_back(s);
        }
    }
    return result;
}

std::vector<NeighbourSource> as_neighbours(const std::vector<RunningSource>& sources,
                                           const std::vector<size_t>& chosen) {
    std::vector<NeighbourSource> result;
    for (const size_t s : chosen) {
        const SourceProgram& program = *sources[s].program;
        result.push_back({&sources[s].pool->blocks(), program.birth.seed, program.emitter->mass.low,
                          program.emitter->mass.high});
    }
    return result;
}

// Runs `visit(source, block index, place of the block's first particle)` over all blocks, in the order of
// neighbours_of().
void each_block(const std::vector<RunningSource>& sources, const std::vector<size_t>& chosen, auto visit) {
    struct Stretch {
        size_t source, block, first;
    };
    std::vector<Stretch> stretches;
    size_t first = 0;
    for (const size_t s : chosen) {
        const auto& blocks = sources[s].pool->blocks();
        for (size_t b = 0; b < blocks.size(); ++b) {
            stretches.push_back({s, b, first});
            first += size_t(blocks[b]->count);
        }
    }
    tbb::parallel_for(size_t(0), stretches.size(),
                      [&](size_t i) { visit(stretches[i].source, stretches[i].block, stretches[i].first); });
}

void each_task(size_t count, auto run) {
    tbb::parallel_for(size_t(0), (count + particles_a_task - 1) / particles_a_task, [&](size_t task) {
        run(task * particles_a_task, std::min(count, (task + 1) * particles_a_task));
    });
}

// Rates as means over the step, so that even the highest only takes up the whole difference.
struct FlockRates {
    FlockRates(const Flock& flock, double step_s)
        : align(rate(flock.alignment, step_s)), cruise(rate(flock.cruise_grip, step_s)) {}
    static float rate(float per_second, double step_s) {
        return float((1 - std::exp(-double(per_second) * step_s)) / step_s);
    }
    float align, cruise;
};

// What one animal makes of what it sees (C. W. Reynolds, "Flocks, Herds, and Schools", 1987).
Vec3 flock_push(const Flock& flock, const FlockRates& rates, const FlockResult& sees, const Vec3& position,
                const Vec3& velocity, const Vec3* feared) {
    Vec3 push = sees.apart * flock.separation;
    if (sees.seen > 0) {
        push += (sees.heading / sees.seen - velocity) * rates.align;
        push += sees.middle * (flock.cohesion / (sees.seen * flock.view));
    }
    const float speed = length(velocity);
    const Vec3 forward = normalized(velocity, {1, 0, 0});
    push += forward * ((flock.cruise - speed) * rates.cruise);
    if (feared != nullptr) {
        const Vec3 away = position - *feared;
        const float near = std::max(1 - length(away) / flock.fear_distance, 0.0f);
        push += normalized(away) * (flock.fear * near * near);
    }
    return push;
}

} // namespace

FoundPush FoundPushes::of(size_t influence, size_t source, size_t block) const {
    const auto found = by_influence_and_source_.find({influence, source});
    if (found == by_influence_and_source_.end()) {
        return {};
    }
    const Block& pushes = found->second[block];
    return {pushes.x, pushes.y, pushes.z};
}

FoundPushes find_pushes(const std::vector<RunningSource>& sources, const PreparedEffect& prepared,
                        const StepTime& time, const StepPlacements& placed, const BlockKernels& kernels,
                        Meters& meters) {
    FoundPushes found;
    const Effect& effect = *prepared.effect;
    for (size_t element = 0; element < effect.elements.size(); ++element) {
        const auto* flock = std::get_if<Flock>(&effect.elements[element].body);
        if (flock == nullptr) {
            continue;
        }
        const std::vector<size_t> chosen = partners(
            sources, element, [](const SourceProgram& p) -> auto& { return p.forces; });
        if (chosen.empty()) {
            continue;
        }
        Stopwatch watch;
        const Neighbours all = neighbours_of(as_neighbours(sources, chosen), flock->view, kernels.chance);
        std::vector<FlockResult> results(all.count);
        const FlockRow row = {flock->view, flock->view * flock->separation_share};
        each_task(all.count,
                  [&](size_t first, size_t last) { kernels.flock(row, all, first, last, results.data()); });

        const auto feared = prepared.index_of(flock->fears);
        const Vec3 fear_place = feared ? placed.middle[*feared].position : Vec3();
        const FlockRates rates(*flock, time.step_s);
        for (const size_t s : chosen) {
            found.by_influence_and_source_[{element, s}] =
                std::make_unique<FoundPushes::Block[]>(sources[s].pool->blocks().size());
        }
        each_block(sources, chosen, [&](size_t s, size_t b, size_t first) {
            const ParticleBlock& block = *sources[s].pool->blocks()[b];
            FoundPushes::Block& out = found.by_influence_and_source_.at({element, s})[b];
            for (int i = 0; i < block.count; ++i) {
                const Vec3 push = flock_push(
                    *flock, rates, results[first + size_t(i)], {block.x[i], block.y[i], block.z[i]},
                    {block.vx[i], block.vy[i], block.vz[i]}, feared ? &fear_place : nullptr);
                out.x[i] = push.x;
                out.y[i] = push.y;
                out.z[i] = push.z;
            }
        });
        const double ms = watch.elapsed_ms();
        meters.elements[element].ms += ms;
        meters.forces_ms += ms;
    }
    return found;
}

void let_collide(const std::vector<RunningSource>& sources, const PreparedEffect& prepared,
                 const StepTime& time, const BlockKernels& kernels, Meters& meters) {
    const Effect& effect = *prepared.effect;
    for (size_t element = 0; element < effect.elements.size(); ++element) {
        const auto* contacts = std::get_if<Contacts>(&effect.elements[element].body);
        if (contacts == nullptr) {
            continue;
        }
        const std::vector<size_t> chosen = partners(
            sources, element, [](const SourceProgram& p) -> auto& { return p.colliders; });
        if (chosen.empty()) {
            continue;
        }
        Stopwatch watch;
        float largest = 0;
        for (const size_t s : chosen) {
            largest = std::max(largest, sources[s].program->birth.size_high);
        }
        // Two at the largest reach each other from neighbouring cells.
        const float cell = std::max(largest * contacts->radius_share, 1e-3f);
        const Neighbours all = neighbours_of(as_neighbours(sources, chosen), cell, kernels.chance);
        std::vector<ContactResult> results(all.count);
        const ContactRow row = {contacts->radius_share, contacts->bounce};
        std::vector<float> counts(all.x.size());
        const auto step = float(time.step_s);
        each_task(all.count, [&](size_t first, size_t last) {
            kernels.count_contacts(row, all, step, first, last, counts.data());
        });
        each_task(all.count, [&](size_t first, size_t last) {
            kernels.contacts(row, all, counts, step, first, last, results.data());
        });
        each_block(sources, chosen, [&](size_t s, size_t b, size_t first) {
            ParticleBlock& block = *sources[s].pool->blocks()[b];
            const auto& influences = sources[s].program->colliders;
            const auto& own = *std::find_if(influences.begin(), influences.end(),
                                            [&](const auto& each) { return each.element == element; });
            for (int i = 0; i < block.count; ++i) {
                const ContactResult& result = results[first + size_t(i)];
                if (result.kick == Vec3() && result.shift == Vec3()) {
                    continue;
                }
                const Vec3 place = {block.x[i], block.y[i], block.z[i]};
                const float share = own.weight * kernels.reach_share(own.row.reach, place);
                block.x[i] += result.shift.x * share;
                block.y[i] += result.shift.y * share;
                block.z[i] += result.shift.z * share;
                block.vx[i] += result.kick.x * share;
                block.vy[i] += result.kick.y * share;
                block.vz[i] += result.kick.z * share;
            }
        });
        const double ms = watch.elapsed_ms();
        meters.elements[element].ms += ms;
        meters.collision_ms += ms;
    }
}

} // namespace ember
