// Breakables: what stands, is dropped, and goes with its element; bodies and the pieces they are made of.
#include "core/debris/debris_step.h"
#include "core/debris/fracture.h"

#include <algorithm>
#include <numeric>

namespace ember::debris {

Placement whole_of(const State& state, const RigidWorld& world, int number) {
    const Body& body = state.bodies.at(number);
    const Placement at = world.placement(number);
    return {at.position - at.axes.out(body.middle), at.axes};
}

Placement placement_of(const State& state, const RigidWorld* world, const Instance& instance,
                       const Piece& piece) {
    if (piece.state != PieceState::physics) {
        return piece.placement;
    }
    const Placement whole = whole_of(state, *world, piece.body);
    return {whole.position + whole.axes.out(instance.cut->pieces[piece.cut_piece].centre), whole.axes};
}

Instance& Step::instance_of(const Body& body) const {
    std::deque<Instance>& instances = state.sources.at(body.breakable).instances;
    return *std::lower_bound(instances.begin(), instances.end(), body.instance,
                             [](const Instance& each, uint32_t number) { return each.number < number; });
}

namespace {

const std::vector<int>& hulls_of(const Step& step, const std::shared_ptr<const Cut>& cut) {
    for (const Hulls& hulls : step.state.hulls) {
        if (hulls.cut == cut) {
            return hulls.of_piece;
        }
    }
    Hulls hulls = {cut, {}};
    for (const ember::Piece& piece : cut->pieces) {
        hulls.of_piece.push_back(step.world.add_hull(piece.mesh.corners));
    }
    step.state.hulls.push_back(std::move(hulls));
    return step.state.hulls.back().of_piece;
}

} // namespace

int add_body(Step& step, const std::string& id, Instance& instance, std::vector<uint32_t> pieces,
             const Placement& whole, const Vec3& velocity, const Vec3& spin) {
    const Breakable& breakable = step.breakable(id);
    const std::vector<int>& hulls = hulls_of(step, instance.cut);
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
    const int number = step.world.next_body();
    for (const uint32_t i : pieces) {
        instance.pieces[i].body = number;
    }
    body.pieces = std::move(pieces);
    step.state.bodies[number] = std::move(body);
    step.world.add_body(rigid);
    return number;
}

void take_out(Step& step, Instance& instance, uint32_t index, PieceState state) {
    Piece& piece = instance.pieces[index];
    piece.placement = step.placement_of(instance, piece);
    const int number = piece.body;
    piece.state = state;
    piece.body = -1;
    Body& body = step.state.bodies.at(number);
    std::erase(body.pieces, index);
    if (body.pieces.empty()) {
        step.world.remove_body(number);
        step.state.bodies.erase(number);
    }
}

void keep_only(State& state, RigidWorld* world, const PreparedEffect& prepared) {
    const Effect& effect = *prepared.effect;
    const auto goes = [&](const std::string& id, const Source& source) {
        const Element* element = find_element(effect, id);
        const bool stays = element != nullptr && std::holds_alternative<Breakable>(element->body) &&
                           is_active(effect, *element);
        return !stays || prepared.elements[*prepared.index_of(id)]->cut != source.cut;
    };
    for (auto source = state.sources.begin(); source != state.sources.end();) {
        if (!goes(source->first, source->second)) {
            ++source;
            continue;
        }
        std::erase_if(state.bodies, [&](const auto& entry) {
            if (entry.second.breakable == source->first) {
                world->remove_body(entry.first);
            }
            return entry.second.breakable == source->first;
        });
        source = state.sources.erase(source);
    }
    std::erase_if(state.hulls, [&](const Hulls& hulls) {
        const bool is_used = std::any_of(state.sources.begin(), state.sources.end(),
                                         [&](const auto& entry) { return entry.second.cut == hulls.cut; });
        for (const int hull : is_used ? std::vector<int>() : hulls.of_piece) {
            world->remove_hull(hull);
        }
        return !is_used;
    });
}

namespace {

void stand(Step& step, size_t element, const Placement& whole, bool stands, const Vec3& velocity) {
    const std::string& id = step.effect.elements[element].id;
    const auto& breakable = std::get<Breakable>(step.effect.elements[element].body);
    Source& source = step.state.sources[id];
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
        add_body(step, id, instance, std::move(pieces), whole, velocity, {});
    }
}

} // namespace

// Puts up what stands from the start or returns.
void raise(Step& step) {
    const PreparedEffect& prepared = step.scene.prepared;
    for (size_t i = 0; i < step.effect.elements.size(); ++i) {
        const Element& element = step.effect.elements[i];
        const auto* breakable = std::get_if<Breakable>(&element.body);
        if (breakable == nullptr || !is_active(step.effect, element) || !prepared.elements[i]->cut) {
            continue;
        }
        const bool is_new = !step.state.sources.contains(element.id);
        Source& source = step.state.sources[element.id];
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
                    if (old.pieces[p].state <= PieceState::parked && (cleans || !old.pieces[p].is_loose)) {
                        leave(step, element.id, old, p, PieceState::clearing);
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

void drop(Step& step) {
    const PreparedEffect& prepared = step.scene.prepared;
    for (size_t i = 0; i < step.effect.elements.size(); ++i) {
        const Element& element = step.effect.elements[i];
        const auto* dropper = std::get_if<Dropper>(&element.body);
        if (dropper == nullptr || !is_active(step.effect, element)) {
            continue;
        }
        const auto drops = prepared.index_of(dropper->drops);
        const auto source = step.state.sources.find(dropper->drops);
        if (!drops || source == step.state.sources.end()) {
            continue;
        }
        const uint32_t seed = seed_of(step.effect, element.id);
        const int count = is_told(step.effect, element.id)
                              ? times_told(step.scene.calls, TriggerThen::drop, element.id)
                              : step.scene.time.moments(double(dropper->first), double(dropper->every));
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

// What the artist has changed may move what rests. Drives change numbers in every step: bodies take those
// over, but sleep on.
void take_over_edits(const Step& step) {
    const bool is_edited = step.state.given != step.scene.given;
    step.state.given = step.scene.given;
    for (auto& [id, source] : step.state.sources) {
        const Breakable& now = step.breakable(id);
        const std::array<float, 4> numbers = {now.bounce, now.friction, now.rest_speed, now.strength};
        const bool changes = numbers != source.numbers;
        source.numbers = numbers;
        for (auto& [number, body] : step.state.bodies) {
            if (body.breakable != id || !(is_edited || changes)) {
                continue;
            }
            step.world.set_surface(number, now.bounce, now.friction, now.rest_speed);
            body.is_checked = false;
            if (is_edited) {
                step.world.wake(number);
            }
        }
    }
}

} // namespace ember::debris
