#include "render/pieces.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {

// Colours that neighbours in number tell from one another.
PieceSkins tinted(PieceSkins skins, uint32_t piece) {
    const float turn = 2 * std::numbers::pi_v<float> * 0.618034f * float(piece);
    const auto part = [&](float shift) { return 0.35f + 0.25f * std::cos(turn + shift); };
    const Colour tint = {part(0), part(2.1f), part(4.2f), 1};
    skins.outer = Colour::mixed(skins.outer, tint, 0.75f);
    skins.inner = tint;
    return skins;
}

// A look with one texture over a colour; none: plain.
Look coated(const std::string& texture) {
    Look look;
    look.drawn_as = Drawing::meshes;
    if (!texture.empty()) {
        look.layers[0].from = LayerFrom::texture;
        look.layers[0].texture = texture;
    }
    return look;
}

// Whether one piece of a cut stands to another as they were cut.
bool stand_together(const FramePiece& one, const FramePiece& other, const Cut& cut) {
    constexpr float least_along = 1 - 1e-6f, off_m = 2e-4f;
    const Axes &axes = one.placement.axes, &others = other.placement.axes;
    if (dot(axes.x, others.x) < least_along || dot(axes.y, others.y) < least_along || one.size < 1 ||
        other.size < 1 || one.opacity != other.opacity) {
        return false;
    }
    const Vec3 way = axes.out(cut.pieces[other.piece].centre - cut.pieces[one.piece].centre);
    return length(other.placement.position - one.placement.position - way) < off_m;
}

// Of the bonds of a piece, those that hold or as good as hold. The pieces of one body have numbers in the
// order of their cut.
void find_closed(const FrameDebris& debris, const FramePiece& shown, const PieceBody& body,
                 std::vector<char>& closed) {
    closed.clear();
    for (const uint32_t index : body.bonds) {
        const Bond& bond = debris.cut->bonds[index];
        const uint32_t beyond = bond.a == shown.piece ? bond.b : bond.a;
        const uint32_t number = shown.number + beyond - shown.piece;
        const auto found =
            std::lower_bound(debris.pieces.begin(), debris.pieces.end(), number,
                             [](const FramePiece& each, uint32_t wanted) { return each.number < wanted; });
        closed.push_back(found != debris.pieces.end() && found->number == number && found->piece == beyond &&
                         stand_together(shown, *found, *debris.cut));
    }
}

} // namespace

std::vector<Triangles> project_debris(const FrameDebris& debris, const Frame& frame, const Effect& effect,
                                      const Lighting& lighting, const Projection& to,
                                      const GatherOptions& options, Surfaces& surfaces, BodyShelf& shelf,
                                      SkinList& shown_skins) {
    const Element* element = find_element(effect, frame.effect->elements[debris.element].id);
    const auto* breakable = element != nullptr ? std::get_if<Breakable>(&element->body) : nullptr;
    if (breakable == nullptr || !is_active(effect, *element)) {
        return {};
    }
    const std::vector<PieceBody>& bodies = shelf.pieces_of(debris.cut);
    const auto add_skin = [&](const std::string& texture) {
        const Look look = coated(texture);
        const uint32_t surface = surfaces.add(look);
        return shown_skins.add(ReadyLayers::of(look, effect, frame.time_s).skin(surface, 0, 0));
    };
    PieceSkins skins = {breakable->colour,
                        breakable->inner_colour,
                        breakable->texture.empty() ? 0 : add_skin(breakable->texture),
                        breakable->inner_texture.empty() ? 0 : add_skin(breakable->inner_texture),
                        1 / breakable->texture_size,
                        prepared(coated(""), lighting)};
    skins.look.shine = breakable->shine;
    skins.look.sun = options.sun;
    constexpr size_t pieces_at_a_time = 32;
    std::vector<Triangles> drawn((debris.pieces.size() + pieces_at_a_time - 1) / pieces_at_a_time);
    tbb::parallel_for(size_t(0), drawn.size(), [&](size_t part) {
        const size_t end = std::min((part + 1) * pieces_at_a_time, debris.pieces.size());
        std::vector<char> closed;
        for (size_t i = part * pieces_at_a_time; i < end; ++i) {
            const FramePiece& piece = debris.pieces[i];
            if (!options.mirror || !options.mirror->hides(piece.placement.position)) {
                find_closed(debris, piece, bodies[piece.piece], closed);
                project_piece(piece, bodies[piece.piece], closed,
                              options.tints_pieces ? tinted(skins, piece.piece) : skins, to, drawn[part]);
            }
        }
    });
    return drawn;
}

} // namespace ember
