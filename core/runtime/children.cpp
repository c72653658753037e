#include "core/runtime/children.h"

#include "core/base/hash.h"
#include "core/base/stopwatch.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// The running source with this id, or the count of sources.
size_t find_source(const PreparedEffect& prepared, const std::vector<RunningSource>& sources,
                   const std::string& id) {
    for (size_t s = 0; s < sources.size(); ++s) {
        if (prepared.effect->elements[sources[s].program->element].id == id) {
            return s;
        }
    }
    return sources.size();
}

// Children of what happened to parents.
BirthList births_of_events(const Emitter& emitter, uint32_t seed, const std::vector<ParticleEvent>& events,
                           uint64_t step, const BlockKernels& kernels) {
    BirthList births;
    for (const ParticleEvent& event : events) {
        // A parent may be hit in many steps: each is another draw.
        const bool happens =
            kernels.chance(seed + uint32_t(step) * 0x9e3779b9u, event.number, FOR_CHANCE) < emitter.chance;
        if (!happens || event.strength < (emitter.when == ChildWhen::hit ? emitter.least_impact : 0.0f)) {
            continue;
        }
        const Colour tint = Colour::mixed({}, event.colour, emitter.colour_share);
        const BirthOrigin origin{event.position, event.velocity * emitter.inherited_velocity, 0, tint};
        const size_t room =
            size_t(emitter.capacity) - std::min(size_t(emitter.capacity), births.origins.size());
        births.origins.insert(births.origins.end(), std::min(size_t(emitter.per_parent_count), room), origin);
        births.due += uint64_t(emitter.per_parent_count);
    }
    return births;
}

// A place on the face along which a bond broke, the same for the same number.
Vec3 place_on_face(const PieceEvent& event, uint32_t seed, uint32_t number) {
    const auto& face = event.cut->bonds[event.bond].face;
    const auto random = [&](uint32_t what) {
        return float(mixed_seed(mixed_seed(seed, number), what) >> 8) / 16777216.0f;
    };
    std::vector<float> up_to;
    float area = 0;
    for (const auto& t : face) {
        up_to.push_back(area += length(cross(t[1] - t[0], t[2] - t[0])));
    }
    const auto found = std::lower_bound(up_to.begin(), up_to.end(), random(1) * area);
    const auto& t =
        face[size_t(std::min<std::ptrdiff_t>(found - up_to.begin(), std::ptrdiff_t(face.size()) - 1))];
    const float across = std::sqrt(random(2)),
                along = random(3); // even over a triangle (R. Osada et al., 2002)
    const Vec3 place = t[0] * (1 - across) + t[1] * (across * (1 - along)) + t[2] * (across * along);
    return event.whole.position + event.whole.axes.out(place);
}

// Children of what happened to pieces.
BirthList births_of_pieces(const Emitter& emitter, uint32_t seed, const PieceEvents& events, uint64_t step,
                           const BlockKernels& kernels) {
    const std::vector<PieceEvent>& list = emitter.when == ChildWhen::broken ? events.broken
                                          : emitter.when == ChildWhen::hit  ? events.hits
                                          : emitter.when == ChildWhen::rest ? events.rests
                                                                            : events.cleared;
    BirthList births;
    const uint32_t draw = seed + uint32_t(step) * 0x9e3779b9u;
    for (const PieceEvent& event : list) {
        const bool happens = kernels.chance(draw, event.number, FOR_CHANCE) < emitter.chance;
        if (!happens || (emitter.when == ChildWhen::hit && event.strength < emitter.least_impact)) {
            continue;
        }
        births.due += uint64_t(emitter.per_parent_count);
        for (int k = 0; k < emitter.per_parent_count && births.origins.size() < size_t(emitter.capacity);
             ++k) {
            const bool on_face = emitter.shape == BirthShape::broken && event.cut;
            const Vec3 place =
                on_face ? place_on_face(event, mixed_seed(draw, event.number), uint32_t(k)) : event.place;
            births.origins.push_back({place, event.velocity * emitter.inherited_velocity, 0, {}});
        }
    }
    return births;
}

// Children through a parent's whole life: the moments at which rate times age passes whole numbers, shifted
// by a phase of its own for each parent.
BirthList births_of_the_living(const Emitter& emitter, uint32_t seed, const Effect& effect,
                               const RunningSource& parent, double step_s, const BlockKernels& kernels) {
    BirthList births;
    const ParentColours colours(effect, *parent.program->emitter);
    const double rate = double(emitter.per_parent_rate);
    if (rate <= 0) {
        return births;
    }
    for (const auto& block : parent.pool->blocks()) {
        for (int i = 0; i < block->count; ++i) {
            const double phase = double(kernels.chance(seed, block->number[i], FOR_PHASE));
            const double age = double(block->age[i]);
            const double before = std::floor(rate * std::max(age - step_s, 0.0) + phase);
            const double after = std::floor(rate * age + phase);
            births.due += uint64_t(after - before);
            for (double k = before + 1; k <= after && births.origins.size() < size_t(emitter.capacity); ++k) {
                const auto ago = float(std::clamp(age - (k - phase) / rate, 0.0, step_s));
                const Vec3 velocity = {block->vx[i], block->vy[i], block->vz[i]};
                const Vec3 position = Vec3{block->x[i], block->y[i], block->z[i]} - velocity * ago;
                const Colour tint = Colour::mixed({}, colours.of(*block, i), emitter.colour_share);
                births.origins.push_back({position, velocity * emitter.inherited_velocity, 0, tint});
            }
        }
    }
    return births;
}

} // namespace

void ParticleEvents::append(const ParticleEvents& later) {
    deaths.insert(deaths.end(), later.deaths.begin(), later.deaths.end());
    hits.insert(hits.end(), later.hits.begin(), later.hits.end());
}

std::vector<EventUse> event_uses(const PreparedEffect& prepared, const std::vector<RunningSource>& sources) {
    std::vector<EventUse> uses(sources.size());
    for (const RunningSource& source : sources) {
        const Emitter& emitter = *source.program->emitter;
        const size_t parent = find_source(prepared, sources, emitter.parent);
        if (parent < sources.size()) {
            uses[parent].deaths = uses[parent].deaths || emitter.when == ChildWhen::death;
            uses[parent].hits = uses[parent].hits || emitter.when == ChildWhen::hit;
        }
    }
    return uses;
}

ParentColours::ParentColours(const Effect& effect, const Emitter& emitter) {
    const Look* look = find_look(effect, emitter.look);
    over_life_ = sampled(look != nullptr ? look->colour_over_life : Ramp());
}

Colour ParentColours::of(const ParticleBlock& block, int i) const {
    const float share = std::clamp(block.age[i] / block.lifetime[i], 0.0f, 1.0f);
    Colour colour = over_life_.at(share) * block.mark[i].tint();
    colour.alpha = 1; // a parent that has faded out does not make its children invisible
    return colour;
}

void give_birth_to_children(const PreparedEffect& prepared, const std::vector<RunningSource>& sources,
                            const std::vector<ParticleEvents>& events,
                            const std::map<std::string, PieceEvents>& of_pieces, const StepTime& time,
                            const BlockKernels& kernels, Meters& meters) {
    for (const RunningSource& source : sources) {
        const Emitter& emitter = *source.program->emitter;
        const size_t p = find_source(prepared, sources, emitter.parent);
        const double end_s = time.start_s + time.step_s;
        const bool has_begun = end_s > double(emitter.start);
        const bool has_ended = emitter.duration > 0 && end_s > double(emitter.start + emitter.duration);
        const auto pieces = of_pieces.find(emitter.parent);
        if (emitter.parent.empty() || (p == sources.size() && pieces == of_pieces.end()) || !has_begun ||
            has_ended) {
            continue;
        }
        Stopwatch watch;
        const uint32_t seed = source.program->birth.seed;
        const BirthList births =
            p == sources.size() ? births_of_pieces(emitter, seed, pieces->second, time.step, kernels)
            : emitter.when == ChildWhen::always
                ? births_of_the_living(emitter, seed, *prepared.effect, sources[p], time.step_s, kernels)
                : births_of_events(emitter, seed,
                                   emitter.when == ChildWhen::death ? events[p].deaths
                                   : emitter.when == ChildWhen::hit ? events[p].hits
                                                                    : std::vector<ParticleEvent>(),
                                   time.step, kernels);
        source.pool->bear(*source.program, births, kernels);
        const double ms = watch.elapsed_ms();
        meters.elements[source.program->element].ms += ms;
        meters.births_ms += ms;
    }
}

} // namespace ember
