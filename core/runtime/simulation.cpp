#include "core/runtime/simulation.h"

#include "core/base/stopwatch.h"
#include "core/runtime/block_step.h"
#include "core/runtime/modulation.h"
#include "core/runtime/skins.h"
#include "core/scene/placements.h"

#include <oneapi/tbb/combinable.h>
#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {

uint16_t share_of_65535(float share) {
    return uint16_t(std::clamp(share, 0.0f, 1.0f) * 65535.0f + 0.5f);
}

void write_forms(const BlockKernels& kernels, const FormRow& form, const ParticleBlock& block,
                 const Rests& rests, FrameForm* out) {
    BlockForms forms;
    kernels.form(form, block, forms);
    rests.overlay(block, forms);
    for (int i = 0; i < block.count; ++i) {
        out[i] = FrameForm::of({{forms.turn_x[i], forms.turn_y[i], forms.turn_z[i]}, forms.turn_w[i]},
                               {forms.stretch_x[i], forms.stretch_y[i], forms.stretch_z[i]});
    }
}

// Whether a look draws particles otherwise by how they move, or by who they are.
bool shows_motion(const Look& look) {
    return look.drawn_as == Drawing::streaks ||
           (look.drawn_as == Drawing::cards && look.card_faces == CardFaces::motion);
}
bool shows_numbers(const Look& look) {
    return look.copies > 0 || look.drawn_as == Drawing::cards || look.drawn_as == Drawing::meshes;
}

// Of the axes of a particle as it is born, by number; z of several as short.
int shortest_axis(const Emitter& emitter) {
    const auto middle = [](const Range& range) { return range.low + range.high; };
    const float x = middle(emitter.stretch_x), y = middle(emitter.stretch_y), z = middle(emitter.stretch_z);
    return z <= x && z <= y ? 2 : x <= y ? 0 : 1;
}

FrameLight light_at(const Light& light, const Placement& placement) {
    constexpr float radians = std::numbers::pi_v<float> / 180;
    FrameLight out;
    out.position = placement.position;
    out.direction = placement.axes.y * -1.0f;
    out.light = Vec3{light.colour.red, light.colour.green, light.colour.blue} * light.strength;
    out.reach = light.reach;
    out.shadows = light.shadows;
    if (light.kind == LightKind::spot) {
        const float half = light.cone * 0.5f * radians;
        out.cos_outer = std::cos(half);
        out.cos_inner = std::cos(half * (1 - light.cone_softness)) + 1e-4f;
    }
    return out;
}

// What a frame holds of a source's particles besides place, age and size. `form`: null for round ones.
struct Written {
    bool tints;
    bool motions;
    bool numbers;
    const FormRow* form;
};

void write_source(const ParticlePool& pool, const Written& written, const BlockKernels& kernels,
                  FrameSource& source) {
    // A little more than needed, and not the double that a growing vector would take.
    const auto resize = [](auto& values, size_t size) {
        if (values.capacity() < size) {
            values.reserve(size + size / 16);
        }
        values.resize(size);
    };
    const ParticlePool::Blocks& blocks = pool.blocks();
    resize(source.particles, pool.live());
    resize(source.blocks, blocks.size());
    resize(source.marks, written.tints ? pool.live() : 0);
    resize(source.forms, written.form != nullptr ? pool.live() : 0);
    resize(source.motions, written.motions ? pool.live() : 0);
    resize(source.numbers, written.numbers ? pool.live() : 0);
    source.largest_size = 0;
    source.fastest = 0;
    std::vector<size_t> starts(blocks.size());
    for (size_t b = 0, start = 0; b < blocks.size(); ++b) {
        starts[b] = start;
        start += size_t(blocks[b]->count);
        source.largest_size = std::max(
            source.largest_size, *std::max_element(blocks[b]->size, blocks[b]->size + blocks[b]->count));
        for (const float* v : {blocks[b]->vx, blocks[b]->vy, blocks[b]->vz}) {
            for (int i = 0; written.motions && i < blocks[b]->count; ++i) {
                source.fastest = std::max(source.fastest, std::fabs(v[i]));
            }
        }
    }
    const float size_scale = 1 / std::max(source.largest_size, 1e-9f);
    tbb::parallel_for(size_t(0), blocks.size(), [&](size_t b) {
        const ParticleBlock& block = *blocks[b];
        source.blocks[b] = FrameBlock::around(block.x, block.y, block.z, starts[b], block.count);
        FrameParticle* out = source.particles.data() + starts[b];
        for (int i = 0; i < block.count; ++i) {
            source.blocks[b].set_place({block.x[i], block.y[i], block.z[i]}, out[i]);
            out[i].age_share = share_of_65535(block.age[i] / block.lifetime[i]);
            out[i].size_share = share_of_65535(block.size[i] * size_scale);
        }
        for (int i = 0; written.motions && i < block.count; ++i) {
            source.motions[starts[b] + size_t(i)] =
                FrameMotion::of({block.vx[i], block.vy[i], block.vz[i]}, source.fastest);
        }
        if (written.numbers) {
            std::copy_n(block.number, block.count, source.numbers.data() + starts[b]);
        }
        if (written.tints) {
            std::copy_n(block.mark, block.count, source.marks.data() + starts[b]);
        }
        if (written.form != nullptr) {
            write_forms(kernels, *written.form, block, pool.rests(), source.forms.data() + starts[b]);
        }
    });
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
    heard_.clear();
    prepared_.inputs = {};
    steps_ = 0;
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
    const EffectPtr now = now_.at(modulators_, triggers_);
    if (now != prepared_.effect) {
        prepared_ = prepared(now, *assets_, prepared_, now_.changing());
    }
}

void Simulation::step(const StepInputs& inputs) {
    Stopwatch whole;
    const StepTime time = step_time();
    find_now(time);
    // What the pointer carries does not fly in from where it rests, nor back there.
    const auto& before = prepared_.inputs.pointer_now;
    prepared_.inputs = {inputs.pointer && before ? before : inputs.pointer, inputs.pointer,
                        time.start_s + time.step_s, time.step_s};
    const StepPlacements placed = placements_in(prepared_, time);
    const std::vector<TriggerCall> calls =
        triggers_.step({prepared_, time, placed, inputs, counts_, heard_, debris_.events()});
    meters_ = Meters();
    meters_.elements.resize(prepared_.effect->elements.size());

    const Stopwatch skins;
    find_skins(
        prepared_, [this](const std::string& id) { return find_pool(id); }, placed.from);
    meters_.births_ms += skins.elapsed_ms();
    const WindowGrids& windows = windows_.update(prepared_, placed.to, meters_);
    const std::vector<SourceProgram> programs = compiled(prepared_, windows, time, placed);
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
        if (source.program->emitter->parent.empty()) {
            timed_as_births(source,
                            [&](ParticlePool& pool) { pool.give_birth(*source.program, time, kernels_); });
        }
        burst(source, calls);
    }
    let_collide(sources, prepared_, time, kernels_, meters_);
    const FoundPushes found = find_pushes(sources, prepared_, time, placed, kernels_, meters_);
    const std::vector<ParticleEvents> events = step_blocks(sources, found);
    for (const RunningSource& source : sources) {
        timed_as_births(source, [](ParticlePool& pool) { pool.close_ranks(); });
    }
    contacts_ = notes_contacts_ ? contacts_of(events) : std::vector<FrameContact>();
    debris_.step({effect_, prepared_, windows, time, placed, kernels_, calls, inputs.cleans}, meters_);
    give_birth_to_children(prepared_, sources, events, debris_.events(), time, kernels_, meters_);
    heard_.clear();
    for (size_t s = 0; s < sources.size(); ++s) {
        if (!events[s].deaths.empty() || !events[s].hits.empty()) {
            heard_[prepared_.effect->elements[sources[s].program->element].id] = events[s];
        }
    }
    const Stopwatch smoke;
    clouds_.step(
        prepared_, windows, time, placed,
        [this](const std::string& id) {
            const ParticlePool* pool = find_pool(id);
            return pool != nullptr ? &pool->blocks() : nullptr;
        },
        meters_);
    const double smoke_here_ms = smoke.elapsed_ms();
    windows_.set_flow(clouds_.flow(prepared_));
    ++steps_;
    leave_trails(sources);
    read_meters(sources);
    // A volume that moves only in one of several steps counts in each of them with its share.
    meters_.step_ms = whole.elapsed_ms() - smoke_here_ms + meters_.smoke_ms;
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
                                                    const FoundPushes& found) {
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
        for (size_t b = 0; b < sources[s].pool->blocks().size(); ++b) {
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
                *sources[s].program, s, uses[s], colours[s] ? &*colours[s] : nullptr, sticking[s], found};
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
        lay(sources[s], sticking[s], events[s].landings);
    }
    return events;
}

// Keeps how those lie that stick; round ones need no turn.
void Simulation::lay(const RunningSource& source, const std::vector<uint32_t>& sticking,
                     const std::vector<Landing>& landings) {
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
    const auto turn_of = [&](uint32_t number) {
        const auto found = turns.find(number);
        return found == turns.end() ? Quaternion() : found->second;
    };
    source.pool->rests().update(source.pool->blocks(), landings, form_row(prepared_, source.program->element),
                                emitter.lies_flat ? std::optional(shortest_axis(emitter)) : std::nullopt,
                                turn_of, kernels_);
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

void Simulation::write_frame(Frame& frame) const {
    const Effect& effect = *prepared_.effect;
    frame.effect = effect_;
    frame.now = prepared_.effect;
    frame.modulators = modulators_;
    frame.time_s = time_s();
    frame.step = steps_;
    frame.meters = meters_;
    frame.contacts = contacts_;
    frame.sources.resize(pools_.size());

    size_t index = 0;
    for (size_t element = 0; element < effect.elements.size(); ++element) {
        if (const ParticlePool* pool = find_pool(effect.elements[element].id)) {
            const auto& emitter = std::get<Emitter>(effect.elements[element].body);
            const bool is_tinted = prepared_.elements[element]->birth_colours || !emitter.parent.empty();
            const bool has_form = emitter.form == Form::stretched;
            const FormRow form = has_form ? form_row(prepared_, element) : FormRow{};
            const Look* look = find_look(effect, emitter.look);
            const bool moves = effect.stage.shutter > 0 || (look != nullptr && shows_motion(*look));
            write_source(
                *pool,
                {is_tinted, moves, look != nullptr && shows_numbers(*look), has_form ? &form : nullptr},
                kernels_, frame.sources[index]);
            const auto trails = trails_.find(effect.elements[element].id);
            frame.sources[index].trails.clear();
            if (trails != trails_.end() && look != nullptr) {
                trails->second.write(*pool, double(steps_) * step_s_, double(look->trail),
                                     frame.sources[index]);
            }
            frame.sources[index++].element = element;
        }
    }
    frame.sources.resize(index);
    clouds_.write(prepared_, frame.smokes);
    debris_.write(prepared_, frame.debris);
    write_stage(frame);
}

void Simulation::write_stage(Frame& frame) const {
    const Effect& effect = *prepared_.effect;
    frame.colliders.clear();
    frame.lights.clear();
    frame.assets = assets_;
    frame.placements = placements_at(prepared_, double(steps_) * step_s_);
    const std::vector<Placement>& placements = frame.placements;
    for (size_t element = 0; element < effect.elements.size(); ++element) {
        const auto* light = std::get_if<Light>(&effect.elements[element].body);
        if (light != nullptr && is_active(effect, effect.elements[element])) {
            frame.lights.push_back(light_at(*light, placements[element]));
        }
        const Surface* surface = surface_of(effect.elements[element].body);
        FrameCollider collider{};
        const bool is_seen = surface != nullptr && surface->visible &&
                             is_active(effect, effect.elements[element]) &&
                             collider_row(prepared_, element, windows_.grids(), placements[element],
                                          placements[element], step_s_, collider.row);
        if (is_seen) {
            collider.colour = surface->colour;
            const auto window = windows_.grids().find(element);
            collider.grid =
                window != windows_.grids().end() ? window->second : prepared_.elements[element]->grid;
            if (const auto* plane = std::get_if<Plane>(&effect.elements[element].body)) {
                collider.mirror = plane->mirror;
                collider.puddles = plane->puddles;
            }
            frame.colliders.push_back(std::move(collider));
        }
    }
}

} // namespace ember
