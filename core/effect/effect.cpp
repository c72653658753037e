#include "core/effect/effect.h"

#include "core/effect/smoke_size.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace ember {

namespace {

template <class Items>
auto find_by_id(const Items& items, std::string_view id) -> decltype(&items.front()) {
    const auto found =
        std::find_if(items.begin(), items.end(), [id](const auto& item) { return item.id == id; });
    return found == items.end() ? nullptr : &*found;
}

} // namespace

int turn_of(const WaysToGive& ways, GiveWay way) {
    const std::array<int, give_ways> turns = {ways.births_turn,  ways.copies_turn,  ways.smoke_turn,
                                              ways.picture_turn, ways.cleanup_turn, ways.pieces_turn,
                                              ways.far_turn,     ways.cells_turn};
    return turns[size_t(way)];
}

float least_of(const WaysToGive& ways, GiveWay way) {
    const std::array<float, give_ways> least = {ways.births_least,  ways.copies_least,  ways.smoke_least,
                                                ways.picture_least, ways.cleanup_least, ways.pieces_least,
                                                ways.far_least,     ways.cells_least};
    return least[size_t(way)];
}

const Element* find_element(const Effect& effect, std::string_view id) {
    return find_by_id(effect.elements, id);
}

const Look* find_look(const Effect& effect, std::string_view id) {
    return find_by_id(effect.looks, id);
}

const Texture* find_texture(const Effect& effect, std::string_view id) {
    return find_by_id(effect.textures, id);
}

const Note* find_note(const Effect& effect, std::string_view holder, std::string_view parameter) {
    for (const Note& note : effect.notes) {
        if (note.holder == holder && note.parameter == parameter) {
            return &note;
        }
    }
    return nullptr;
}

const Link* find_link(const Element& influence, std::string_view source_id) {
    for (const Link& link : influence.links) {
        if (link.source == source_id) {
            return &link;
        }
    }
    return nullptr;
}

namespace {

template <class Base>
const Base* base_of(const ElementBody& body) {
    return std::visit(
        [](const auto& b) -> const Base* {
            if constexpr (std::is_base_of_v<Base, std::remove_cvref_t<decltype(b)>>) {
                return &b;
            } else {
                return nullptr;
            }
        },
        body);
}

} // namespace

const ClipPlay* clip_of(const ElementBody& body) {
    if (const auto* emitter = std::get_if<Emitter>(&body)) {
        return emitter->shape == BirthShape::clip ? emitter : nullptr;
    }
    const ClipPlay* play = std::get_if<Smoke>(&body);
    if (const auto* breakable = std::get_if<Breakable>(&body)) {
        play = breakable;
    }
    return play != nullptr && !play->clip.empty() ? play : nullptr;
}

const Place* place_of(const ElementBody& body) {
    return base_of<Place>(body);
}

const Reach* reach_of(const ElementBody& body) {
    return base_of<Reach>(body);
}

const PathShape* path_of(const ElementBody& body) {
    return base_of<PathShape>(body);
}

const Surface* surface_of(const ElementBody& body) {
    return base_of<Surface>(body);
}

std::optional<float> frame_ratio_of(const Stage& stage) {
    switch (stage.frame_shape) {
    case FrameShape::free:
        break;
    case FrameShape::wide:
        return 16.0f / 9;
    case FrameShape::cinema:
        return 2.35f;
    case FrameShape::square:
        return 1.0f;
    case FrameShape::upright:
        return 9.0f / 16;
    case FrameShape::own:
        return stage.frame_ratio;
    }
    return std::nullopt;
}

bool takes_links(const ElementBody& source) {
    return family_of(source) == Family::source || std::holds_alternative<Smoke>(source);
}

const char* link_refusal(const Element& influence, const Element& source) {
    if (reach_of(influence.body) == nullptr || !takes_links(source.body)) {
        return "links lead from forces, colliders and what breaks to sources and smoke";
    }
    const auto is_any_of = [&]<class... Body>() {
        return (std::holds_alternative<Body>(influence.body) || ...);
    };
    const Family family = family_of(influence.body);
    const bool is_of_pairs = is_any_of.operator()<Contacts, Flock>();
    const bool has_pieces = std::holds_alternative<Breakable>(source.body);
    if (family == Family::breaking && !has_pieces &&
        !(std::holds_alternative<Blast>(influence.body) && std::holds_alternative<Emitter>(source.body))) {
        return "only breakables break and are cleaned up";
    }
    if (is_of_pairs && !std::holds_alternative<Emitter>(source.body)) {
        return "this is between particles";
    }
    if (std::holds_alternative<PieceCollider>(influence.body) &&
        !std::holds_alternative<Emitter>(source.body)) {
        return has_pieces ? "pieces meet one another anyway" : "pieces hold smoke anyway";
    }
    if (std::holds_alternative<Smoke>(source.body) && is_any_of.operator()<Jitter, Waves>()) {
        return "gas has no single parts that could be kicked or displaced";
    }
    const auto* flow = std::get_if<GridFlow>(&influence.body);
    if (std::holds_alternative<Smoke>(source.body) && flow != nullptr && flow->grid == FlowGrid::smoke) {
        return "this is how smoke flows already";
    }
    return nullptr;
}

bool can_link(const Element& influence, const Element& source) {
    return link_refusal(influence, source) == nullptr;
}

bool can_do(const Element& element, TriggerThen then) {
    switch (then) {
    case TriggerThen::burst:
        return std::holds_alternative<Emitter>(element.body);
    case TriggerThen::blast:
        return std::holds_alternative<Blast>(element.body);
    case TriggerThen::drop:
        return std::holds_alternative<Dropper>(element.body);
    case TriggerThen::call_back:
    case TriggerThen::clear:
        return std::holds_alternative<Breakable>(element.body);
    case TriggerThen::set:
        return family_of(element.body) != Family::trigger;
    case TriggerThen::start:
    case TriggerThen::stop:
        break;
    }
    // What stands, once broken, is not put away again: that is for cleanup.
    return !std::holds_alternative<Breakable>(element.body) && !std::holds_alternative<Trigger>(element.body);
}

Family family_of(const ElementBody& body) {
    if (std::holds_alternative<Emitter>(body) || std::holds_alternative<Breakable>(body)) {
        return Family::source;
    }
    if (std::holds_alternative<Pin>(body) || std::holds_alternative<Blast>(body) ||
        std::holds_alternative<CleanupZone>(body) || std::holds_alternative<Dropper>(body)) {
        return Family::breaking;
    }
    if (std::holds_alternative<Trigger>(body)) {
        return Family::trigger;
    }
    if (base_of<Modulator>(body) != nullptr) {
        return Family::modulator;
    }
    if (std::holds_alternative<Light>(body)) {
        return Family::light;
    }
    if (std::holds_alternative<Smoke>(body) || std::holds_alternative<SmokeSource>(body) ||
        std::holds_alternative<Push>(body)) {
        return Family::smoke;
    }
    if (surface_of(body) != nullptr || std::holds_alternative<Contacts>(body) ||
        std::holds_alternative<PieceCollider>(body)) {
        return Family::collider;
    }
    return reach_of(body) != nullptr ? Family::force : Family::mover;
}

std::optional<std::string> circle_of(const Effect& effect, const Element& element) {
    const auto follow = [&](auto next_of) -> std::optional<std::string> {
        std::string way = element.id;
        const Element* at = &element;
        for (size_t i = 0; i <= effect.elements.size(); ++i) {
            const std::string next = next_of(*at);
            at = next.empty() ? nullptr : find_element(effect, next);
            if (at == nullptr) {
                return std::nullopt;
            }
            way += ", " + next;
            if (at == &element) {
                return way;
            }
        }
        return std::nullopt; // leads into a circle of others
    };
    if (const auto rides = follow([](const Element& e) {
            const Place* place = place_of(e.body);
            return place != nullptr ? place->rides_on : std::string();
        })) {
        return rides;
    }
    return follow([](const Element& e) {
        const auto* emitter = std::get_if<Emitter>(&e.body);
        return emitter != nullptr ? emitter->parent : std::string();
    });
}

bool can_be_soloed(const Element& element) {
    return family_of(element.body) < Family::mover || takes_links(element.body);
}

bool is_active(const Effect& effect, const Element& element) {
    if (element.muted || !can_be_soloed(element)) {
        return !element.muted;
    }
    const bool others_soloed =
        std::any_of(effect.elements.begin(), effect.elements.end(), [&](const Element& other) {
            return other.solo && takes_links(other.body) == takes_links(element.body) && can_be_soloed(other);
        });
    return element.solo || !others_soloed;
}

namespace {

// How many pieces a cut comes to, from its numbers alone; of a mesh in courses that is only known with the
// mesh.
double pieces_asked(const Breakable& b) {
    double pieces = b.pieces;
    if (b.pattern == CutPattern::courses) {
        const auto along = [](float length, float block) {
            return std::max(std::round(double(length) / std::max(double(block), 1e-6)), 1.0);
        };
        pieces = b.shape == BreakShape::mesh
                     ? 1
                     : along(b.size.x, b.block.x) * along(b.size.y, b.block.y) * along(b.size.z, b.block.z);
    }
    const bool cuts_all =
        b.again > 1 && b.shape == BreakShape::block &&
        double(length(b.size)) / 2 + double(length(b.again_centre)) <= double(b.again_radius);
    return cuts_all ? pieces * b.again : pieces;
}

} // namespace

std::optional<std::string> whole_refusal(const Effect& effect) {
    int64_t capacity = 0;
    for (const Element& element : effect.elements) {
        const auto* emitter = std::get_if<Emitter>(&element.body);
        capacity += emitter != nullptr ? emitter->capacity : 0;
    }
    if (capacity > most_particles) {
        constexpr int64_t bytes_each = 96;
        return "capacities of " + std::to_string(capacity) + " particles in all, about " +
               std::to_string(capacity * bytes_each / 1'000'000) + " MB; at most " +
               std::to_string(most_particles) + " are possible";
    }
    int64_t pieces = 0;
    for (const Element& element : effect.elements) {
        const auto* breakable = std::get_if<Breakable>(&element.body);
        pieces += breakable != nullptr ? breakable->capacity : 0;
    }
    if (pieces > most_pieces) {
        return "breakables with room for " + std::to_string(pieces) + " pieces in all; at most " +
               std::to_string(most_pieces) + " are possible";
    }
    for (const Element& element : effect.elements) {
        const auto* breakable = std::get_if<Breakable>(&element.body);
        const double cut = breakable != nullptr ? pieces_asked(*breakable) : 0;
        if (cut > most_pieces) {
            return element.name + " cut into about " + std::to_string(int64_t(std::min(cut, 1e15))) +
                   " pieces; at most " + std::to_string(most_pieces) +
                   " are possible: larger blocks, or fewer pieces";
        }
    }
    int64_t cells = 0;
    for (const Element& element : effect.elements) {
        const auto* smoke = std::get_if<Smoke>(&element.body);
        cells += smoke != nullptr ? int64_t(size_of(*smoke).cells()) : 0;
    }
    if (cells > most_smoke_cells) {
        return "volumes of " + std::to_string(cells) + " cells of smoke in all, about " +
               std::to_string(cells * int64_t(bytes_a_smoke_cell) / 1'000'000) + " MB; at most " +
               std::to_string(most_smoke_cells) + " are possible";
    }
    if (effect.elements.size() > most_elements) {
        return std::to_string(effect.elements.size()) + " elements; at most " +
               std::to_string(most_elements) + " are possible";
    }
    for (const Element& element : effect.elements) {
        if (const auto circle = circle_of(effect, element)) {
            return "elements that come back to themselves: " + *circle + "; one of them has to let go";
        }
    }
    return std::nullopt;
}

namespace {

struct Lack {
    using Answer = std::optional<std::string>;
    Answer operator()(const Emitter& e) const {
        return e.shape == BirthShape::mesh && e.mesh.empty()   ? Answer("a mesh to give birth from")
               : e.shape == BirthShape::clip && e.clip.empty() ? Answer("a clip to play")
                                                               : Answer();
    }
    Answer operator()(const MeshCollider& m) const { return m.mesh.empty() ? Answer("a mesh") : Answer(); }
    Answer operator()(const Breakable& b) const {
        return b.shape == BreakShape::mesh && b.mesh.empty() ? Answer("a mesh") : Answer();
    }
    Answer operator()(const GridFlow& g) const {
        return g.grid == FlowGrid::file && g.file.empty()   ? Answer("a file of vectors")
               : g.grid == FlowGrid::mesh && g.mesh.empty() ? Answer("a mesh")
                                                            : Answer();
    }
    Answer operator()(const HeightMap& h) const {
        return h.from == HeightsFrom::image && h.image.empty() ? Answer("an image") : Answer();
    }
    Answer operator()(const KeyedMover& k) const {
        return k.file.empty() ? Answer("a file of keys") : Answer();
    }
    Answer operator()(const Dropper& d) const {
        return d.drops.empty() ? Answer("a breakable to drop") : Answer();
    }
    Answer operator()(const auto&) const { return {}; }
};

} // namespace

std::optional<std::string> lack_of(const Element& element) {
    return std::visit(Lack(), element.body);
}

Effect starter_effect() {
    Effect effect;
    Look look;
    look.id = "soft-dots";
    look.name = "Soft dots";
    look.size_over_life.points = {{0, 0.4f}, {0.2f, 1}, {1, 0}};
    look.colour_over_life.stops = {{0, {1, 0.62f, 0.3f, 1}}, {1, {0.9f, 0.2f, 0.05f, 0}}};
    look.glow = 2;
    effect.looks.push_back(look);

    Emitter emitter;
    emitter.position = {0, 1, 0};
    emitter.look = look.id;
    effect.elements.push_back({.id = "emitter", .name = "Emitter", .body = emitter});
    effect.elements.push_back(
        {.id = "gravity", .name = "Gravity", .body = Gravity{.strength = 2}, .links = {{"emitter", 1}}});
    effect.elements.push_back({.id = "ground", .name = "Ground", .body = Plane{}, .links = {{"emitter", 1}}});
    return effect;
}

} // namespace ember
