#include "core/base/stopwatch.h"
#include "core/debris/debris_step.h"
#include "core/debris/fracture.h"
#include "core/scene/placements.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace ember {

namespace {

CutFacts facts_of(const Cut& cut) {
    CutFacts facts = {cut.pieces.size(), cut.triangles, cut.slivers, HUGE_VALF, 0, {}};
    for (const Piece& piece : cut.pieces) {
        facts.smallest_m3 = std::min(facts.smallest_m3, piece.volume);
        facts.largest_m3 = std::max(facts.largest_m3, piece.volume);
    }
    const float span = std::log(facts.largest_m3 / facts.smallest_m3);
    for (const Piece& piece : cut.pieces) {
        const float share = span > 0 ? std::log(piece.volume / facts.smallest_m3) / span : 0;
        ++facts.sizes[std::min(size_t(share * float(facts.sizes.size())), facts.sizes.size() - 1)];
    }
    return facts;
}

} // namespace

Debris::Debris() = default;
Debris::~Debris() = default;
Debris::Debris(Debris&&) noexcept = default;
Debris& Debris::operator=(Debris&&) noexcept = default;

void Debris::clear() {
    *this = Debris();
}

struct Debris::Kept {
    Data data;
    std::shared_ptr<const RigidState> world; // null while nothing can break
};

std::shared_ptr<const Debris::Kept> Debris::kept() const {
    return std::make_shared<const Kept>(Kept{state_, world_ ? world_->state() : nullptr});
}

void Debris::restore(const Kept& kept) {
    state_ = kept.data;
    world_ =
        kept.world ? std::make_unique<RigidWorld>(*kept.world, RigidFilter{&lets_through, this}) : nullptr;
}

size_t Debris::bytes(const Kept& kept) {
    size_t bytes = kept.world ? bytes_of(*kept.world) : 0;
    for (const auto& [id, source] : kept.data.sources) {
        for (const Instance& instance : source.instances) {
            bytes += instance.pieces.size() * sizeof(Piece) + instance.broken.size();
        }
    }
    return bytes;
}

Placement Debris::whole_of(int number) const {
    const Body& body = state_.bodies.at(number);
    const Placement at = world_->placement(number);
    return {at.position - at.axes.out(body.middle), at.axes};
}

Placement Debris::placement_of(const Instance& instance, const Piece& piece) const {
    if (piece.state != State::physics) {
        return piece.placement;
    }
    const Placement whole = whole_of(piece.body);
    return {whole.position + whole.axes.out(instance.cut->pieces[piece.cut_piece].centre), whole.axes};
}

Debris::Instance& Debris::instance_of(const Body& body) {
    std::deque<Instance>& instances = state_.sources.at(body.breakable).instances;
    return *std::lower_bound(instances.begin(), instances.end(), body.instance,
                             [](const Instance& each, uint32_t number) { return each.number < number; });
}

const std::vector<int>& Debris::hulls_of(const std::shared_ptr<const Cut>& cut) {
    for (const Hulls& hulls : state_.hulls) {
        if (hulls.cut == cut) {
            return hulls.of_piece;
        }
    }
    Hulls hulls = {cut, {}};
    for (const ember::Piece& piece : cut->pieces) {
        hulls.of_piece.push_back(world_->add_hull(piece.mesh.corners));
    }
    state_.hulls.push_back(std::move(hulls));
    return state_.hulls.back().of_piece;
}

int Debris::add_body(const std::string& id, const Breakable& breakable, Instance& instance,
                     std::vector<uint32_t> pieces, const Placement& whole, const Vec3& velocity,
                     const Vec3& spin) {
    const std::vector<int>& hulls = hulls_of(instance.cut);
    Body body;
    body.breakable = id;
    body.instance = instance.number;
    RigidBody rigid;
    float mass = 0;
    for (const uint32_t i : pieces) {
        const ember::Piece& piece = instance.cut->pieces[instance.pieces[i].cut_piece];
        const float own = piece.volume * breakable.density;
        body.middle += piece.centre * own;
        mass += own;
        rigid.parts.push_back({hulls[instance.pieces[i].cut_piece], piece.centre, i, own});
        body.is_fixed = body.is_fixed || instance.pieces[i].is_pinned;
    }
    body.middle = body.middle / mass;
    for (RigidPart& part : rigid.parts) {
        part.offset -= body.middle;
    }
    if (rigid.parts.size() == 1) {
        rigid.parts[0].offset = {};
    }
    rigid.placement = {whole.position + whole.axes.out(body.middle), whole.axes};
    rigid.velocity = body.is_fixed ? Vec3() : velocity;
    rigid.spin = body.is_fixed ? Vec3() : spin;
    rigid.bounce = breakable.bounce;
    rigid.friction = breakable.friction;
    rigid.rest_speed = breakable.rest_speed;
    rigid.is_fixed = body.is_fixed;
    const int number = world_->next_body();
    for (const uint32_t i : pieces) {
        instance.pieces[i].body = number;
    }
    body.pieces = std::move(pieces);
    state_.bodies[number] = std::move(body);
    world_->add_body(rigid);
    return number;
}

// The piece leaves its body, which it was alone in, or which goes on without it.
void Debris::take_out(Instance& instance, uint32_t index, State state) {
    Piece& piece = instance.pieces[index];
    piece.placement = placement_of(instance, piece);
    const int number = piece.body;
    piece.state = state;
    piece.body = -1;
    Body& body = state_.bodies.at(number);
    std::erase(body.pieces, index);
    if (body.pieces.empty()) {
        world_->remove_body(number);
        state_.bodies.erase(number);
    }
}

void Debris::keep_only(const Scene& scene) {
    const Effect& effect = *scene.prepared.effect;
    const auto goes = [&](const std::string& id, const Source& source) {
        const Element* element = find_element(effect, id);
        const bool stays = element != nullptr && std::holds_alternative<Breakable>(element->body) &&
                           is_active(effect, *element);
        return !stays || scene.prepared.elements[*scene.prepared.index_of(id)]->cut != source.cut;
    };
    for (auto source = state_.sources.begin(); source != state_.sources.end();) {
        if (!goes(source->first, source->second)) {
            ++source;
            continue;
        }
        std::erase_if(state_.bodies, [&](const auto& entry) {
            if (entry.second.breakable == source->first) {
                world_->remove_body(entry.first);
            }
            return entry.second.breakable == source->first;
        });
        source = state_.sources.erase(source);
    }
    std::erase_if(state_.hulls, [&](const Hulls& hulls) {
        const bool is_used = std::any_of(state_.sources.begin(), state_.sources.end(),
                                         [&](const auto& entry) { return entry.second.cut == hulls.cut; });
        for (const int hull : is_used ? std::vector<int>() : hulls.of_piece) {
            world_->remove_hull(hull);
        }
        return !is_used;
    });
}

void Debris::stand(Step& step, size_t element, const Placement& whole, bool stands, const Vec3& velocity) {
    const std::string& id = step.effect.elements[element].id;
    const auto& breakable = std::get<Breakable>(step.effect.elements[element].body);
    Source& source = state_.sources[id];
    const size_t count = source.cut->pieces.size();
    if (source.live + count > step.capacity_of(breakable) + (stands ? count : 0)) {
        source.refused += count;
        return;
    }
    source.live += count;
    Instance& instance = source.instances.emplace_back();
    instance.number = source.next_instance++;
    instance.stands = stands;
    instance.cut = source.cut;
    instance.whole = whole;
    instance.broken.resize(instance.cut->bonds.size());
    instance.pieces.resize(count);
    for (uint32_t i = 0; i < count; ++i) {
        instance.pieces[i].cut_piece = i;
        instance.pieces[i].number = source.next_piece++;
    }
    // Without any strength nothing hangs together.
    if (breakable.strength <= 0) {
        std::fill(instance.broken.begin(), instance.broken.end(), char(1));
    }
    std::vector<ReachRow> pins;
    step.each<Pin>(
        id, [&](size_t i, const Pin&, float) { pins.push_back(reach_row(step.scene.prepared, step.to, i)); });
    for (Piece& piece : instance.pieces) {
        const Vec3 place = whole.position + whole.axes.out(instance.cut->pieces[piece.cut_piece].centre);
        piece.is_pinned = is_in(step, pins, place);
    }
    std::vector<LoadedBond> bonds;
    for (const Bond& bond : instance.cut->bonds) {
        bonds.push_back({bond.a, bond.b, 1, 1});
    }
    std::vector<uint32_t> all(count);
    std::iota(all.begin(), all.end(), 0u);
    for (std::vector<uint32_t>& pieces : parts_of(all, groups_of(count, bonds, instance.broken))) {
        add_body(id, breakable, instance, std::move(pieces), whole, velocity, {});
    }
}

// Puts up what stands from the start or returns.
void Debris::raise(Step& step) {
    const PreparedEffect& prepared = step.scene.prepared;
    for (size_t i = 0; i < step.effect.elements.size(); ++i) {
        const Element& element = step.effect.elements[i];
        const auto* breakable = std::get_if<Breakable>(&element.body);
        if (breakable == nullptr || !is_active(step.effect, element) || !prepared.elements[i]->cut) {
            continue;
        }
        const bool is_new = !state_.sources.contains(element.id);
        Source& source = state_.sources[element.id];
        if (is_new) {
            source.cut = prepared.elements[i]->cut;
            source.facts = facts_of(*source.cut);
        }
        if (!breakable->stands) {
            continue;
        }
        const bool returns = !is_new && breakable->returns_after > 0 &&
                             step.now_s - source.stood_s > double(breakable->returns_after) - 1e-6;
        if (returns) {
            for (Instance& old : source.instances) {
                for (uint32_t p = 0; p < old.pieces.size() && old.stands; ++p) {
                    // Without any cleanup what lies about stays; what still stands gives way.
                    const bool cleans = step.scene.cleans &&
                                        (breakable->at_rest != RestFate::stay || breakable->longest_life > 0);
                    if (old.pieces[p].state <= State::parked && (cleans || !old.pieces[p].is_loose)) {
                        leave(step, element.id, old, p, State::clearing);
                    }
                }
                old.stands = false;
            }
        }
        if (is_new || returns) {
            source.stood_s = step.now_s;
            stand(step, i, step.to[i], true, {});
        }
    }
}

void Debris::drop(Step& step) {
    const PreparedEffect& prepared = step.scene.prepared;
    for (size_t i = 0; i < step.effect.elements.size(); ++i) {
        const Element& element = step.effect.elements[i];
        const auto* dropper = std::get_if<Dropper>(&element.body);
        if (dropper == nullptr || !is_active(step.effect, element)) {
            continue;
        }
        const auto drops = prepared.index_of(dropper->drops);
        const auto source = state_.sources.find(dropper->drops);
        if (!drops || source == state_.sources.end()) {
            continue;
        }
        const uint32_t seed = seed_of(step.effect, element.id);
        const int count = step.is_told(element.id)
                              ? step.told(TriggerThen::drop, element.id)
                              : moments_in(step.scene.time, double(dropper->first), double(dropper->every));
        for (int n = 0; n < count; ++n) {
            const uint32_t number = source->second.next_instance;
            const auto off = [&](uint32_t axis) { return random_of(seed, number, for_place + axis) - 0.5f; };
            Placement at = step.to[i];
            at.position += at.axes.out(dropper->spread * Vec3{off(0), off(1), off(2)});
            if (dropper->turns_any_way) {
                const auto turn = [&](uint32_t axis) {
                    return 360 * random_of(seed, number, for_turn + axis);
                };
                at.axes = turned_axes({turn(0), turn(1), turn(2)});
            }
            stand(step, *drops, at, false, step.to[i].axes.out(dropper->velocity));
        }
    }
}

void Debris::measure(Step& step, Meters& meters) {
    for (auto& [id, source] : state_.sources) {
        ElementMeter& element = meters.elements[step.index_of(id)];
        DebrisMeter& meter = element.debris;
        meter.cut = source.facts;
        source.live = 0;
        for (const Instance& instance : source.instances) {
            meter.faces += instance.broken.size();
            meter.faces_broken += instance.broken.size() -
                                  size_t(std::count(instance.broken.begin(), instance.broken.end(), char(0)));
            for (const Piece& piece : instance.pieces) {
                meter.pieces += piece.state != State::gone ? 1 : 0;
                meter.light += piece.state == State::light ? 1 : 0;
                meter.parked += piece.state == State::parked ? 1 : 0;
                source.live += piece.state <= State::parked ? 1 : 0;
            }
        }
        for (const auto& [number, body] : state_.bodies) {
            if (body.breakable == id) {
                ++meter.bodies;
                (world_->is_awake(number) ? meter.awake : meter.resting) += body.pieces.size();
            }
        }
        if (!source.lingered.empty()) {
            std::vector<float> sorted = source.lingered;
            std::sort(sorted.begin(), sorted.end());
            meter.linger_median_s = sorted[sorted.size() / 2];
            meter.linger_longest_s = sorted.back();
        }
        element.live = meter.pieces;
        element.born = source.next_piece;
        element.refused = source.refused;
        meters.debris.pieces += meter.pieces;
        meters.debris.awake += meter.awake;
        meters.debris.resting += meter.resting;
        meters.debris.light += meter.light;
        meters.debris.parked += meter.parked;
        meters.debris.bodies += meter.bodies;
        meters.debris.linger_median_s = std::max(meters.debris.linger_median_s, meter.linger_median_s);
        meters.debris.linger_longest_s = std::max(meters.debris.linger_longest_s, meter.linger_longest_s);
    }
}

void Debris::step(const Scene& scene, Meters& meters) {
    state_.events.clear();
    keep_only(scene);
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
    world_->set_filter({&lets_through, this});
    Step step = {scene,           effect, scene.time.run_end_s(), float(scene.time.step_s), scene.placed.from,
                 scene.placed.to, {}};
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
    tell_savings(step, meters);
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
void Debris::tell_savings(const Step& step, Meters& meters) {
    if (meters.debris.awake > 0) {
        const double now_ms = meters.debris_ms / double(meters.debris.awake);
        piece_ms_ = piece_ms_ > 0 ? piece_ms_ + (now_ms - piece_ms_) * 0.02 : now_ms;
    }
    for (const auto& [id, tally] : state_.tallies) {
        if (const auto element = step.scene.prepared.index_of(id)) {
            DebrisMeter& meter = meters.elements[*element].debris;
            meter.taken = tally.taken;
            meter.taken_lately = tally.taken_lately(step.now_s);
            meter.saved_ms = double(meter.taken_lately) * piece_ms_;
            meters.elements[*element].ms += tally.ms;
        }
    }
}

// What the artist has changed may move what rests. Drives change numbers in every step: bodies take those
// over, but sleep on.
void Debris::take_over_edits(const Step& step) {
    const bool is_edited = state_.given != step.scene.given;
    state_.given = step.scene.given;
    for (auto& [id, source] : state_.sources) {
        const Breakable& now = step.breakable(id);
        const std::array<float, 4> numbers = {now.bounce, now.friction, now.rest_speed, now.strength};
        const bool changes = numbers != source.numbers;
        source.numbers = numbers;
        for (auto& [number, body] : state_.bodies) {
            if (body.breakable != id || !(is_edited || changes)) {
                continue;
            }
            world_->set_surface(number, now.bounce, now.friction, now.rest_speed);
            body.is_checked = false;
            if (is_edited) {
                world_->wake(number);
            }
        }
    }
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
            for (const Piece& piece : instance.pieces) {
                if (piece.state == State::gone) {
                    continue;
                }
                FramePiece& shown = written.pieces.emplace_back();
                shown.piece = piece.cut_piece;
                shown.placement = placement_of(instance, piece);
                if (piece.state != State::clearing) {
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
