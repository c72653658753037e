#include "core/debris/debris.h"

#include "core/assets/blended_surface.h"
#include "core/base/hash.h"
#include "core/base/stopwatch.h"
#include "core/debris/fracture.h"
#include "core/stage/placements.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// Purposes of hashed numbers.
enum : uint32_t { for_linger = 201, for_clearing, for_turn, for_place = 211, for_link = 221 };

float random_of(uint32_t seed, uint32_t number, uint32_t purpose) {
    return float(mixed_seed(mixed_seed(seed, number), purpose) >> 8) / 16777216.0f;
}

float drawn(const Range& range, uint32_t seed, uint32_t number, uint32_t purpose) {
    return range.low + (range.high - range.low) * random_of(seed, number, purpose);
}

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

// Lower than this nothing is seen again (m).
constexpr float abyss_m = -200;

// How many moments first, first + every, ... lie in a step.
int moments_in(const StepTime& time, double first, double every) {
    const double end = time.start_s + time.step_s;
    const auto before = [&](double t) {
        if (t < first) {
            return 0.0;
        }
        return every > 0 ? std::floor((t - first) / every + 1e-9) + 1 : 1.0;
    };
    return int(before(end - 1e-9) - before(time.start_s - 1e-9));
}

uint32_t seed_of(const Effect& effect, const std::string& id) {
    return mixed_seed(effect.seed, hash_of(id));
}

} // namespace

struct Debris::Zone {
    ReachRow reach;
    const CleanupZone* zone;
    const std::string* id;
};

struct Debris::Step {
    const Scene& scene;
    const Effect& effect;
    double now_s;
    float step_s;
    std::vector<Placement> from, to;               // of the elements
    std::map<std::string, SourceProgram> programs; // of the breakables

    size_t index_of(const std::string& id) const { return *scene.prepared.index_of(id); }
    const Breakable& breakable(const std::string& id) const {
        return std::get<Breakable>(effect.elements[index_of(id)].body);
    }
    // Visits active influences of a kind with what they do to a breakable.
    template <class Body>
    void each(const std::string& breakable, auto visit) const {
        for (size_t i = 0; i < effect.elements.size(); ++i) {
            const auto* body = std::get_if<Body>(&effect.elements[i].body);
            const Link* link = body != nullptr ? find_link(effect.elements[i], breakable) : nullptr;
            if (link != nullptr && link->weight > 0 && is_active(effect, effect.elements[i])) {
                visit(i, *body, link->weight);
            }
        }
    }
};

Debris::Debris() : world_(std::make_unique<RigidWorld>()) {}
Debris::~Debris() = default;
Debris::Debris(Debris&&) noexcept = default;
Debris& Debris::operator=(Debris&&) noexcept = default;

void Debris::clear() {
    *this = Debris();
}

// --- what there is

Placement Debris::whole_of(int number) const {
    const Body& body = bodies_.at(number);
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
    std::deque<Instance>& instances = sources_.at(body.breakable).instances;
    return *std::find_if(instances.begin(), instances.end(),
                         [&](const Instance& each) { return each.number == body.instance; });
}

const std::vector<int>& Debris::hulls_of(const std::shared_ptr<const Cut>& cut) {
    for (const Hulls& hulls : hulls_) {
        if (hulls.cut == cut) {
            return hulls.of_piece;
        }
    }
    Hulls hulls = {cut, {}};
    for (const ember::Piece& piece : cut->pieces) {
        hulls.of_piece.push_back(world_->add_hull(piece.mesh.corners));
    }
    hulls_.push_back(std::move(hulls));
    return hulls_.back().of_piece;
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
    bodies_[number] = std::move(body);
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
    Body& body = bodies_.at(number);
    std::erase(body.pieces, index);
    if (body.pieces.empty()) {
        world_->remove_body(number);
        bodies_.erase(number);
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
    for (auto source = sources_.begin(); source != sources_.end();) {
        if (!goes(source->first, source->second)) {
            ++source;
            continue;
        }
        std::erase_if(bodies_, [&](const auto& entry) {
            if (entry.second.breakable == source->first) {
                world_->remove_body(entry.first);
            }
            return entry.second.breakable == source->first;
        });
        source = sources_.erase(source);
    }
    std::erase_if(hulls_, [&](const Hulls& hulls) {
        const bool is_used = std::any_of(sources_.begin(), sources_.end(),
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
    Source& source = sources_[id];
    const size_t count = source.cut->pieces.size();
    if (source.live + count > size_t(breakable.capacity) + (stands ? count : 0)) {
        source.refused += count;
        return;
    }
    source.live += count;
    Instance& instance = source.instances.emplace_back();
    instance.number = source.next_instance++;
    instance.born_s = step.now_s;
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
    const std::vector<uint32_t> groups = groups_of(count, bonds, instance.broken);
    const uint32_t last = *std::max_element(groups.begin(), groups.end());
    std::vector<std::vector<uint32_t>> bodies(last + 1);
    for (uint32_t i = 0; i < count; ++i) {
        bodies[groups[i]].push_back(i);
    }
    for (std::vector<uint32_t>& pieces : bodies) {
        add_body(id, breakable, instance, std::move(pieces), whole, velocity, {});
    }
}

// Puts up what stands from the start or returns, and throws in what is dropped.
void Debris::raise(Step& step) {
    const PreparedEffect& prepared = step.scene.prepared;
    for (size_t i = 0; i < step.effect.elements.size(); ++i) {
        const Element& element = step.effect.elements[i];
        const auto* breakable = std::get_if<Breakable>(&element.body);
        if (breakable == nullptr || !is_active(step.effect, element) || !prepared.elements[i]->cut) {
            continue;
        }
        const bool is_new = !sources_.contains(element.id);
        Source& source = sources_[element.id];
        if (is_new) {
            source.cut = prepared.elements[i]->cut;
            source.facts = facts_of(*source.cut);
        }
        if (!breakable->stands) {
            continue;
        }
        const auto standing = std::find_if(source.instances.rbegin(), source.instances.rend(),
                                           [](const Instance& each) { return each.stands; });
        const bool returns = breakable->returns_after > 0 && standing != source.instances.rend() &&
                             step.now_s - standing->born_s > double(breakable->returns_after) - 1e-6;
        if (returns) {
            for (Instance& old : source.instances) {
                for (uint32_t p = 0; p < old.pieces.size() && old.stands; ++p) {
                    // Without any cleanup what lies about stays; what still stands gives way.
                    const bool cleans = breakable->at_rest != RestFate::stay || breakable->longest_life > 0;
                    if (old.pieces[p].state <= State::parked && (cleans || !old.pieces[p].is_loose)) {
                        leave(step, element.id, old, p, State::clearing);
                    }
                }
                old.stands = false;
            }
        }
        if (is_new || returns) {
            stand(step, i, step.to[i], true, {});
        }
    }
    for (size_t i = 0; i < step.effect.elements.size(); ++i) {
        const Element& element = step.effect.elements[i];
        const auto* dropper = std::get_if<Dropper>(&element.body);
        if (dropper == nullptr || !is_active(step.effect, element)) {
            continue;
        }
        const auto drops = prepared.index_of(dropper->drops);
        const auto source = sources_.find(dropper->drops);
        if (!drops || source == sources_.end()) {
            continue;
        }
        const uint32_t seed = seed_of(step.effect, element.id);
        const int count = moments_in(step.scene.time, double(dropper->first), double(dropper->every));
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

// Pins come and go while the effect runs. What moves is not caught by one.
void Debris::pin(Step& step) {
    for (auto& [id, source] : sources_) {
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
                if (piece.state != State::physics || piece.is_loose) {
                    continue;
                }
                const bool may_be =
                    piece.is_pinned || bodies_.at(piece.body).is_fixed || !world_->is_awake(piece.body);
                const bool is_pinned = may_be && is_in(step, pins, placement_of(instance, piece).position);
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

// What the body's pieces hang together as now, with its motion about its middle; the same body if that is
// one.
std::vector<int> Debris::regroup(Step& step, int number, const Vec3& velocity, const Vec3& spin) {
    const Body old = bodies_.at(number);
    Instance& instance = instance_of(old);
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
    const std::vector<uint32_t> groups = groups_of(old.pieces.size(), bonds, none);
    const bool is_fixed = std::any_of(old.pieces.begin(), old.pieces.end(),
                                      [&](uint32_t i) { return instance.pieces[i].is_pinned; });
    const uint32_t last = *std::max_element(groups.begin(), groups.end());
    if (last == 0 && is_fixed == old.is_fixed) {
        return {number};
    }
    const Placement whole = whole_of(number);
    const Vec3 middle = whole.position + whole.axes.out(old.middle);
    world_->remove_body(number);
    bodies_.erase(number);
    std::vector<std::vector<uint32_t>> parts(last + 1);
    for (uint32_t i = 0; i < old.pieces.size(); ++i) {
        parts[groups[i]].push_back(old.pieces[i]);
    }
    std::vector<int> bodies;
    for (std::vector<uint32_t>& pieces : parts) {
        const int part = add_body(old.breakable, step.breakable(old.breakable), instance, std::move(pieces),
                                  whole, velocity, spin);
        const Vec3 arm = world_->placement(part).position - middle;
        if (!bodies_.at(part).is_fixed) {
            world_->set_velocity(part, velocity + cross(spin, arm), spin);
        }
        bodies.push_back(part);
    }
    return bodies;
}

// --- what acts

bool Debris::is_in(const Step& step, const std::vector<ReachRow>& reaches, const Vec3& place) {
    return std::any_of(reaches.begin(), reaches.end(), [&](const ReachRow& reach) {
        return step.scene.kernels.reach_share(reach, place) > 0.5f;
    });
}

bool Debris::lets_through(const void* context, int collider, int number) {
    const auto& debris = *static_cast<const Debris*>(context);
    const Body& body = debris.bodies_.at(number);
    const auto links = debris.collider_links_.find(collider);
    const auto link = links != debris.collider_links_.end() ? links->second.find(body.breakable)
                                                            : std::map<std::string, float>::const_iterator();
    if (links == debris.collider_links_.end() || link == links->second.end()) {
        return true;
    }
    const uint32_t number_of_piece = mixed_seed(body.instance, body.pieces.front());
    return random_of(hash_of(body.breakable) + uint32_t(collider), number_of_piece, for_link) >= link->second;
}

void Debris::place_colliders(Step& step) {
    std::map<int, std::map<std::string, float>> links;
    std::map<size_t, ColliderRow> rows;
    for (const auto& [id, program] : step.programs) {
        for (const Influence<ColliderRow>& collider : program.colliders) {
            if (collider.row.kind >= 0) {
                links[int(collider.element)][id] = collider.weight;
                rows.emplace(collider.element, collider.row);
            }
        }
    }
    std::vector<RigidCollider> colliders;
    for (const auto& [element, row] : rows) {
        const auto window = step.scene.windows.find(element);
        const std::shared_ptr<const GridTable> grid =
            window != step.scene.windows.end() ? window->second : step.scene.prepared.elements[element]->grid;
        std::shared_ptr<const Mesh> mesh;
        if (row.kind == COLLIDER_DISTANCES) {
            GridMesh& kept = grid_meshes_[element];
            if (kept.grid != grid) {
                const std::array<int, 3> samples = {int(grid->cells.x), int(grid->cells.y),
                                                    int(grid->cells.z)};
                kept = {grid, std::make_shared<const Mesh>(
                                  surface_of(grid->values, samples, grid->low, 1 / grid->per_cell.x))};
            }
            mesh = kept.mesh;
        }
        if (row.kind != COLLIDER_DISTANCES || !mesh->triangles.empty()) {
            colliders.push_back(
                {int(element), row, step.from[element], step.to[element], grid, std::move(mesh)});
        }
    }
    const bool other_links = links != collider_links_;
    collider_links_ = std::move(links);
    world_->set_colliders(colliders, other_links);
}

// Forces give bodies the velocity that they would give a particle there.
void Debris::push(Step& step) {
    for (const auto& [id, program] : step.programs) {
        std::vector<int> numbers;
        for (const auto& [number, body] : bodies_) {
            if (body.breakable == id && (body.is_fixed || world_->is_awake(number))) {
                numbers.push_back(number);
            }
        }
        ParticleBlock block;
        ForceSums sums;
        PathStarts starts;
        for (size_t first = 0; first < numbers.size(); first += block_size) {
            block.count = int(std::min<size_t>(block_size, numbers.size() - first));
            for (int i = 0; i < block.count; ++i) {
                const int number = numbers[first + size_t(i)];
                const Vec3 place = world_->placement(number).position, velocity = world_->velocity(number);
                block.x[i] = place.x;
                block.y[i] = place.y;
                block.z[i] = place.z;
                block.vx[i] = velocity.x;
                block.vy[i] = velocity.y;
                block.vz[i] = velocity.z;
                block.lifetime[i] = 1e30f;
                block.number[i] = uint32_t(number);
            }
            step.scene.kernels.clear({}, block, sums);
            for (const Influence<ForceRow>& force : program.forces) {
                if (force.row.kind != FORCE_FOUND) {
                    step.scene.kernels.add_force(force.row, block, step.step_s, {}, sums);
                }
            }
            step.scene.kernels.advance({}, sums, step.step_s, block, starts);
            for (int i = 0; i < block.count; ++i) {
                const int number = numbers[first + size_t(i)];
                Body& body = bodies_.at(number);
                const Vec3 velocity = {block.vx[i], block.vy[i], block.vz[i]};
                body.pushed = velocity - Vec3{starts.vx[i], starts.vy[i], starts.vz[i]};
                if (!body.is_fixed) {
                    world_->set_velocity(number, velocity, world_->spin(number));
                }
            }
        }
    }
}

void Debris::blast(Step& step) {
    for (auto& [id, source] : sources_) {
        step.each<Blast>(id, [&](size_t element, const Blast& blast, float weight) {
            const bool is_due = blast.set_off_by.empty() ? moments_in(step.scene.time, double(blast.first),
                                                                      double(blast.every)) > 0
                                                         : comes_near(step, element, blast);
            if (is_due) {
                blast_off(step, id, element, blast, weight);
            }
        });
    }
}

// Whether what sets a blast off is near now and was not when the step began.
bool Debris::comes_near(const Step& step, size_t element, const Blast& blast) {
    const auto mover = step.scene.prepared.index_of(blast.set_off_by);
    const auto distance = [&](const std::vector<Placement>& at) {
        return length(at[*mover].position - reach_row(step.scene.prepared, at, element).position);
    };
    return mover && distance(step.to) <= blast.within && distance(step.from) > blast.within;
}

void Debris::blast_off(Step& step, const std::string& id, size_t element, const Blast& blast, float weight) {
    const ReachRow reach = reach_row(step.scene.prepared, step.to, element);
    const auto share_at = [&](const Vec3& place) {
        return weight * step.scene.kernels.reach_share(reach, place);
    };
    std::vector<int> numbers;
    for (const auto& [number, body] : bodies_) {
        if (body.breakable == id) {
            numbers.push_back(number);
        }
    }
    const Breakable& breakable = step.breakable(id);
    for (const int number : numbers) {
        Instance& instance = instance_of(bodies_.at(number));
        const Placement whole = whole_of(number);
        for (size_t k = 0; k < instance.broken.size(); ++k) {
            const Bond& bond = instance.cut->bonds[k];
            const bool is_ours = instance.broken[k] == 0 && instance.pieces[bond.a].body == number;
            const Vec3 place = whole.position + whole.axes.out(bond.middle);
            if (is_ours && share_at(place) * blast.damage >= breakable.strength) {
                let_go(instance, id, k, whole, world_->velocity(number));
            }
        }
        for (const int part : regroup(step, number, world_->velocity(number), world_->spin(number))) {
            const Body& body = bodies_.at(part);
            for (const uint32_t i : body.is_fixed ? std::vector<uint32_t>() : body.pieces) {
                const ember::Piece& piece = instance.cut->pieces[instance.pieces[i].cut_piece];
                const Vec3 place = whole.position + whole.axes.out(piece.centre);
                const float speed = blast.speed * share_at(place);
                if (speed != 0) {
                    world_->push(part,
                                 normalized(place - reach.position, {0, 1, 0}) *
                                     (speed * piece.volume * breakable.density),
                                 place);
                }
            }
        }
    }
}

void Debris::let_go(Instance& instance, const std::string& id, size_t bond, const Placement& whole,
                    const Vec3& velocity) {
    instance.broken[bond] = 1;
    const Bond& broken = instance.cut->bonds[bond];
    events_[id].broken.push_back(
        {whole.position + whole.axes.out(broken.middle), velocity, whole.axes.out(broken.normal), broken.area,
         mixed_seed(instance.number, uint32_t(bond)), instance.cut, uint32_t(bond), whole});
}

// --- what breaks

void Debris::fracture(Step& step) {
    const std::vector<RigidContact>& contacts = world_->contacts();
    std::map<int, std::vector<RigidContact>> of_bodies;
    for (const RigidContact& contact : contacts) {
        const bool is_live =
            world_->is_awake(contact.body) || (contact.other >= 0 && world_->is_awake(contact.other));
        if (is_live) {
            of_bodies[contact.body].push_back(contact);
        }
    }
    // The blow of a moving collider: its mass and speed, spread over the points where it strikes.
    std::map<std::pair<int, int>, int> points;
    for (const RigidContact& strike : world_->strikes()) {
        ++points[{strike.body, strike.collider}];
    }
    for (RigidContact strike : world_->strikes()) {
        const Surface& surface = *surface_of(step.effect.elements[size_t(strike.collider)].body);
        strike.impulse = surface.blow * strike.closing / float(points[{strike.body, strike.collider}]);
        strike.whole_impulse = strike.normal * strike.impulse;
        of_bodies[strike.body].push_back(strike);
    }
    for (const auto& [number, body] : bodies_) {
        if (body.is_fixed && !body.is_checked) {
            of_bodies[number]; // under its own weight
        }
    }
    for (const auto& [number, met] : of_bodies) {
        const std::string& id = bodies_.at(number).breakable;
        for (const RigidContact& contact : met) {
            if (contact.closing > least_hit) {
                events_[id].hits.push_back({contact.place,
                                            world_->velocity(number),
                                            contact.normal,
                                            contact.closing,
                                            mixed_seed(uint32_t(number), contact.tag),
                                            nullptr,
                                            0,
                                            {}});
            }
        }
        bodies_.at(number).is_checked = true;
        if (bodies_.at(number).pieces.size() > 1) {
            come_apart(step, number, met);
        }
    }
}

void Debris::come_apart(Step& step, int number, const std::vector<RigidContact>& contacts) {
    const Body body = bodies_.at(number);
    Instance& instance = instance_of(body);
    const Breakable& breakable = step.breakable(body.breakable);
    const Placement whole = whole_of(number);
    std::vector<uint32_t> local(instance.pieces.size(), UINT32_MAX);
    std::vector<LoadedPiece> pieces;
    for (const uint32_t i : body.pieces) {
        const ember::Piece& piece = instance.cut->pieces[instance.pieces[i].cut_piece];
        const float mass = piece.volume * breakable.density;
        local[i] = uint32_t(pieces.size());
        pieces.push_back({mass, whole.axes.out(piece.centre), body.pushed * (mass / step.step_s),
                          instance.pieces[i].is_pinned});
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
            pieces[local[contact.tag]].force +=
                contact.normal * (std::min(contact.impulse, most) / step.step_s);
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
        bonds.push_back({local[bond.a], local[bond.b], bond.area / std::max(length_m, 1e-6f),
                         breakable.strength * pascals * bond.area});
        of_cut.push_back(k);
    }
    std::vector<char> broken(bonds.size());
    if (break_bonds(pieces, bonds, broken) == 0) {
        return;
    }
    const Vec3 velocity = body.is_fixed ? body.pushed : world_->velocity_before(number);
    const Vec3 spin = body.is_fixed ? Vec3() : world_->spin_before(number);
    for (size_t k = 0; k < bonds.size(); ++k) {
        if (broken[k] != 0) {
            let_go(instance, body.breakable, of_cut[k], whole, velocity);
        }
    }
    const Vec3 gained = (world_->velocity(number) - velocity) * world_->mass(number);
    const std::vector<int> parts = regroup(step, number, velocity, spin);
    if (parts.size() == 1) {
        return; // cracked, but it still hangs together
    }
    share_out(step, instance, parts, contacts, body.is_fixed ? std::nullopt : std::optional(gained));
}

// The whole took the impulses of its contacts as one; a free one has `gained` from them (N s). Now each goes
// to the part that was hit, as far as the part alone would have taken it; what is more moves all parts, or
// goes back to what hit them.
void Debris::share_out(Step& step, const Instance& instance, const std::vector<int>& parts,
                       const std::vector<RigidContact>& contacts, const std::optional<Vec3>& gained) {
    std::map<int, std::pair<float, float>> taken; // of each part: the sum of impulses, the fastest closing
    for (const RigidContact& contact : contacts) {
        auto& [sum, closing] = taken[instance.pieces[contact.tag].body];
        sum += contact.impulse;
        closing = std::max(closing, contact.closing);
    }
    float all_mass = 0;
    for (const int part : parts) {
        all_mass += bodies_.at(part).is_fixed ? 0 : world_->mass(part);
    }
    Vec3 rest = gained.value_or(Vec3());
    for (const RigidContact& contact : contacts) {
        const int part = instance.pieces[contact.tag].body;
        const auto& [sum, closing] = taken.at(part);
        const float bounce = step.breakable(bodies_.at(part).breakable).bounce;
        const float alone = world_->mass(part) * closing * (1 + bounce);
        const float share = sum > 0 ? std::min(alone / sum, 1.0f) : 0.0f;
        if (bodies_.at(part).is_fixed) {
            continue;
        }
        world_->push(part, contact.whole_impulse * share, contact.place);
        if (gained) {
            rest -= contact.whole_impulse * share;
        } else if (contact.other >= 0 && bodies_.contains(contact.other)) {
            world_->push(contact.other, contact.whole_impulse * (1 - share), contact.place);
        }
    }
    for (const int part : parts) {
        if (!bodies_.at(part).is_fixed && all_mass > 0) {
            world_->push(part, rest * (world_->mass(part) / all_mass), world_->placement(part).position);
        }
    }
}

// --- what comes to rest, and goes

void Debris::settle(Step& step) {
    for (auto& [number, body] : bodies_) {
        const Breakable& breakable = step.breakable(body.breakable);
        const Vec3 velocity = world_->velocity(number), spin = world_->spin(number);
        const bool is_slow = !world_->is_awake(number) || (length(velocity) <= breakable.rest_speed &&
                                                           length(spin) <= 3 * breakable.rest_speed);
        body.slow_s = is_slow ? (body.slow_s < 0 ? step.now_s : body.slow_s) : -1;
        Instance& instance = instance_of(body);
        if (world_->is_awake(number) && !body.is_fixed && !instance.pieces[body.pieces.front()].is_loose) {
            // What was put up is loose once it has left its place.
            constexpr float far_m = 0.05f;
            const Placement whole = whole_of(number);
            const Vec3 centre = instance.cut->pieces[instance.pieces[body.pieces.front()].cut_piece].centre;
            const Vec3 away = whole.position + whole.axes.out(centre) -
                              (instance.whole.position + instance.whole.axes.out(centre));
            const float turned = dot(whole.axes.y, instance.whole.axes.y);
            if (!instance.stands || length(away) > far_m || turned < 0.99f) {
                for (const uint32_t i : body.pieces) {
                    instance.pieces[i].is_loose = true;
                    instance.pieces[i].born_s = step.now_s;
                }
            }
        }
        constexpr double rest_after_s = 0.5;
        const bool rests = !body.is_fixed && body.slow_s >= 0 &&
                           step.now_s - body.slow_s >= rest_after_s - 1e-6 &&
                           instance.pieces[body.pieces.front()].is_loose;
        for (const uint32_t i : body.pieces) {
            Piece& piece = instance.pieces[i];
            if (rests && piece.rest_s < 0) {
                piece.rest_s = step.now_s;
                events_[body.breakable].rests.push_back({placement_of(instance, piece).position,
                                                         velocity,
                                                         {0, 1, 0},
                                                         0,
                                                         piece.number,
                                                         nullptr,
                                                         0,
                                                         {}});
            } else if (!rests) {
                piece.rest_s = -1;
            }
        }
    }
}

void Debris::leave(Step& step, const std::string& id, Instance& instance, uint32_t index, State state) {
    Source& source = sources_.at(id);
    Piece& piece = instance.pieces[index];
    if (piece.state == State::physics) {
        take_out(instance, index, state);
        constexpr size_t most_remembered = 400;
        if (piece.is_loose) {
            source.lingered.push_back(float(step.now_s - piece.born_s));
        }
        if (source.lingered.size() > most_remembered) {
            source.lingered.erase(source.lingered.begin());
        }
    }
    piece.state = state;
    if (state == State::clearing) {
        piece.clear_s = step.now_s;
        piece.clear_for_s =
            drawn(step.breakable(id).clear_time, seed_of(step.effect, id), piece.number, for_clearing);
        events_[id].cleared.push_back(
            {piece.placement.position, {}, {0, 1, 0}, 0, piece.number, nullptr, 0, {}});
    }
}

// What becomes of a body that is no longer needed; physics: it stays as it is.
Debris::State Debris::fate_of(Step& step, const std::string& id, int number, const std::vector<Zone>& zones) {
    const Breakable& breakable = step.breakable(id);
    const Body& body = bodies_.at(number);
    const Piece& first = instance_of(body).pieces[body.pieces.front()];
    const Vec3 place = world_->placement(number).position;
    if (place.y < abyss_m || !std::isfinite(place.x + place.y + place.z)) {
        return State::gone;
    }
    if (!first.is_loose) {
        return State::physics;
    }
    if (breakable.longest_life > 0 && step.now_s - first.born_s >= double(breakable.longest_life) - 1e-6) {
        return State::clearing;
    }
    State fate = State::physics;
    const float linger = drawn(breakable.linger, seed_of(step.effect, id), first.number, for_linger);
    if (first.rest_s >= 0 && breakable.at_rest != RestFate::stay &&
        step.now_s - first.rest_s >= double(linger) - 1e-6) {
        fate = breakable.at_rest == RestFate::park ? State::parked : State::clearing;
    }
    const float speed = length(world_->velocity(number));
    for (const Zone& zone : zones) {
        if (step.scene.kernels.reach_share(zone.reach, place) <= 0.5f) {
            continue;
        }
        if (zone.zone->fate == ZoneFate::call_back) {
            return fate == State::parked ? State::physics : fate;
        }
        if (speed > zone.zone->below_speed) {
            continue;
        }
        if (zone.zone->fate == ZoneFate::doze) {
            taken_[*zone.id] += world_->is_awake(number) ? body.pieces.size() : 0;
            world_->doze(number);
        } else {
            taken_[*zone.id] += body.pieces.size();
            fate = zone.zone->fate == ZoneFate::park ? State::parked : State::clearing;
        }
    }
    return fate;
}

// A parked piece, at the place where it was parked, is in the physics again.
void Debris::call_back(Step& step, const std::string& id, Instance& instance, uint32_t index) {
    Piece& piece = instance.pieces[index];
    const Placement at = piece.placement;
    const Vec3 centre = instance.cut->pieces[piece.cut_piece].centre;
    piece.state = State::physics;
    piece.rest_s = -1;
    add_body(id, step.breakable(id), instance, {index}, {at.position - at.axes.out(centre), at.axes}, {}, {});
}

void Debris::clean(Step& step) {
    for (auto& [id, source] : sources_) {
        std::vector<Zone> zones;
        step.each<CleanupZone>(id, [&](size_t i, const CleanupZone& zone, float) {
            zones.push_back({reach_row(step.scene.prepared, step.to, i), &zone, &step.effect.elements[i].id});
        });
        // Those that call back have the first word.
        std::stable_partition(zones.begin(), zones.end(),
                              [](const Zone& zone) { return zone.zone->fate == ZoneFate::call_back; });
        std::vector<int> numbers;
        for (const auto& [number, body] : bodies_) {
            if (body.breakable == id && !body.is_fixed) {
                numbers.push_back(number);
            }
        }
        for (const int number : numbers) {
            const State fate = fate_of(step, id, number, zones);
            const Body body = bodies_.at(number);
            for (const uint32_t i : fate != State::physics ? body.pieces : std::vector<uint32_t>()) {
                leave(step, id, instance_of(body), i, fate);
            }
        }
        for (Instance& instance : source.instances) {
            clean_out_of_physics(step, id, instance, zones);
        }
        hold_capacity(step, id, source);
        std::erase_if(source.instances, [](const Instance& instance) {
            return std::all_of(instance.pieces.begin(), instance.pieces.end(),
                               [](const Piece& piece) { return piece.state == State::gone; });
        });
    }
}

void Debris::clean_out_of_physics(Step& step, const std::string& id, Instance& instance,
                                  const std::vector<Zone>& zones) {
    const float longest = step.breakable(id).longest_life;
    for (uint32_t i = 0; i < instance.pieces.size(); ++i) {
        Piece& piece = instance.pieces[i];
        const bool is_called =
            piece.state == State::parked && std::any_of(zones.begin(), zones.end(), [&](const Zone& zone) {
                return zone.zone->fate == ZoneFate::call_back &&
                       step.scene.kernels.reach_share(zone.reach, piece.placement.position) > 0.5f;
            });
        if (is_called) {
            call_back(step, id, instance, i);
        } else if (piece.state == State::parked && longest > 0 &&
                   step.now_s - piece.born_s >= double(longest) - 1e-6) {
            leave(step, id, instance, i, State::clearing);
        } else if (piece.state == State::clearing &&
                   step.now_s - piece.clear_s >= double(piece.clear_for_s) - 1e-6) {
            piece.state = State::gone;
        }
    }
}

void Debris::hold_capacity(Step& step, const std::string& id, Source& source) {
    struct Loose {
        Instance* instance;
        uint32_t piece;
        float order; // the least go first
    };
    const Breakable& breakable = step.breakable(id);
    const Stage& stage = step.effect.stage;
    const float turn = stage.camera_azimuth * radians_per_degree,
                lift = stage.camera_height * radians_per_degree;
    const Vec3 back = {std::cos(lift) * std::sin(turn), std::sin(lift), std::cos(lift) * std::cos(turn)};
    const Vec3 eye = stage.camera_target + back * stage.camera_distance;
    std::vector<Loose> loose;
    for (Instance& instance : source.instances) {
        for (uint32_t i = 0; i < instance.pieces.size(); ++i) {
            const Piece& piece = instance.pieces[i];
            if (!piece.is_loose || piece.state > State::parked) {
                continue;
            }
            const Vec3 way = placement_of(instance, piece).position - eye;
            const float ahead = -dot(way, back) / std::max(length(way), 1e-6f);
            float order = float(piece.born_s);
            if (breakable.cap_takes == CapTakes::smallest) {
                order = instance.cut->pieces[piece.cut_piece].volume;
            } else if (breakable.cap_takes == CapTakes::farthest) {
                order = -length(way);
            } else if (breakable.cap_takes == CapTakes::unseen) {
                order = ahead; // the farther from the middle of the picture, the sooner
            }
            loose.push_back({&instance, i, order});
        }
    }
    if (loose.size() <= size_t(breakable.capacity)) {
        return;
    }
    std::stable_sort(loose.begin(), loose.end(),
                     [](const Loose& a, const Loose& b) { return a.order < b.order; });
    for (size_t i = 0; i < loose.size() - size_t(breakable.capacity); ++i) {
        Piece& piece = loose[i].instance->pieces[loose[i].piece];
        // What hangs together goes together.
        const std::vector<uint32_t> pieces = piece.state == State::physics
                                                 ? bodies_.at(piece.body).pieces
                                                 : std::vector<uint32_t>{loose[i].piece};
        for (const uint32_t p : piece.state <= State::parked ? pieces : std::vector<uint32_t>()) {
            leave(step, id, *loose[i].instance, p, State::clearing);
        }
    }
}

void Debris::measure(Step& step, Meters& meters) {
    for (auto& [id, source] : sources_) {
        ElementMeter& element = meters.elements[step.index_of(id)];
        DebrisMeter& meter = element.debris;
        meter.cut = source.facts;
        source.live = 0;
        for (const Instance& instance : source.instances) {
            for (const Piece& piece : instance.pieces) {
                meter.pieces += piece.state != State::gone ? 1 : 0;
                meter.parked += piece.state == State::parked ? 1 : 0;
                source.live += piece.state <= State::parked ? 1 : 0;
            }
        }
        for (const auto& [number, body] : bodies_) {
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
        meters.debris.parked += meter.parked;
        meters.debris.bodies += meter.bodies;
        meters.debris.linger_median_s = std::max(meters.debris.linger_median_s, meter.linger_median_s);
        meters.debris.linger_longest_s = std::max(meters.debris.linger_longest_s, meter.linger_longest_s);
    }
}

void Debris::step(const Scene& scene, Meters& meters) {
    events_.clear();
    keep_only(scene);
    const Effect& effect = *scene.prepared.effect;
    const bool has_any = std::any_of(effect.elements.begin(), effect.elements.end(), [](const Element& each) {
        return std::holds_alternative<Breakable>(each.body);
    });
    if (!has_any) {
        return;
    }
    Stopwatch watch;
    world_->set_filter(&lets_through, this);
    Step step = {scene,
                 effect,
                 scene.time.start_s + scene.time.step_s,
                 float(scene.time.step_s),
                 placements_at(scene.prepared, scene.time.start_s),
                 placements_at(scene.prepared, scene.time.start_s + scene.time.step_s),
                 {}};
    raise(step);
    for (const auto& [id, source] : sources_) {
        step.programs.emplace(id, compiled_for(scene.prepared, scene.windows, scene.time, step.index_of(id)));
    }
    pin(step);
    place_colliders(step);
    const bool is_edited = effect_ != scene.prepared.effect;
    for (auto& [number, body] : bodies_) {
        if (is_edited && effect.drives.empty()) {
            const Breakable& breakable = step.breakable(body.breakable);
            world_->set_surface(number, breakable.bounce, breakable.friction, breakable.rest_speed);
            world_->wake(number);
            body.is_checked = false;
        }
    }
    effect_ = scene.prepared.effect;
    now_s_ = step.now_s;
    push(step);
    blast(step);
    world_->step(scene.time.step_s);
    fracture(step);
    settle(step);
    clean(step);
    measure(step, meters);
    for (const auto& [id, count] : taken_) {
        if (const auto zone = scene.prepared.index_of(id)) {
            meters.elements[*zone].debris.taken = count;
        }
    }
    meters.debris_ms += watch.elapsed_ms();
    for (const auto& [id, source] : sources_) {
        // By the share of bodies that move.
        const size_t element = step.index_of(id);
        const double share = meters.debris.awake > 0
                                 ? double(meters.elements[element].debris.awake) / double(meters.debris.awake)
                                 : 1 / double(sources_.size());
        meters.elements[element].ms += meters.debris_ms * share;
    }
}

void Debris::write(const PreparedEffect& prepared, std::vector<FrameDebris>& out) const {
    size_t count = 0;
    out.resize(sources_.size());
    for (const auto& [id, source] : sources_) {
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
                const float left =
                    1 -
                    std::clamp(float((now_s_ - piece.clear_s) / std::max(double(piece.clear_for_s), 1e-6)),
                               0.0f, 1.0f);
                switch (breakable.clear_by) {
                case ClearBy::shrinking:
                    shown.size = left;
                    break;
                case ClearBy::fading:
                    shown.opacity = left;
                    break;
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
    for (const auto& [number, body] : bodies_) {
        if (body.breakable == id) {
            bodies.push_back({world_->placement(number).position, world_->velocity(number),
                              world_->mass(number), body.pieces.size(), body.is_fixed,
                              world_->is_awake(number)});
        }
    }
    return bodies;
}

} // namespace ember
