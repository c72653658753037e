#include "core/runtime/simulation.h"

#include "core/base/stopwatch.h"
#include "core/runtime/block_step.h"
#include "core/runtime/clips.h"
#include "core/runtime/modulation.h"
#include "core/runtime/piece_boxes.h"
#include "core/runtime/piece_hulls.h"
#include "core/runtime/skins.h"
#include "core/scene/birth_rows.h"
#include "core/scene/placements.h"

#include <oneapi/tbb/combinable.h>
#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

namespace ember {

namespace {

// Of the axes of a particle as it is born, by number; z of several as short.
int shortest_axis(const Emitter& emitter) {
    const auto middle = [](const Range& range) { return range.low + range.high; };
    const float x = middle(emitter.stretch_x), y = middle(emitter.stretch_y), z = middle(emitter.stretch_z);
    return z <= x && z <= y ? 2 : x <= y ? 0 : 1;
}

// Whether a source has particles that may hit pieces.
bool meet_pieces(const std::vector<RunningSource>& sources) {
    return std::any_of(sources.begin(), sources.end(), [](const RunningSource& source) {
        const auto& colliders = source.program->colliders;
        return source.pool->live() > 0 &&
               std::any_of(colliders.begin(), colliders.end(),
                           [](const auto& collider) { return collider.row.kind == COLLIDER_HULL; });
    });
}

// What it costs to find pieces is told to what lets particles hit them.
void tell_cost(double ms, const std::vector<RunningSource>& sources, Meters& meters) {
    std::set<size_t> users;
    for (const RunningSource& source : sources) {
        for (const Influence<ColliderRow>& collider : source.program->colliders) {
            if (collider.row.kind == COLLIDER_HULL) {
                users.insert(collider.element);
            }
        }
    }
    for (const size_t element : users) {
        meters.elements[element].ms += ms / double(users.size());
    }
    meters.collision_ms += ms;
}

std::vector<FrameContact> contacts_of(const std::vector<ParticleEvents>& events) {
    std::vector<FrameContact> contacts;
    for (const ParticleEvents& of_source : events) {
        for (const ParticleEvent& hit : of_source.hits) {
            contacts.push_back({hit.position, hit.strength});
        }
    }
    return contacts;
}

} // namespace

Simulation::Simulation(Isa isa, double step_s)
    : kernels_(block_kernels(isa)), step_s_(step_s), windows_(kernels_), clouds_(smoke_kernels(isa)) {}

void Simulation::set_effect(EffectPtr effect, const Assets& assets) {
    set_effect(std::move(effect), std::make_shared<const Assets>(assets));
}

void Simulation::set_effect(EffectPtr effect, std::shared_ptr<const Assets> assets) {
    // The last step's meters stay readable: they move to the places that their elements have now.
    std::vector<ElementMeter> elements(effect->elements.size());
    for (size_t i = 0; i < meters_.elements.size(); ++i) {
        if (const auto now = PreparedEffect{effect, {}}.index_of(effect_->elements[i].id)) {
            elements[*now] = meters_.elements[i];
        }
    }
    meters_.elements = std::move(elements);
    effect_ = std::move(effect);
    assets_ = std::move(assets);
    now_.set(effect_);
    // At once as its drives and triggers have it, also while nothing steps.
    prepared_ = prepared(effect_, *assets_, prepared_);
    find_now(last_time());
    windows_.take_over(prepared_);
    const auto warm_up = uint64_t(std::llround(double(prepared_.effect->stage.warm_up) / step_s_));
    if (warm_up != warm_up_steps_) {
        warm_up_steps_ = warm_up;
        rewind();
    }
}

void Simulation::rewind() {
    pools_.clear();
    trails_.clear();
    sticky_.clear();
    windows_.clear();
    clouds_.clear();
    debris_.clear();
    triggers_.clear();
    blasts_ = Blasts();
    heard_.clear();
    prepared_.inputs = {};
    steps_ = 0;
    gives_ = {};
    meters_ = Meters();
    counts_ = StepCounts();
    if (effect_) {
        meters_.elements.resize(effect_->elements.size());
        find_now(step_time());
    }
}

// For the coming step.
void Simulation::find_now(const StepTime& time) {
    modulators_ = modulator_values(prepared_, time, counts_);
    const EffectPtr now = now_.at(time, modulators_, triggers_, gives_);
    if (now != prepared_.effect) {
        prepared_ = prepared(now, *assets_, prepared_, now_.changing());
    }
}

void Simulation::step(const StepInputs& inputs) {
    Stopwatch whole;
    const StepTime time = step_time();
    gives_ = inputs.gives;
    find_now(time);
    // What the pointer carries does not fly in from where it rests, nor back there.
    const auto& before = prepared_.inputs.pointer_now;
    prepared_.inputs = {inputs.pointer && before ? before : inputs.pointer, inputs.pointer, time.end_s(),
                        time.step_s};
    const StepPlacements placed = placements_in(prepared_, time);
    const std::vector<TriggerCall> calls =
        triggers_.step({prepared_, time, placed, inputs, counts_, heard_, debris_.events()});
    const std::vector<size_t> blasts =
        blasts_.step(prepared_, time, placed, calls, [this](const std::string& id, const Vec3& place) {
            return debris_.distance_to(id, place);
        });
    meters_ = Meters();
    meters_.elements.resize(prepared_.effect->elements.size());
    for (const TriggerCall& call : calls) {
        ++meters_.elements[call.trigger].fired;
    }

    const Stopwatch skins;
    find_skins(
        prepared_, [this](const std::string& id) { return find_pool(id); }, placed.from);
    meters_.births_ms += skins.elapsed_ms();
    const WindowGrids& windows = windows_.update(prepared_, placed.to, meters_);
    const std::vector<SourceProgram> programs = compiled(prepared_, windows, time, placed, blasts);
    keep_only(programs);
    const std::vector<RunningSource> sources = running(programs);

    const auto timed_as_births = [&](const RunningSource& source, auto work) {
        Stopwatch watch;
        work(*source.pool);
        const double ms = watch.elapsed_ms();
        meters_.elements[source.program->element].ms += ms;
        meters_.births_ms += ms;
    };
    for (const RunningSource& source : sources) {
        if (plays_clip(source)) {
            continue;
        }
        if (source.program->emitter->parent.empty()) {
            uint32_t& bursts = meters_.elements[source.program->element].bursts;
            timed_as_births(source, [&](ParticlePool& pool) {
                bursts = pool.give_birth(*source.program, time, kernels_);
            });
        }
        burst(source, calls);
    }
    let_collide(sources, prepared_, time, kernels_, meters_);
    const FoundPushes found = find_pushes(sources, prepared_, time, placed, kernels_, meters_);
    // Pieces come first, so that particles know both ends of their way.
    const bool can_hit = meet_pieces(sources);
    const std::vector<FrameDebris> pieces_before =
        can_hit ? pieces_at(time.start_s(), placed.from) : std::vector<FrameDebris>();
    debris_.step({effect_, prepared_, windows, time, placed, kernels_, calls, blasts, inputs.cleans},
                 meters_);
    count_played_pieces(prepared_, time, meters_);
    const std::vector<FrameDebris> pieces =
        can_hit || has_gas() ? pieces_at(time.end_s(), placed.to) : std::vector<FrameDebris>();
    PieceHulls hulls;
    if (can_hit) {
        const Stopwatch watch;
        hull_tables_.keep_only(pieces);
        hulls = PieceHulls(pieces_before, pieces, hull_tables_, step_s_);
        tell_cost(watch.elapsed_ms(), sources, meters_);
    }
    std::vector<ParticleEvents> events = step_blocks(sources, found, hulls);
    for (const ParticleEvents& of_source : events) {
        debris_.feel(prepared_, of_source.pushes);
    }
    play_clips(prepared_, sources, time, events, meters_);
    for (const RunningSource& source : sources) {
        timed_as_births(source, [](ParticlePool& pool) { pool.close_ranks(); });
    }
    contacts_ = notes_contacts_ ? contacts_of(events) : std::vector<FrameContact>();
    give_birth_to_children(prepared_, sources, events, debris_.events(), time, kernels_, meters_);
    heard_.clear();
    for (size_t s = 0; s < sources.size(); ++s) {
        if (!events[s].deaths.empty() || !events[s].hits.empty()) {
            heard_[prepared_.effect->elements[sources[s].program->element].id] = events[s];
        }
    }
    const Stopwatch smoke;
    const auto find_blocks = [this](const std::string& id) {
        const ParticlePool* pool = find_pool(id);
        return pool != nullptr ? &pool->blocks() : nullptr;
    };
    clouds_.step(prepared_, windows, time, placed, find_blocks,
                 has_gas() ? piece_boxes(pieces) : std::vector<PieceBox>(), meters_);
    const double smoke_here_ms = smoke.elapsed_ms();
    windows_.set_flow(clouds_.flow(prepared_));
    ++steps_;
    leave_trails(sources);
    read_meters(sources);
    // A volume that moves only in one of several steps counts in each of them with its share.
    meters_.step_ms = whole.elapsed_ms() - smoke_here_ms + meters_.smoke_ms;
}

bool Simulation::has_gas() const {
    const auto& elements = prepared_.effect->elements;
    return std::any_of(elements.begin(), elements.end(), [&](const Element& each) {
        const auto* smoke = std::get_if<Smoke>(&each.body);
        return smoke != nullptr && smoke->clip.empty() && is_active(*prepared_.effect, each);
    });
}

// Of breakables as they are now, and of clips at a time of the artist's.
std::vector<FrameDebris> Simulation::pieces_at(double time_s,
                                               const std::vector<Placement>& placements) const {
    std::vector<FrameDebris> shown;
    debris_.write(prepared_, shown);
    show_played_pieces(prepared_, time_s, placements, shown);
    return shown;
}

// Births that triggers ask for.
void Simulation::burst(const RunningSource& source, const std::vector<TriggerCall>& calls) {
    BirthList births;
    const auto capacity = size_t(source.program->emitter->capacity);
    for (const TriggerCall& call : calls) {
        if (call.then == TriggerThen::burst &&
            call.what == prepared_.effect->elements[source.program->element].id) {
            const Vec3 place = call.place.value_or(source.program->to.position);
            const size_t room = capacity - std::min(capacity, births.origins.size());
            births.origins.insert(births.origins.end(), std::min(size_t(call.births), room),
                                  {place, {}, 0, {}});
            births.due += uint64_t(call.births);
        }
    }
    if (births.due > 0) {
        const Stopwatch watch;
        source.pool->bear(*source.program, births, kernels_);
        meters_.elements[source.program->element].ms += watch.elapsed_ms();
        meters_.births_ms += watch.elapsed_ms();
    }
}

void Simulation::keep_only(const std::vector<SourceProgram>& programs) {
    std::erase_if(pools_, [&](const auto& entry) {
        return std::none_of(programs.begin(), programs.end(), [&](const SourceProgram& program) {
            return prepared_.effect->elements[program.element].id == entry.first;
        });
    });
}

std::vector<RunningSource> Simulation::running(const std::vector<SourceProgram>& programs) {
    std::vector<RunningSource> sources;
    for (const SourceProgram& program : programs) {
        sources.push_back({&program, &pools_[prepared_.effect->elements[program.element].id]});
    }
    return sources;
}

uint32_t Simulation::sticking_number(const std::string& collider_id) {
    constexpr size_t most = 255;
    auto found = std::find(sticky_.begin(), sticky_.end(), collider_id);
    if (found == sticky_.end() && sticky_.size() < most) {
        found = sticky_.insert(sticky_.end(), collider_id);
    }
    return uint32_t(size_t(found - sticky_.begin()) % most + 1);
}

std::vector<ParticleEvents> Simulation::step_blocks(const std::vector<RunningSource>& sources,
                                                    const FoundPushes& found, const PieceHulls& pieces) {
    struct Work {
        size_t source;
        size_t block;
    };
    std::vector<Work> work;
    std::vector<std::vector<uint32_t>> sticking(sources.size());
    std::vector<std::optional<ParentColours>> colours(sources.size());
    std::vector<EventUse> uses = event_uses(prepared_, sources);
    for (EventUse& use : uses) {
        use.hits = use.hits || notes_contacts_;
    }
    for (size_t s = 0; s < sources.size(); ++s) {
        for (size_t b = 0; b < sources[s].pool->blocks().size() && !plays_clip(sources[s]); ++b) {
            work.push_back({s, b});
        }
        for (const auto& collider : sources[s].program->colliders) {
            const bool holds = collider.row.kind >= 0 && collider.row.on_hit == HIT_STICK;
            const std::string& id = prepared_.effect->elements[collider.element].id;
            sticking[s].push_back(holds ? sticking_number(id) : 0);
        }
        if (uses[s].deaths || uses[s].hits) {
            colours[s].emplace(*prepared_.effect, *sources[s].program->emitter);
        }
    }

    Stopwatch watch;
    std::vector<ParticleEvents> of_blocks(work.size());
    tbb::combinable<CostSheet> sheets([this] { return CostSheet(prepared_.effect->elements.size()); });
    tbb::parallel_for(tbb::blocked_range<size_t>(0, work.size(), 4), [&](const auto& range) {
        CostSheet& sheet = sheets.local();
        for (size_t i = range.begin(); i < range.end(); ++i) {
            const size_t s = work[i].source;
            const BlockContext context{
                *sources[s].program, s,     uses[s], colours[s] ? &*colours[s] : nullptr,
                sticking[s],         found, pieces};
            step_block(context, *sources[s].pool->blocks()[work[i].block], work[i].block, float(step_s_),
                       kernels_, sheet, of_blocks[i]);
        }
    });
    const double wall_ms = watch.elapsed_ms();

    // Processor time is scaled so that the parts add up to the wall-clock time that the artist waits for.
    double processor_ms = 1e-9;
    sheets.combine_each([&](const CostSheet& sheet) { processor_ms += sheet.total_ms(); });
    const double scale = wall_ms / processor_ms;
    sheets.combine_each([&](const CostSheet& sheet) {
        meters_.forces_ms += sheet.forces_ms * scale;
        meters_.collision_ms += sheet.collision_ms * scale;
        meters_.births_ms += sheet.deaths_ms * scale;
        for (size_t i = 0; i < sheet.element_ms.size(); ++i) {
            meters_.elements[i].ms += sheet.element_ms[i] * scale;
            meters_.elements[i].blocks_ms += sheet.source_ms[i] * scale;
        }
    });
    std::vector<ParticleEvents> events(sources.size());
    for (size_t i = 0; i < work.size(); ++i) {
        events[work[i].source].append(of_blocks[i]);
    }
    for (size_t s = 0; s < sources.size(); ++s) {
        lay(sources[s], sticking[s], events[s]);
    }
    return events;
}

// Keeps how those lie that stick; round ones need no turn.
void Simulation::lay(const RunningSource& source, const std::vector<uint32_t>& sticking,
                     const ParticleEvents& events) {
    const Emitter& emitter = *source.program->emitter;
    if (emitter.form == Form::round) {
        return;
    }
    const Stopwatch watch;
    std::map<uint32_t, Quaternion> turns; // of what moves, by the number by which it holds
    for (size_t c = 0; c < sticking.size(); ++c) {
        const ColliderRow& row = source.program->colliders[c].row;
        if (sticking[c] != 0 && row.is_moving != 0) {
            turns[sticking[c]] = Quaternion::of({row.turned_x, row.turned_y, row.turned_z});
        }
    }
    const auto turn_of = [&](uint32_t on, uint32_t particle) {
        const auto carried =
            std::lower_bound(events.carried.begin(), events.carried.end(), particle,
                             [](const Carried& each, uint32_t n) { return each.number < n; });
        if (carried != events.carried.end() && carried->number == particle) {
            return carried->turn;
        }
        const auto found = turns.find(on);
        return found == turns.end() ? Quaternion() : found->second;
    };
    source.pool->rests().update(
        source.pool->blocks(), events.landings, form_row(prepared_, source.program->element),
        emitter.lies_flat ? std::optional(shortest_axis(emitter)) : std::nullopt, turn_of, kernels_);
    const double ms = watch.elapsed_ms();
    meters_.elements[source.program->element].ms += ms;
    meters_.collision_ms += ms;
}

// Only of sources that are drawn as trails.
void Simulation::leave_trails(const std::vector<RunningSource>& sources) {
    const Effect& effect = *prepared_.effect;
    std::map<std::string, Trails> left;
    for (const RunningSource& source : sources) {
        const Look* look = find_look(effect, source.program->emitter->look);
        if (look == nullptr || look->drawn_as != Drawing::trails) {
            continue;
        }
        Stopwatch watch;
        const std::string& id = effect.elements[source.program->element].id;
        Trails& trails = left[id] = std::move(trails_[id]);
        trails.add(*source.pool, double(steps_) * step_s_, double(look->trail));
        const double ms = watch.elapsed_ms();
        meters_.elements[source.program->element].ms += ms;
        meters_.births_ms += ms;
    }
    trails_ = std::move(left);
}

void Simulation::read_meters(const std::vector<RunningSource>& sources) {
    for (const RunningSource& source : sources) {
        const ParticlePool& pool = *source.pool;
        ElementMeter& meter = meters_.elements[source.program->element];
        meter.live = pool.live();
        meter.born = pool.born() - pool.refused();
        meter.refused = pool.refused();
        meter.refused_lately = pool.refused_lately();
        meters_.particles += pool.live();
        meters_.bytes += pool.bytes();
    }
    meters_.bytes += debris_.bytes();
    counts_ = {meters_.particles, meters_.debris.pieces, meters_.debris.awake, {}};
    for (size_t i = 0; i < meters_.elements.size(); ++i) {
        if (meters_.elements[i].live > 0) {
            counts_.of[prepared_.effect->elements[i].id] = meters_.elements[i].live;
        }
    }
}

const ParticlePool* Simulation::find_pool(const std::string& source_id) const {
    const auto found = pools_.find(source_id);
    return found == pools_.end() ? nullptr : &found->second;
}

FieldReading Simulation::read_field(const FieldOrder& order) const {
    return order.smoke ? clouds_.read(prepared_, order)
                       : ember::read_field(prepared_, windows_.grids(), step_time(), order, kernels_);
}

} // namespace ember
