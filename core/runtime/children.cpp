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

// The faces that a break laid open, by area.
class BrokenFaces {
  public:
    BrokenFaces(const PieceEvent& event, bool is_asked) : event_(event) {
        for (const uint32_t bond : is_asked ? event.faces : std::vector<uint32_t>()) {
            faces_.emplace_back(event.cut->bonds[bond]);
            area_ += event.cut->bonds[bond].area;
            up_to_.push_back(area_);
        }
    }
    // Where it happened, if there are none.
    Vec3 place(uint32_t seed) const {
        if (faces_.empty()) {
            return event_.place;
        }
        const float at = float(mixed_seed(seed, 1) >> 8) / 16777216.0f * area_;
        const auto found = std::upper_bound(up_to_.begin(), up_to_.end(), at);
        const size_t face = std::min(size_t(found - up_to_.begin()), faces_.size() - 1);
        return event_.whole.position + event_.whole.axes.out(faces_[face].place(seed));
    }

  private:
    const PieceEvent& event_;
    std::vector<BondFace> faces_;
    std::vector<float> up_to_;
    float area_ = 0;
};

// Children of what happened to pieces.
BirthList births_of_pieces(const Emitter& emitter, uint32_t seed, const std::vector<PieceEvent>& events,
                           uint64_t step, const BlockKernels& kernels) {
    BirthList births;
    const uint32_t draw = seed + uint32_t(step) * 0x9e3779b9u;
    for (const PieceEvent& event : events) {
        const bool happens = kernels.chance(draw, event.number, FOR_CHANCE) < emitter.chance;
        if (!happens || (emitter.when == ChildWhen::hit && event.strength < emitter.least_impact)) {
            continue;
        }
        births.due += uint64_t(emitter.per_parent_count);
        const bool on_faces = emitter.shape == BirthShape::broken && event.cut;
        const BrokenFaces faces(event, on_faces);
        const uint32_t own = mixed_seed(draw, event.number);
        for (int k = 0; k < emitter.per_parent_count && births.origins.size() < size_t(emitter.capacity);
             ++k) {
            births.origins.push_back({faces.place(mixed_seed(own, uint32_t(k))),
                                      event.velocity * emitter.inherited_velocity,
                                      0,
                                      {}});
        }
    }
    return births;
}

// Children of pieces while these move: so many a second for each, at moments of its own.
BirthList births_of_moving_pieces(const Emitter& emitter, uint32_t seed,
                                  const std::vector<PieceEvent>& moving, const StepTime& time,
                                  const BlockKernels& kernels) {
    BirthList births;
    for (const PieceEvent& piece : moving) {
        const double phase = double(kernels.chance(seed, piece.number, FOR_PHASE));
        const auto born_by = [&](double t) {
            return std::floor(double(emitter.per_parent_rate) * t + phase);
        };
        const auto due = uint64_t(born_by(time.run_end_s()) - born_by(time.run_s()));
        births.due += due;
        for (uint64_t k = 0; k < due && births.origins.size() < size_t(emitter.capacity); ++k) {
            births.origins.push_back({piece.place, piece.velocity * emitter.inherited_velocity, 0, {}});
        }
    }
    return births;
}

const std::vector<PieceEvent>& events_for(const Emitter& emitter, const PieceEvents& events) {
    switch (emitter.when) {
    case ChildWhen::always:
        return events.moving;
    case ChildWhen::death:
        return events.cleared;
    case ChildWhen::hit:
        return events.hits;
    case ChildWhen::broken:
        return events.broken;
    case ChildWhen::apart:
        return events.apart;
    case ChildWhen::rest:
        break;
    }
    return events.rests;
}

// Of particles; those do not break and never count as resting.
const std::vector<ParticleEvent>& events_for(const Emitter& emitter, const ParticleEvents& events) {
    static const std::vector<ParticleEvent> none;
    return emitter.when == ChildWhen::death ? events.deaths
           : emitter.when == ChildWhen::hit ? events.hits
                                            : none;
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
    landings.insert(landings.end(), later.landings.begin(), later.landings.end());
    carried.insert(carried.end(), later.carried.begin(), later.carried.end());
    pushes.insert(pushes.end(), later.pushes.begin(), later.pushes.end());
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
    for (const Element& element : prepared.effect->elements) {
        const auto* trigger = std::get_if<Trigger>(&element.body);
        const size_t of = trigger != nullptr ? find_source(prepared, sources, trigger->of) : sources.size();
        if (of < sources.size() && !element.muted) {
            uses[of].deaths = uses[of].deaths || trigger->when == TriggerWhen::gone;
            uses[of].hits = uses[of].hits || trigger->when == TriggerWhen::hit;
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
        const double since_s = time.end_s() - source.program->start_s;
        const bool has_begun = since_s > 0;
        const bool has_ended = emitter.duration > 0 && since_s > double(emitter.duration);
        const auto pieces = of_pieces.find(emitter.parent);
        if (emitter.parent.empty() || (p == sources.size() && pieces == of_pieces.end()) || !has_begun ||
            has_ended) {
            continue;
        }
        Stopwatch watch;
        const uint32_t seed = source.program->birth.seed;
        const bool is_steady = emitter.when == ChildWhen::always;
        BirthList births;
        if (p == sources.size()) {
            const std::vector<PieceEvent>& list = events_for(emitter, pieces->second);
            births = is_steady ? births_of_moving_pieces(emitter, seed, list, time, kernels)
                               : births_of_pieces(emitter, seed, list, time.step, kernels);
        } else {
            births =
                is_steady
                    ? births_of_the_living(emitter, seed, *prepared.effect, sources[p], time.step_s, kernels)
                    : births_of_events(emitter, seed, events_for(emitter, events[p]), time.step, kernels);
        }
        source.pool->bear(*source.program, births, kernels);
        const double ms = watch.elapsed_ms();
        meters.elements[source.program->element].ms += ms;
        meters.births_ms += ms;
    }
}

} // namespace ember
