// Breakables: pins, blasts, and what breaks under a load.
#include "core/debris/debris_step.h"
#include "core/debris/fracture.h"

#include <algorithm>

namespace ember::debris {

namespace {

// How far a face has to be pulled apart against its strength until it is open: sets how much of a blow's
// energy each crack uses up.
constexpr float crack_opening_m = 0.05f;

// What comes together more slowly leans rather than strikes (m/s).
constexpr float least_blow = 0.3f;

// What the body's pieces hang together as now, with its motion about its middle; the same body if that is
// one.
std::vector<int> regroup(Step& step, int number, const Vec3& velocity, const Vec3& spin) {
    const Body old = step.state.bodies.at(number);
    Instance& instance = step.instance_of(old);
    std::vector<uint32_t> local(instance.pieces.size(), UINT32_MAX);
    for (uint32_t i = 0; i < old.pieces.size(); ++i) {
        local[old.pieces[i]] = i;
    }
    std::vector<LoadedBond> bonds;
    for (size_t k = 0; k < instance.broken.size(); ++k) {
        const Bond& bond = instance.cut->bonds[k];
        if (instance.broken[k] == 0 && local[bond.a] != UINT32_MAX && local[bond.b] != UINT32_MAX) {
            bonds.push_back({local[bond.a], local[bond.b], 1, 1});
        }
    }
    const std::vector<char> none(bonds.size());
    std::vector<std::vector<uint32_t>> parts =
        parts_of(old.pieces, groups_of(old.pieces.size(), bonds, none));
    const bool is_fixed = std::any_of(old.pieces.begin(), old.pieces.end(),
                                      [&](uint32_t i) { return instance.pieces[i].is_pinned; });
    if (parts.size() == 1 && is_fixed == old.is_fixed) {
        return {number};
    }
    const Placement whole = step.whole_of(number);
    const Vec3 middle = whole.position + whole.axes.out(old.middle);
    step.world.remove_body(number);
    step.state.bodies.erase(number);
    std::vector<int> bodies;
    for (std::vector<uint32_t>& pieces : parts) {
        const int part = add_body(step, old.breakable, instance, std::move(pieces), whole, velocity, spin);
        const Vec3 arm = step.world.placement(part).position - middle;
        if (!step.state.bodies.at(part).is_fixed) {
            step.world.set_velocity(part, velocity + cross(spin, arm), spin);
        }
        bodies.push_back(part);
    }
    return bodies;
}

// What a body has come apart into: each part but the one that goes on as the body comes off.
void note_break(Step& step, const std::string& id, Instance& instance, const std::vector<int>& parts,
                const Placement& whole, const Vec3& velocity, float load_kpa) {
    if (parts.size() < 2) {
        return;
    }
    const auto goes_on = [&](int a, int b) {
        const Body &one = step.state.bodies.at(a), &other = step.state.bodies.at(b);
        return std::tuple(one.is_fixed, step.world.mass(a)) < std::tuple(other.is_fixed, step.world.mass(b));
    };
    const int body = *std::max_element(parts.begin(), parts.end(), goes_on);
    PieceEvent apart;
    apart.velocity = velocity;
    apart.strength = load_kpa;
    apart.number = mixed_seed(instance.number, step.state.bodies.at(body).pieces.front());
    apart.cut = instance.cut;
    apart.whole = whole;
    Vec3 middle;
    float area = 0;
    for (const int part : parts) {
        if (part == body) {
            continue;
        }
        PieceEvent off = apart;
        off.faces.clear();
        off.number = mixed_seed(instance.number, step.state.bodies.at(part).pieces.front());
        off.strength = 0;
        Vec3 place;
        for (size_t k = 0; k < instance.broken.size(); ++k) {
            const Bond& bond = instance.cut->bonds[k];
            const bool is_side = instance.pieces[bond.a].body == part || instance.pieces[bond.b].body == part;
            if (instance.broken[k] != 1 || !is_side ||
                instance.pieces[bond.a].body == instance.pieces[bond.b].body) {
                continue;
            }
            instance.broken[k] = 2;
            off.faces.push_back(uint32_t(k));
            off.strength += bond.area;
            off.normal = whole.axes.out(bond.normal);
            place += bond.middle * bond.area;
        }
        middle += place;
        area += off.strength;
        off.place = off.strength > 0 ? whole.position + whole.axes.out(place / off.strength)
                                     : step.world.placement(part).position;
        apart.faces.insert(apart.faces.end(), off.faces.begin(), off.faces.end());
        step.state.events[id].broken.push_back(std::move(off));
    }
    apart.place =
        area > 0 ? whole.position + whole.axes.out(middle / area) : step.world.placement(body).position;
    step.state.events[id].apart.push_back(std::move(apart));
}

void blast_off(Step& step, const std::string& id, size_t element, const Blast& blast, float weight) {
    const ReachRow reach = reach_row(step.scene.prepared, step.to, element);
    const auto share_at = [&](const Vec3& place) {
        return weight * step.scene.kernels.reach_share(reach, place);
    };
    std::vector<int> numbers;
    for (const auto& [number, body] : step.state.bodies) {
        if (body.breakable == id) {
            numbers.push_back(number);
        }
    }
    for (Instance& instance : step.state.sources.at(id).instances) {
        for (Piece& piece : instance.pieces) {
            if (piece.state == PieceState::light) {
                piece.velocity += normalized(piece.placement.position - reach.position, {0, 1, 0}) *
                                  (blast.speed * share_at(piece.placement.position));
            }
        }
    }
    const Breakable& breakable = step.breakable(id);
    for (const int number : numbers) {
        Instance& instance = step.instance_of(step.state.bodies.at(number));
        const Placement whole = step.whole_of(number);
        float most_kpa = 0;
        for (size_t k = 0; k < instance.broken.size(); ++k) {
            const Bond& bond = instance.cut->bonds[k];
            const bool is_ours = instance.broken[k] == 0 && instance.pieces[bond.a].body == number;
            const Vec3 place = whole.position + whole.axes.out(bond.middle);
            const float load_kpa = is_ours ? share_at(place) * blast.damage : 0;
            const float holds_kpa =
                breakable.strength * strength_share(step.effect, id, breakable, instance.number, uint32_t(k));
            if (is_ours && load_kpa >= holds_kpa) {
                instance.broken[k] = 1;
                most_kpa = std::max(most_kpa, load_kpa);
            }
        }
        const Vec3 velocity = step.world.velocity(number);
        const std::vector<int> parts = regroup(step, number, velocity, step.world.spin(number));
        note_break(step, id, instance, parts, whole, velocity, most_kpa);
        for (const int part : parts) {
            const Body& body = step.state.bodies.at(part);
            for (const uint32_t i : body.is_fixed ? std::vector<uint32_t>() : body.pieces) {
                const ember::Piece& piece = instance.cut->pieces[instance.pieces[i].cut_piece];
                const Vec3 place = whole.position + whole.axes.out(piece.centre);
                const float speed = blast.speed * share_at(place);
                if (speed != 0) {
                    step.world.push(part,
                                    normalized(place - reach.position, {0, 1, 0}) *
                                        (speed * piece.volume * breakable.density),
                                    place);
                }
            }
        }
    }
}

// One hit for each piece and what it meets, where that is hardest; another one only after they were apart.
void note_hits(const Step& step, int number, const std::vector<RigidContact>& met) {
    std::map<Meeting, const RigidContact*> hardest;
    for (const RigidContact& contact : met) {
        const std::string collider =
            contact.collider >= 0 ? step.effect.elements[size_t(contact.collider)].id : std::string();
        const RigidContact*& kept =
            hardest[{number, contact.tag, contact.other, contact.other_tag, collider}];
        kept = kept == nullptr || contact.closing > kept->closing ? &contact : kept;
    }
    for (const auto& [who, contact] : hardest) {
        step.state.meetings.insert(who);
        if (contact->closing > least_hit && !step.state.met_before.contains(who)) {
            PieceEvent& hit = step.state.events[step.state.bodies.at(number).breakable].hits.emplace_back();
            hit.place = contact->place;
            hit.velocity = step.world.velocity(number);
            hit.normal = contact->normal;
            hit.strength = contact->closing;
            hit.number = mixed_seed(uint32_t(number), contact->tag);
        }
    }
}

// The whole took the impulses of its contacts as one; a free one has `gained` from them (N s). Now each goes
// to the part that was hit, as far as the part alone would have taken it; what is more moves all parts, or
// goes back to what hit them.
void share_out(Step& step, const Instance& instance, const std::vector<int>& parts,
               const std::vector<RigidContact>& contacts, const std::optional<Vec3>& gained) {
    std::map<int, std::pair<float, float>> taken; // of each part: the sum of impulses, the fastest closing
    for (const RigidContact& contact : contacts) {
        auto& [sum, closing] = taken[instance.pieces[contact.tag].body];
        sum += contact.impulse;
        closing = std::max(closing, contact.closing);
    }
    float all_mass = 0;
    for (const int part : parts) {
        all_mass += step.state.bodies.at(part).is_fixed ? 0 : step.world.mass(part);
    }
    Vec3 rest = gained.value_or(Vec3());
    for (const RigidContact& contact : contacts) {
        const int part = instance.pieces[contact.tag].body;
        const auto& [sum, closing] = taken.at(part);
        const float bounce = step.breakable(step.state.bodies.at(part).breakable).bounce;
        const float alone = step.world.mass(part) * closing * (1 + bounce);
        const float share = sum > 0 ? std::min(alone / sum, 1.0f) : 0.0f;
        if (step.state.bodies.at(part).is_fixed) {
            continue;
        }
        step.world.push(part, contact.whole_impulse * share, contact.place);
        if (gained) {
            rest -= contact.whole_impulse * share;
        } else if (contact.other >= 0 && step.state.bodies.contains(contact.other)) {
            step.world.push(contact.other, contact.whole_impulse * (1 - share), contact.place);
        }
    }
    for (const int part : parts) {
        if (!step.state.bodies.at(part).is_fixed && all_mass > 0) {
            step.world.push(part, rest * (step.world.mass(part) / all_mass),
                            step.world.placement(part).position);
        }
    }
}

void come_apart(Step& step, int number, const std::vector<RigidContact>& contacts) {
    const Body body = step.state.bodies.at(number);
    Instance& instance = step.instance_of(body);
    const Breakable& breakable = step.breakable(body.breakable);
    const Placement whole = step.whole_of(number);
    std::vector<uint32_t> local(instance.pieces.size(), UINT32_MAX);
    std::vector<LoadedPiece> pieces;
    for (const uint32_t i : body.pieces) {
        const ember::Piece& piece = instance.cut->pieces[instance.pieces[i].cut_piece];
        const float mass = piece.volume * breakable.density;
        local[i] = uint32_t(pieces.size());
        pieces.push_back({mass, whole.axes.out(piece.centre), body.pushed * (mass / step.step_s),
                          instance.pieces[i].is_pinned});
    }
    // What loads do while a crack opens, and what a blow brings.
    float energy_j = 0;
    for (const LoadedPiece& piece : pieces) {
        energy_j += length(piece.force) * crack_opening_m;
    }
    for (const RigidContact& contact : contacts) {
        if (local[contact.tag] != UINT32_MAX) {
            // Nothing that moves with the stage's force strikes harder than its blow.
            const Surface* surface = contact.collider >= 0
                                         ? surface_of(step.effect.elements[size_t(contact.collider)].body)
                                         : nullptr;
            const bool is_driven = surface != nullptr && !(step.from[size_t(contact.collider)] ==
                                                           step.to[size_t(contact.collider)]);
            const float most = is_driven ? surface->blow * std::max(contact.closing, 0.1f) : HUGE_VALF;
            const float impulse = std::min(contact.impulse, most);
            pieces[local[contact.tag]].force += contact.normal * (impulse / step.step_s);
            energy_j += contact.closing > least_blow ? 0.5f * impulse * contact.closing
                                                     : impulse / step.step_s * crack_opening_m;
        }
    }
    std::vector<LoadedBond> bonds;
    std::vector<size_t> of_cut;
    for (size_t k = 0; k < instance.broken.size(); ++k) {
        const Bond& bond = instance.cut->bonds[k];
        if (instance.broken[k] != 0 || local[bond.a] == UINT32_MAX || local[bond.b] == UINT32_MAX) {
            continue;
        }
        constexpr float pascals = 1000; // in a kPa
        const float length_m =
            length(instance.cut->pieces[bond.a].centre - instance.cut->pieces[bond.b].centre);
        const float holds =
            breakable.strength * pascals * bond.area *
            strength_share(step.effect, body.breakable, breakable, instance.number, uint32_t(k));
        bonds.push_back({local[bond.a], local[bond.b], bond.area / std::max(length_m, 1e-6f), holds,
                         holds * crack_opening_m});
        of_cut.push_back(k);
    }
    std::vector<char> broken(bonds.size());
    const Rupture rupture = break_bonds(pieces, bonds, broken, energy_j);
    if (rupture.bonds == 0) {
        return;
    }
    const Vec3 velocity = body.is_fixed ? body.pushed : step.world.velocity_before(number);
    const Vec3 spin = body.is_fixed ? Vec3() : step.world.spin_before(number);
    for (size_t k = 0; k < bonds.size(); ++k) {
        if (broken[k] != 0) {
            instance.broken[of_cut[k]] = 1;
        }
    }
    const Vec3 gained = (step.world.velocity(number) - velocity) * step.world.mass(number);
    const std::vector<int> parts = regroup(step, number, velocity, spin);
    note_break(step, body.breakable, instance, parts, whole, velocity, rupture.load * breakable.strength);
    if (parts.size() == 1) {
        return; // cracked, but it still hangs together
    }
    share_out(step, instance, parts, contacts, body.is_fixed ? std::nullopt : std::optional(gained));
}

} // namespace

std::optional<float> distance_to(const State& state, const RigidWorld& world, const std::string& id,
                                 const Vec3& place) {
    std::optional<float> nearest;
    for (const auto& [number, body] : state.bodies) {
        if (body.breakable == id) {
            const float distance = length(world.placement(number).position - place);
            nearest = std::min(nearest.value_or(distance), distance);
        }
    }
    return nearest;
}

// Pins come and go while the effect runs. What moves is not caught by one.
void pin(Step& step) {
    for (auto& [id, source] : step.state.sources) {
        std::vector<ReachRow> pins;
        step.each<Pin>(id, [&](size_t i, const Pin&, float) {
            pins.push_back(reach_row(step.scene.prepared, step.to, i));
        });
        if (pins.empty() && !source.has_pins) {
            continue;
        }
        source.has_pins = !pins.empty();
        std::vector<int> changed;
        for (Instance& instance : source.instances) {
            for (Piece& piece : instance.pieces) {
                if (piece.state != PieceState::physics || piece.is_loose) {
                    continue;
                }
                const bool may_be = piece.is_pinned || step.state.bodies.at(piece.body).is_fixed ||
                                    !step.world.is_awake(piece.body);
                const bool is_pinned =
                    may_be && is_in(step, pins, step.placement_of(instance, piece).position);
                if (is_pinned != piece.is_pinned) {
                    piece.is_pinned = is_pinned;
                    changed.push_back(piece.body);
                }
            }
        }
        std::sort(changed.begin(), changed.end());
        changed.erase(std::unique(changed.begin(), changed.end()), changed.end());
        for (const int number : changed) {
            regroup(step, number, {}, {});
        }
    }
}

void blast(Step& step) {
    for (const auto& entry : step.state.sources) {
        const std::string& id = entry.first;
        step.each<Blast>(id, [&](size_t element, const Blast& blast, float weight) {
            const auto& due = step.scene.blasts;
            if (std::find(due.begin(), due.end(), element) != due.end()) {
                blast_off(step, id, element, blast, weight);
            }
        });
    }
}

void fracture(Step& step) {
    step.state.met_before = std::move(step.state.meetings);
    step.state.meetings.clear();
    const std::vector<RigidContact>& contacts = step.world.contacts();
    std::map<int, std::vector<RigidContact>> of_bodies;
    for (const RigidContact& contact : contacts) {
        const bool is_live =
            step.world.is_awake(contact.body) || (contact.other >= 0 && step.world.is_awake(contact.other));
        if (is_live) {
            of_bodies[contact.body].push_back(contact);
        }
    }
    // The blow of a moving collider: its mass and speed, spread over the points where it strikes.
    std::map<std::pair<int, int>, int> points;
    for (const RigidContact& strike : step.world.strikes()) {
        ++points[{strike.body, strike.collider}];
    }
    for (RigidContact strike : step.world.strikes()) {
        const Surface& surface = *surface_of(step.effect.elements[size_t(strike.collider)].body);
        strike.impulse = surface.blow * strike.closing / float(points[{strike.body, strike.collider}]);
        strike.whole_impulse = strike.normal * strike.impulse;
        of_bodies[strike.body].push_back(strike);
    }
    for (const auto& [number, body] : step.state.bodies) {
        if (body.is_fixed && !body.is_checked) {
            of_bodies[number]; // under its own weight
        }
    }
    for (const auto& [number, met] : of_bodies) {
        note_hits(step, number, met);
        step.state.bodies.at(number).is_checked = true;
        if (step.state.bodies.at(number).pieces.size() > 1) {
            come_apart(step, number, met);
        }
    }
}

} // namespace ember::debris
