#include "core/smoke/clouds.h"

#include "core/base/hash.h"
#include "core/base/stopwatch.h"
#include "core/scene/clip_time.h"
#include "core/smoke/collector.h"
#include "core/smoke/rows.h"
#include "core/smoke/volume.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

bool same_elements(const Effect& one, const Effect& other) {
    return std::equal(one.elements.begin(), one.elements.end(), other.elements.begin(), other.elements.end(),
                      [](const Element& a, const Element& b) { return a.id == b.id; });
}

std::shared_ptr<FrameSmoke> shown_now(const SmokeVolume& volume, bool has_heat) {
    const auto shown = std::make_shared<FrameSmoke>();
    const SmokeSize& size = shown->size = volume.size();
    shown->density.resize(size.cells());
    shown->heat.resize(has_heat ? size.cells() : 0);
    each_row(size, [&](int y, int z) {
        const size_t first = (size_t(z) * size_t(size.y) + size_t(y)) * size_t(size.x);
        for (int x = 0; x < size.x; ++x) {
            const SmokeCell& cell = volume.cells()[size.packed(x, y, z)];
            shown->density[first + size_t(x)] = volume.is_solid(x, y, z) ? 0.0f : cell.density;
            if (has_heat) {
                shown->heat[first + size_t(x)] = cell.heat;
            }
        }
    });
    return shown;
}

} // namespace

// What a volume shows of a clip.
struct Clouds::Shown {
    std::shared_ptr<const SmokeClip> clip;
    std::optional<double> frame;
    Vec3 position;
    bool operator==(const Shown&) const = default;
};

// What a volume has to know of the steps since it last moved on.
struct Clouds::Waiting {
    int waited = 0;                       // steps
    std::shared_ptr<const Effect> effect; // in which it moved last
    std::vector<Placement> from;          // where its elements stood then
    PiecePlaces pieces_from;              // and the pieces
    uint64_t moves = 0;
    double ms = 0;                                         // that the last one took, without the forces
    std::vector<std::pair<std::string, double>> forces_ms; // by the force's id
    Shown played;
};

struct Clouds::Held : Waiting {
    SmokeVolume volume;
    std::shared_ptr<GridTable> flow; // of the move `flow_move`
    uint64_t flow_move = 0;
    std::shared_ptr<GridTable> last_flow; // written anew once nobody else has it
    std::shared_ptr<FrameSmoke> shown;

    explicit Held(const SmokeKernels& kernels) : volume(kernels) {}
};

Clouds::Clouds(const SmokeKernels& kernels) : kernels_(&kernels) {}
Clouds::~Clouds() = default;
Clouds::Clouds(Clouds&&) noexcept = default;
Clouds& Clouds::operator=(Clouds&&) noexcept = default;

struct Clouds::Kept {
    struct One {
        Waiting waiting;
        SmokeVolume::Kept volume;
    };
    std::map<std::string, One> volumes; // by the element's id
};

std::shared_ptr<const Clouds::Kept> Clouds::kept() const {
    auto kept = std::make_shared<Kept>();
    for (const auto& [id, held] : held_) {
        kept->volumes[id] = {*held, held->volume.kept()};
    }
    return kept;
}

void Clouds::restore(const Kept& kept) {
    held_.clear();
    for (const auto& [id, one] : kept.volumes) {
        std::unique_ptr<Held>& held = held_[id] = std::make_unique<Held>(*kernels_);
        static_cast<Waiting&>(*held) = one.waiting;
        held->volume.restore(one.volume);
    }
}

size_t Clouds::bytes(const Kept& kept) {
    size_t bytes = 0;
    for (const auto& [id, one] : kept.volumes) {
        bytes += one.volume.bytes() + one.waiting.pieces_from.size() * sizeof(PiecePlaces::value_type);
    }
    return bytes;
}

void Clouds::clear() {
    held_.clear();
}

void Clouds::step(const PreparedEffect& prepared, const WindowGrids& windows, const StepTime& time,
                  const StepPlacements& placed, const FindBlocks& find_blocks,
                  const std::vector<PieceBox>& pieces, Meters& meters) {
    const Effect& effect = *prepared.effect;
    std::erase_if(held_, [&](const auto& entry) {
        const Element* element = find_element(effect, entry.first);
        return element == nullptr || !is_active(effect, *element) ||
               !std::holds_alternative<Smoke>(element->body);
    });
    for (size_t i = 0; i < effect.elements.size(); ++i) {
        const auto* smoke = std::get_if<Smoke>(&effect.elements[i].body);
        if (smoke == nullptr || !is_active(effect, effect.elements[i])) {
            continue;
        }
        const std::string& id = effect.elements[i].id;
        std::unique_ptr<Held>& held = held_[id];
        if (!smoke->clip.empty()) {
            play(held, prepared, i, time, meters);
            continue;
        }
        if (held == nullptr) {
            held = std::make_unique<Held>(*kernels_);
            held->waited = smoke->moves_every - 1;
        }
        if (++held->waited >= smoke->moves_every) {
            const Stopwatch watch;
            // What is driven is an effect of its own in each step.
            const bool is_known = held->effect != nullptr && same_elements(*held->effect, effect);
            const SmokeCollector collector = {prepared, windows, is_known ? held->from : placed.from,
                                              placed.to, time.step_s * held->waited};
            SmokeInfluences influences = collector.influences(find_blocks, id);
            influences.time_s = time.run_end_s() - collector.step_s;
            influences.seed = mixed_seed(effect.seed, hash_of(id));
            influences.forces = forces_on_smoke(prepared, windows, time, placed, i);
            held->volume.set(*smoke);
            collector.add(pieces, held->pieces_from, held->volume.size(), influences.obstacles);
            const bool has_moved = held->volume.step(influences, collector.step_s);
            held->waited = 0;
            held->effect = prepared.effect;
            held->from = placed.to;
            held->pieces_from.clear();
            for (const PieceBox& piece : pieces) {
                held->pieces_from[{effect.elements[piece.element].id, piece.number}] = piece.placement;
            }
            held->moves += has_moved || held->moves == 0 ? 1 : 0;
            held->ms = has_moved ? watch.elapsed_ms() : 0;
            held->forces_ms.clear();
            for (size_t k = 0; k < held->volume.force_ms().size(); ++k) {
                const double ms = held->volume.force_ms()[k];
                held->forces_ms.emplace_back(effect.elements[influences.forces[k].element].id, ms);
                held->ms -= ms;
            }
        }
        // The steps between have their share in what it took.
        const double ms = held->ms / smoke->moves_every;
        ElementMeter& meter = meters.elements[i];
        meter.ms += ms;
        meter.smoke = held->volume.meter();
        meters.smoke_ms += ms;
        meters.bytes += held->volume.meter().bytes;
        for (const auto& [force, force_ms] : held->forces_ms) {
            if (const auto index = prepared.index_of(force)) {
                meters.elements[*index].ms += force_ms / smoke->moves_every;
            }
            meters.smoke_ms += force_ms / smoke->moves_every;
        }
    }
}

// What is played is shown in each step; one in which it does not change costs nothing.
void Clouds::play(std::unique_ptr<Held>& held, const PreparedEffect& prepared, size_t element,
                  const StepTime& time, Meters& meters) const {
    const Stopwatch watch;
    const Smoke& smoke = std::get<Smoke>(prepared.effect->elements[element].body);
    const std::shared_ptr<const SmokeClip>& clip = prepared.elements[element]->smoke_clip;
    if (held == nullptr) {
        held = std::make_unique<Held>(*kernels_);
    }
    const auto at = clip != nullptr ? clip_time(smoke, clip->frames_per_s, clip->frames.size(), time.end_s())
                                    : std::nullopt;
    const Shown shown = {clip, at ? std::optional(at->frame) : std::nullopt, smoke.position};
    if (held->volume.set(smoke) || held->played != shown) {
        held->volume.show(clip != nullptr ? *clip : SmokeClip(), shown.frame);
        held->played = shown;
        ++held->moves;
    }
    held->effect.reset(); // what is computed next begins without a past
    ElementMeter& meter = meters.elements[element];
    const double ms = watch.elapsed_ms();
    meter.ms += ms;
    meter.smoke = held->volume.meter();
    meters.smoke_ms += ms;
    meters.bytes += held->volume.meter().bytes;
}

const SmokeVolume* Clouds::find(const std::string& id) const {
    const auto found = held_.find(id);
    return found == held_.end() ? nullptr : &found->second->volume;
}

void Clouds::write(const PreparedEffect& prepared,
                   std::vector<std::shared_ptr<const FrameSmoke>>& out) const {
    out.clear();
    const Effect& effect = *prepared.effect;
    for (size_t i = 0; i < effect.elements.size(); ++i) {
        const auto found = held_.find(effect.elements[i].id);
        const auto* smoke = std::get_if<Smoke>(&effect.elements[i].body);
        if (found == held_.end() || smoke == nullptr) {
            continue;
        }
        Held& held = *found->second;
        const bool has_heat = smoke->glow > 0;
        const FrameSmoke* last = held.shown.get();
        const bool is_same = last != nullptr && last->moves == held.moves && last->element == i &&
                             last->size == held.volume.size() && last->heat.empty() != has_heat;
        if (!is_same) {
            held.shown = shown_now(held.volume, has_heat);
            held.shown->element = i;
            held.shown->moves = held.moves;
        }
        out.push_back(held.shown);
    }
}

FieldReading Clouds::read(const PreparedEffect& prepared, const FieldOrder& order) const {
    FieldReading reading;
    reading.order = order;
    reading.vectors.resize(order.places.size());
    reading.amounts.assign(order.places.size(), std::nanf(""));
    for (const Element& element : prepared.effect->elements) {
        const SmokeVolume* volume = find(element.id);
        for (size_t i = 0; i < order.places.size() && volume != nullptr; ++i) {
            const SmokeSize& size = volume->size();
            const Vec3 at = (order.places[i] - size.low) / size.cell;
            const bool is_in = at.x >= 0 && at.y >= 0 && at.z >= 0 && at.x < float(size.x) &&
                               at.y < float(size.y) && at.z < float(size.z);
            if (!is_in || !std::isnan(reading.amounts[i])) {
                continue;
            }
            const int x = int(at.x), y = int(at.y), z = int(at.z);
            const bool is_solid = volume->is_solid(x, y, z);
            switch (order.smoke.value_or(SmokeAspect::density)) {
            case SmokeAspect::density:
                reading.amounts[i] = is_solid ? 0 : volume->cells()[size.packed(x, y, z)].density;
                break;
            case SmokeAspect::flow:
                reading.vectors[i] = volume->flow(x, y, z);
                reading.amounts[i] = length(reading.vectors[i]);
                break;
            case SmokeAspect::remains:
                reading.amounts[i] = volume->pressure().remains()[size.at(x, y, z)];
                break;
            case SmokeAspect::outflow:
                reading.amounts[i] = is_solid ? 0 : volume->outflow(x, y, z);
                break;
            }
        }
    }
    return reading;
}

std::shared_ptr<const GridTable> Clouds::flow(const PreparedEffect& prepared) {
    for (const Element& element : prepared.effect->elements) {
        const auto found = held_.find(element.id);
        if (found == held_.end()) {
            continue;
        }
        Held& held = *found->second;
        if (held.flow != nullptr && held.flow_move == held.moves) {
            return held.flow;
        }
        held.flow.swap(held.last_flow);
        if (held.flow == nullptr || held.flow.use_count() > 1) {
            held.flow = std::make_shared<GridTable>();
        }
        held.flow_move = held.moves;
        const SmokeVolume& volume = held.volume;
        const SmokeSize& size = volume.size();
        GridTable* table = held.flow.get();
        table->cells = {float(size.x), float(size.y), float(size.z)};
        table->low = size.middle(0, 0, 0);
        table->per_cell = {1 / size.cell, 1 / size.cell, 1 / size.cell};
        table->values.resize(size.cells() * 3);
        each_row(size, [&](int y, int z) {
            float* values =
                table->values.data() + (size_t(z) * size_t(size.y) + size_t(y)) * size_t(size.x) * 3;
            for (int x = 0; x < size.x; ++x) {
                const Vec3 flow = volume.flow(x, y, z);
                values[3 * x] = flow.x;
                values[3 * x + 1] = flow.y;
                values[3 * x + 2] = flow.z;
            }
        });
        return held.flow;
    }
    return nullptr;
}

} // namespace ember
