#include "core/debris/debris.h"

#include "core/base/stopwatch.h"
#include "core/debris/debris_step.h"

#include <algorithm>
#include <cmath>

namespace ember {

using namespace debris;

Debris::Debris() = default;
Debris::~Debris() = default;
Debris::Debris(Debris&&) noexcept = default;
Debris& Debris::operator=(Debris&&) noexcept = default;

void Debris::clear() {
    *this = Debris();
}

struct Debris::Kept {
    debris::State state;
    std::shared_ptr<const RigidState> world; // null while nothing can break
};

std::shared_ptr<const Debris::Kept> Debris::kept() const {
    return std::make_shared<const Kept>(Kept{state_, world_ ? world_->state() : nullptr});
}

void Debris::restore(const Kept& kept) {
    state_ = kept.state;
    world_ =
        kept.world ? std::make_unique<RigidWorld>(*kept.world, RigidFilter{&lets_through, &state_}) : nullptr;
}

size_t Debris::bytes() const {
    size_t bytes = state_.bodies.size() * sizeof(debris::Body);
    for (const auto& [id, source] : state_.sources) {
        for (const Instance& instance : source.instances) {
            bytes += instance.pieces.size() * sizeof(debris::Piece) + instance.broken.size();
        }
    }
    return bytes;
}

size_t Debris::bytes(const Kept& kept) {
    size_t bytes = kept.world ? bytes_of(*kept.world) : 0;
    for (const auto& [id, source] : kept.state.sources) {
        for (const Instance& instance : source.instances) {
            bytes += instance.pieces.size() * sizeof(debris::Piece) + instance.broken.size();
        }
    }
    return bytes;
}

void Debris::step(const Scene& scene, Meters& meters) {
    state_.events.clear();
    keep_only(state_, world_.get(), scene.prepared);
    const Effect& effect = *scene.prepared.effect;
    const bool has_any = std::any_of(effect.elements.begin(), effect.elements.end(), [](const Element& each) {
        return std::holds_alternative<Breakable>(each.body);
    });
    if (!has_any) {
        world_.reset(); // it holds megabytes
        return;
    }
    Stopwatch watch;
    if (!world_) {
        world_ = std::make_unique<RigidWorld>();
    }
    world_->set_filter({&lets_through, &state_});
    Step step = {state_,
                 *world_,
                 scene,
                 effect,
                 scene.time.run_end_s(),
                 float(scene.time.step_s),
                 scene.placed.from,
                 scene.placed.to,
                 {}};
    raise(step);
    drop(step);
    for (const auto& [id, source] : state_.sources) {
        step.programs.emplace(
            id, compiled_for(scene.prepared, scene.windows, scene.time, scene.placed, step.index_of(id)));
    }
    pin(step);
    place_colliders(step);
    take_over_edits(step);
    state_.now_s = step.now_s;
    push(step);
    blast(step);
    world_->step(scene.time.step_s);
    fracture(step);
    settle(step);
    move_light(step);
    note_moving(step);
    clean(step);
    measure(step, meters);
    meters.debris_ms += watch.elapsed_ms();
    tell_savings(scene, meters);
    for (const auto& [id, source] : state_.sources) {
        // By the share of bodies that move.
        const size_t element = step.index_of(id);
        const double share = meters.debris.awake > 0
                                 ? double(meters.elements[element].debris.awake) / double(meters.debris.awake)
                                 : 1 / double(state_.sources.size());
        meters.elements[element].ms += meters.debris_ms * share;
    }
}

// What zones and rules cost, and what they save: as if what they took lately still moved, like what moves.
void Debris::tell_savings(const Scene& scene, Meters& meters) {
    if (meters.debris.awake > 0) {
        const double now_ms = meters.debris_ms / double(meters.debris.awake);
        piece_ms_ = piece_ms_ > 0 ? piece_ms_ + (now_ms - piece_ms_) * 0.02 : now_ms;
    }
    for (const auto& [id, tally] : state_.tallies) {
        if (const auto element = scene.prepared.index_of(id)) {
            DebrisMeter& meter = meters.elements[*element].debris;
            meter.taken = tally.taken;
            meter.taken_lately = tally.taken_lately(state_.now_s);
            meter.saved_ms = double(meter.taken_lately) * piece_ms_;
            meters.elements[*element].ms += tally.ms;
        }
    }
}

std::optional<float> Debris::distance_to(const std::string& id, const Vec3& place) const {
    return world_ ? debris::distance_to(state_, *world_, id, place) : std::nullopt;
}

void Debris::write(const PreparedEffect& prepared, std::vector<FrameDebris>& out) const {
    size_t count = 0;
    out.resize(state_.sources.size());
    for (const auto& [id, source] : state_.sources) {
        const auto element = prepared.index_of(id);
        if (!element || !source.cut) {
            continue;
        }
        const auto& breakable = std::get<Breakable>(prepared.effect->elements[*element].body);
        FrameDebris& written = out[count++];
        written.element = *element;
        written.cut = source.cut;
        written.pieces.clear();
        for (const Instance& instance : source.instances) {
            for (const debris::Piece& piece : instance.pieces) {
                if (piece.state == PieceState::gone) {
                    continue;
                }
                FramePiece& shown = written.pieces.emplace_back();
                shown.piece = piece.cut_piece;
                shown.number = piece.number;
                shown.placement = placement_of(state_, world_.get(), instance, piece);
                if (piece.state != PieceState::clearing) {
                    continue;
                }
                const float left = 1 - std::clamp(float((state_.now_s - piece.clear_s) /
                                                        std::max(double(piece.clear_for_s), 1e-6)),
                                                  0.0f, 1.0f);
                switch (breakable.clear_by) {
                case ClearBy::shrinking:
                    shown.size = left;
                    break;
                case ClearBy::fading:
                    shown.opacity = left;
                    break;
                case ClearBy::crumbling:
                    break; // it is gone
                case ClearBy::sinking:
                    shown.placement.position.y -=
                        (1 - left) * 2 * instance.cut->pieces[piece.cut_piece].radius;
                    break;
                }
            }
        }
    }
    out.resize(count);
}

void Debris::feel(const PreparedEffect& prepared, std::span<const PiecePush> pushes) {
    if (pushes.empty()) {
        return;
    }
    std::map<std::pair<size_t, uint32_t>, std::pair<const Instance*, debris::Piece*>> pieces;
    for (auto& [id, source] : state_.sources) {
        const auto element = prepared.index_of(id);
        for (size_t i = 0; element && i < source.instances.size(); ++i) {
            for (debris::Piece& piece : source.instances[i].pieces) {
                pieces[{*element, piece.number}] = {&source.instances[i], &piece};
            }
        }
    }
    for (const PiecePush& push : pushes) {
        const auto found = pieces.find({push.breakable, push.number});
        if (found == pieces.end()) {
            continue; // of a clip
        }
        const auto& [instance, piece] = found->second;
        if (piece->state == PieceState::physics && !state_.bodies.at(piece->body).is_fixed) {
            world_->push(piece->body, push.impulse, push.place);
        } else if (piece->state == PieceState::light) {
            const auto& breakable = std::get<Breakable>(prepared.effect->elements[push.breakable].body);
            piece->velocity +=
                push.impulse / (instance->cut->pieces[piece->cut_piece].volume * breakable.density);
        }
    }
}

std::vector<Debris::Moving> Debris::bodies(const std::string& id) const {
    std::vector<Moving> bodies;
    for (const auto& [number, body] : state_.bodies) {
        if (body.breakable == id) {
            bodies.push_back({world_->placement(number).position, world_->velocity(number),
                              world_->mass(number), body.pieces.size(), body.is_fixed,
                              world_->is_awake(number)});
        }
    }
    return bodies;
}

} // namespace ember
