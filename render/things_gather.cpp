// From a frame's particles and pieces to what is drawn, in chunks that threads make.
#include "render/things_inside.h"

#include "core/base/hash.h"
#include "core/base/stopwatch.h"
#include "core/runtime/skins.h"
#include "render/pieces.h"
#include "render/seen.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// What is left of things behind smoke.
void veil(Sprite& s, const CloudPicture& smoke) {
    const float kept = smoke.kept(s.x, s.y, s.depth);
    s.red *= kept;
    s.green *= kept;
    s.blue *= kept;
    s.cover *= kept;
}

void veil(Patch& p, const CloudPicture& smoke) {
    p.opacity *= p.is_cut ? 1 : smoke.kept(p.x, p.y, p.depth);
}

void veil(Segment& s, const CloudPicture& smoke) {
    const float at_a = smoke.kept(s.ax, s.ay, s.depth_a), at_b = smoke.kept(s.bx, s.by, s.depth_b);
    for (int i = 0; i < 3; ++i) {
        s.colour_a[i] *= at_a;
        s.colour_b[i] *= at_b;
    }
    s.cover_a *= at_a;
    s.cover_b *= at_b;
}

// The look of a source as it is now: it may have been edited since the frame was made. Null if nothing of it
// is to be seen.
const Look* look_of(const Frame& frame, const FrameSource& source, const Effect& effect) {
    const Element* element = find_element(effect, frame.effect->elements[source.element].id);
    const auto* emitter = element != nullptr ? std::get_if<Emitter>(&element->body) : nullptr;
    return emitter != nullptr && is_active(effect, *element) ? find_look(effect, emitter->look) : nullptr;
}

} // namespace

// A source with all that its things are made from.
struct Things::Gathered {
    const Frame& frame;
    const FrameSource& source;
    const Look& look;
    PreparedLook ready;
    ReadyLayers layers;
    uint32_t surface;
    Lens lens;
    const Projection& to;
    const GatherOptions& options;

    size_t owner() const { return source.element; }

    Drawn drawn(const FrameBlock& block, int i) const {
        const size_t at = block.first + size_t(i);
        const FrameParticle& particle = source.particles[at];
        Drawn drawn = {block.place(particle),
                       {},
                       float(particle.age_share) / 65535,
                       float(particle.size_share) / 65535 * source.largest_size,
                       source.marks.empty() || options.tint != DotTint::look ? nullptr : &source.marks[at],
                       source.forms.empty() ? nullptr : &source.forms[at],
                       source.numbers.empty() ? 0 : source.numbers[at]};
        if (!source.motions.empty()) {
            drawn.velocity = source.motions[at].velocity(source.fastest);
        }
        return drawn;
    }

    // The particle and its copies.
    void each(const FrameBlock& block, int i, auto visit) const {
        Drawn own = drawn(block, i);
        if (ready.far_least < 1) {
            const float share = share_shown(ready, dot(own.place - to.view.eye, to.view.forward));
            if (random_of(own.number, 73) >= share) {
                return;
            }
            own.stands_for = 1 / share;
        }
        for (int copy = 0; copy <= ready.copies; ++copy) {
            Drawn shown = own;
            if (copy > 0) {
                shown.place = own.place + copy_offset(own.number, copy, own.age, ready);
            }
            if (!options.mirror || !options.mirror->hides(shown.place)) {
                visit(shown);
            }
        }
    }

    // The skin of those that have none of their own.
    uint32_t shared_skin(SkinList& skins) const {
        return surface != 0 ? skins.add(layers.skin(surface, 0, 0)) : 0;
    }

    // Copies take the room of other blocks in a chunk.
    size_t chunk_blocks() const { return blocks_a_chunk / size_t(1 + ready.copies); }
    size_t chunks() const { return (source.blocks.size() + chunk_blocks() - 1) / chunk_blocks(); }

    // Lets `visit` put the particles of each chunk into a stretch of things; what it returns is their number.
    template <class Thing>
    size_t fill(Chunked<Thing>& things, auto visit) const {
        const size_t used = things.counts.size();
        things.list.resize(std::max(things.list.size(), (used + chunks()) * chunk_size));
        things.counts.resize(used + chunks());
        things.owners.resize(used + chunks(), owner());
        tbb::parallel_for(size_t(0), chunks(), [&](size_t c) {
            uint32_t count = 0;
            const size_t end = std::min((c + 1) * chunk_blocks(), source.blocks.size());
            for (size_t b = c * chunk_blocks(); b < end; ++b) {
                for (int i = 0; i < source.blocks[b].count; ++i) {
                    each(source.blocks[b], i, [&](const Drawn& shown) {
                        const size_t at = (used + c) * chunk_size + count;
                        if (visit(shown, things.list[at], at)) {
                            ++count;
                            if (options.smoke != nullptr) {
                                veil(things.list[at], *options.smoke);
                            }
                        }
                    });
                }
            }
            things.counts[used + c] = count;
        });
        return used;
    }
};

// Appends what pieces of work have made, in their order, from a new chunk on.
template <class Thing>
void Things::append(size_t pieces, auto piece_of, size_t owner, Chunked<Thing>& things) {
    const size_t begin = things.counts.size() * chunk_size;
    size_t total = begin;
    std::vector<size_t> starts;
    for (size_t p = 0; p < pieces; ++p) {
        starts.push_back(total);
        total += piece_of(p).size();
    }
    things.list.resize(std::max(things.list.size(), total));
    tbb::parallel_for(size_t(0), pieces, [&](size_t p) {
        std::copy(piece_of(p).begin(), piece_of(p).end(), things.list.begin() + std::ptrdiff_t(starts[p]));
    });
    for (size_t left = total - begin; left > 0; left -= things.counts.back()) {
        things.counts.push_back(uint32_t(std::min(left, chunk_size)));
    }
    things.owners.resize(things.counts.size(), owner);
}

void Things::append_triangles(std::vector<Triangles>& pieces, size_t owner) {
    for (Triangles& piece : pieces) {
        if (!piece.more.empty()) {
            for (Triangle& triangle : piece.list) {
                triangle.more += uint32_t(more_.size());
            }
            more_.insert(more_.end(), piece.more.begin(), piece.more.end());
        }
    }
    append(
        pieces.size(), [&](size_t p) -> const std::vector<Triangle>& { return pieces[p].list; }, owner,
        triangles_);
}

void Things::gather(const Frame& frame, const Effect& effect, const Lighting& lighting, const Projection& to,
                    const GatherOptions& options, Surfaces& surfaces, BodyShelf& shelf) {
    any_over_ = any_cut_ = false;
    surface_ms_ = 0;
    const auto forget = [](auto& things) {
        things.counts.clear();
        things.owners.clear();
    };
    forget(sprites_);
    forget(patches_);
    forget(segments_);
    forget(triangles_);
    readied_.clear();
    more_.clear();
    skins_.forget_all();
    for (const FrameSource& source : frame.sources) {
        const Stopwatch watch;
        const Look* look = look_of(frame, source, effect);
        if (look == nullptr) {
            continue;
        }
        Gathered from = {frame,
                         source,
                         *look,
                         prepared(*look, lighting),
                         ReadyLayers::of(*look, effect, frame.time_s),
                         surfaces.add(*look),
                         lens_of(effect.stage, to),
                         to,
                         options};
        if (options.tint == DotTint::age) {
            tint_by_age(from.ready);
        }
        if (options.is_preview) {
            from.ready.copies = int(std::lround(float(from.ready.copies) * effect.stage.copies_shown));
            if (!source.numbers.empty()) {
                const Budget& budget = effect.budget;
                from.ready.far_from = budget.far_from;
                from.ready.far_least = share_left(budget, frame.gives, GiveWay::far);
            }
        }
        const bool has_copies = !source.numbers.empty() && look->drawn_as != Drawing::trails &&
                                look->drawn_as != Drawing::surface;
        from.ready.copies = has_copies ? from.ready.copies : 0;
        gather_source(from, shelf);
        readied_.push_back({source.element, watch.elapsed_ms()});
    }
    for (const FrameDebris& debris : options.debris != nullptr ? *options.debris : frame.debris) {
        const Stopwatch watch;
        std::vector<Triangles> drawn =
            project_debris(debris, frame, effect, lighting, to, options, surfaces, shelf, skins_);
        append_triangles(drawn, debris.element);
        readied_.push_back({debris.element, watch.elapsed_ms()});
    }
    sprites_.list.resize(sprites_.counts.size() * chunk_size);
}

void Things::gather_source(const Gathered& from, BodyShelf& shelf) {
    const Look& look = from.look;
    const bool is_body = look.drawn_as == Drawing::meshes || look.drawn_as == Drawing::surface;
    any_over_ = any_over_ || (look.blend != Blend::add && !is_body);
    // A trail begins at its particle: until the frame has trails, there is the particle.
    if (look.drawn_as == Drawing::trails && !from.source.trails.empty()) {
        gather_trails(from);
    } else if (is_body) {
        look.drawn_as == Drawing::meshes ? gather_bodies(from, shelf) : gather_surface(from);
    } else if (look.drawn_as == Drawing::cards ||
               (look.drawn_as == Drawing::dots && look.blend == Blend::cut_out)) {
        gather_cards(from);
    } else {
        gather_dots(from);
    }
}

void Things::gather_dots(const Gathered& from) {
    from.fill(sprites_, [&](const Drawn& shown, Sprite& out, size_t) {
        return project(shown, from.ready, from.lens, from.to, out);
    });
}

void Things::gather_cards(const Gathered& from) {
    any_cut_ = any_cut_ || from.ready.is_cut;
    // A card's own skin lies in the list as the card does.
    const size_t first = patches_.counts.size() * chunk_size;
    const uint32_t shared = from.shared_skin(skins_);
    const size_t before = skins_.add_room(from.layers.varies ? from.chunks() * chunk_size : 0);
    from.fill(patches_, [&](const Drawn& shown, Patch& out, size_t at) {
        if (!project_card(shown, from.ready, from.lens, from.to, out)) {
            return false;
        }
        out.skin = shared;
        if (from.layers.varies) {
            out.skin = uint32_t(before + at - first);
            skins_.list[out.skin] = from.layers.skin(from.surface, shown.number, shown.age);
        }
        return true;
    });
}

void Things::gather_trails(const Gathered& from) {
    constexpr size_t trails_a_piece = 64;
    const FrameSource& source = from.source;
    const size_t pieces = (source.trails.size() + trails_a_piece - 1) / trails_a_piece;
    std::vector<std::vector<Segment>> drawn(pieces);
    tbb::parallel_for(size_t(0), pieces, [&](size_t p) {
        const size_t end = std::min((p + 1) * trails_a_piece, source.trails.size());
        for (size_t i = p * trails_a_piece; i < end; ++i) {
            project_trail(source.trails[i], source.trail_points, from.options.tint == DotTint::look,
                          from.ready, from.to, drawn[p]);
        }
        if (from.options.smoke != nullptr) {
            for (Segment& segment : drawn[p]) {
                veil(segment, *from.options.smoke);
            }
        }
    });
    append(
        drawn.size(), [&](size_t p) -> const std::vector<Segment>& { return drawn[p]; }, from.owner(),
        segments_);
}

void Things::gather_bodies(const Gathered& from, BodyShelf& shelf) {
    const std::vector<const BodyLevels*> bodies = shelf.bodies_of(from.look, from.frame);
    const FrameSource& source = from.source;
    const uint32_t shared = from.shared_skin(skins_);
    const size_t before = skins_.add_room(from.layers.varies ? source.particles.size() : 0);
    // Pieces of blocks, since a few hundred bodies are work for all threads.
    constexpr int bodies_a_piece = 64;
    constexpr size_t pieces_a_block = block_size / bodies_a_piece;
    std::vector<Triangles>& drawn = drawn_bodies_; // keeps its memory from frame to frame
    drawn.resize(source.blocks.size() * pieces_a_block);
    tbb::parallel_for(size_t(0), drawn.size(), [&](size_t piece) {
        const FrameBlock& block = source.blocks[piece / pieces_a_block];
        const int first = int(piece % pieces_a_block) * bodies_a_piece;
        Triangles& out = drawn[piece];
        out.list.clear();
        out.more.clear();
        for (int i = first; i < std::min(first + bodies_a_piece, block.count); ++i) {
            uint32_t skin = shared;
            from.each(block, i, [&](const Drawn& shown) {
                if (from.layers.varies) {
                    skin = uint32_t(before + block.first + size_t(i));
                    skins_.list[skin] = from.layers.skin(from.surface, shown.number, shown.age);
                }
                const size_t pick = mixed_seed(shown.number, 91) % bodies.size();
                project_body(shown, *bodies[pick], from.ready, skin, from.to, out);
            });
        }
    });
    append_triangles(drawn, from.owner());
}

void Things::gather_surface(const Gathered& from) {
    const Stopwatch watch;
    std::vector<BlendedBall> balls;
    Colour sum = {0, 0, 0, 0};
    for (const FrameBlock& block : from.source.blocks) {
        for (int i = 0; i < block.count; ++i) {
            const Drawn shown = from.drawn(block, i);
            const float radius =
                0.5f * shown.size * from.ready.sizes.at(shown.age) * from.look.surface_radius;
            if (radius > 0) {
                balls.push_back({shown.place, radius});
                const Colour colour = colour_of(shown, from.ready);
                sum = {sum.red + colour.red, sum.green + colour.green, sum.blue + colour.blue,
                       sum.alpha + colour.alpha};
            }
        }
    }
    if (!balls.empty()) {
        const uint32_t skin = from.shared_skin(skins_);
        const float by = 1 / float(balls.size());
        std::vector<Triangles> drawn(1);
        const Mesh mesh = skin_round(balls, from.look);
        project_shape(body_of(mesh, false, 180), sum * Colour{by, by, by, by}, from.ready, skin, from.to,
                      drawn[0]);
        append_triangles(drawn, from.owner());
    }
    surface_ms_ += watch.elapsed_ms();
}

} // namespace ember
