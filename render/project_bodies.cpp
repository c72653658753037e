// From bodies and pieces to the triangles that are drawn of them.
#include "render/seen.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

Axes body_axes(const Drawn& particle) {
    if (particle.form != nullptr) {
        return particle.form->axes();
    }
    // An even choice of all turns (K. Shoemake, "Uniform Random Rotations", 1992).
    const float a = random_of(particle.number, 81), full = 2 * std::numbers::pi_v<float>;
    const float b = full * random_of(particle.number, 82), c = full * random_of(particle.number, 83);
    const float low = std::sqrt(1 - a), high = std::sqrt(a);
    return Quaternion{{low * std::sin(b), low * std::cos(b), high * std::sin(c)}, high * std::cos(c)}.axes();
}

namespace {

// Surfaces are looked at from the sun this far above themselves, so as not to hide from it (m).
constexpr float lift_m = 0.015f;

struct FaceSpan {
    size_t first, last;
};

struct SeenCorner {
    Vec3 place; // m
    float x, y, near;
};

// How coats lie on a body: where its zero is in their axes, and how often they repeat in a metre.
struct Laid {
    Vec3 offset;
    float per_metre = 1;
};

// From where a face is seen. `edge`: it is a line on the picture, as those that join faces side by side
// always are; what lies beyond it goes on.
enum Side : char { back, front, edge };

// From where each face of a body is seen.
void find_sides(const Body& body, const std::vector<SeenCorner>& corners, const Projection& to,
                std::vector<Side>& sides) {
    sides.resize(body.faces.size());
    const bool is_inside_out = dot(cross(to.view.right, to.view.up), to.view.forward) > 0;
    const float sign = is_inside_out ? -1.0f : 1.0f;
    const auto turn = [&](const BodyFace& face) { // twice its area on the picture, negative from the front
        const SeenCorner &a = corners[face.corners[0]], &b = corners[face.corners[1]],
                         &c = corners[face.corners[2]];
        const bool is_before = a.near > 0 && b.near > 0 && c.near > 0;
        return is_before ? ((b.x - a.x) * (c.y - a.y) - (c.x - a.x) * (b.y - a.y)) * sign : 1.0f;
    };
    for (size_t i = 0; i < body.faces.size(); ++i) {
        const float turned = turn(body.faces[i]);
        sides[i] = turned < -1e-3f ? front : turned > 1e-3f ? back : edge;
    }
}

// Appends some of a body's triangles. `corners`: where each is; `normal_of`: from the body's own axes to the
// world's.
void append_faces(const Body& body, FaceSpan faces, const std::vector<SeenCorner>& corners,
                  const std::vector<Side>& sides, auto normal_of, const Colour& colour,
                  const PreparedLook& look, const Laid& laid, uint32_t skin, const Projection& to,
                  Triangles& out) {
    const Vec3 base = rgb(colour);
    for (size_t i = faces.first; i < faces.last; ++i) {
        const BodyFace& face = body.faces[i];
        if (sides[i] != front) {
            continue;
        }
        Triangle t;
        TriangleMore more;
        for (size_t k = 0; k < 3; ++k) {
            const SeenCorner& corner = corners[face.corners[k]];
            t.x[k] = corner.x;
            t.y[k] = corner.y;
            t.near[k] = corner.near;
            t.is_rim[k] = face.beyond[k] < 0 || sides[size_t(face.beyond[k])] == back;
        }
        const auto [left, right] = std::minmax({t.x[0], t.x[1], t.x[2]});
        const auto [top, bottom] = std::minmax({t.y[0], t.y[1], t.y[2]});
        if (right <= 0 || left >= to.right || bottom <= 0 || top >= to.bottom) {
            continue;
        }
        if (skin != 0) {
            // Coats lie on the side that the face looks to most.
            const Vec3 way = {std::fabs(face.normal.x), std::fabs(face.normal.y), std::fabs(face.normal.z)};
            for (size_t k = 0; k < 3; ++k) {
                const Vec3 own = (body.corners[face.corners[k]] + laid.offset) * laid.per_metre;
                more.u[k] = way.x > way.y && way.x > way.z ? own.z : own.x;
                more.v[k] = way.y >= way.x && way.y >= way.z ? own.z : own.y;
            }
        }
        float sun[3] = {1, 1, 1};
        for (size_t k = 0; k < 3 && look.sun != nullptr; ++k) {
            // Not right at the corner, where the next piece begins.
            const Vec3 middle = (corners[face.corners[0]].place + corners[face.corners[1]].place +
                                 corners[face.corners[2]].place) *
                                (1.0f / 3);
            const Vec3 place = corners[face.corners[k]].place;
            sun[k] = look.sun->lit(place + (middle - place) * 0.3f + normal_of(face.normal) * lift_m);
        }
        const auto light_corner = [&](size_t k, const Vec3& place, const Vec3& normal) {
            Vec3 light =
                base * (look.lighting->matt_on(place, normal, sun[k]) + Vec3{1, 1, 1} * look.own_light);
            if (look.shine > 0 || skin != 0) {
                const Vec3 to_eye = normalized(to.view.eye - place, normal);
                more.facing[k] = std::clamp(dot(normal, to_eye), 0.0f, 1.0f);
                light = light + look.lighting->glint_on(place, normal, to_eye, sun[k]) * look.shine;
            }
            (k == 0 ? t.light : more.light[k - 1]) = light;
        };
        const SeenCorner &a = corners[face.corners[0]], &b = corners[face.corners[1]],
                         &c = corners[face.corners[2]];
        // A flat face is lit in its middle, unless a shadow ends on it.
        t.is_even = face.corner_normals[0] == face.corner_normals[1] &&
                    face.corner_normals[0] == face.corner_normals[2] && sun[0] == sun[1] && sun[0] == sun[2];
        if (t.is_even) {
            light_corner(0, (a.place + b.place + c.place) * (1.0f / 3), normal_of(face.corner_normals[0]));
            more.light[0] = more.light[1] = t.light;
            more.facing[1] = more.facing[2] = more.facing[0];
        } else {
            for (size_t k = 0; k < 3; ++k) {
                light_corner(k, corners[face.corners[k]].place, normal_of(face.corner_normals[k]));
            }
        }
        t.opacity = colour.alpha;
        t.skin = skin;
        t.more = uint32_t(out.more.size());
        if (!t.is_even || skin != 0) {
            out.more.push_back(more);
        }
        out.list.push_back(t);
    }
}

// The corners of a body that stands at a place, with its own axes as long as it is stretched.
void see_corners(const Body& body, const Vec3& place, const Axes& axes, const Projection& to,
                 std::vector<SeenCorner>& corners) {
    const ViewAxes& view = to.view;
    const auto in_view = [&](const Vec3& way) {
        return Vec3{dot(way, view.right), dot(way, view.up), dot(way, view.forward)};
    };
    const Vec3 from = in_view(place - view.eye);
    const Vec3 along[3] = {in_view(axes.x), in_view(axes.y), in_view(axes.z)};
    corners.resize(body.corners.size());
    for (size_t i = 0; i < corners.size(); ++i) {
        const Vec3& own = body.corners[i];
        const Vec3 seen = from + along[0] * own.x + along[1] * own.y + along[2] * own.z;
        const float near = seen.z > nearest_m ? 1 / seen.z : 0;
        corners[i] = {place + axes.out(own), to.middle_x + seen.x * to.pixels * near,
                      to.middle_y - seen.y * to.pixels * near, near};
    }
}

} // namespace

void project_body(const Drawn& particle, const BodyLevels& levels, const PreparedLook& look, uint32_t skin,
                  const Projection& to, Triangles& out) {
    const auto where = seen(particle.place, {}, to);
    if (!where) {
        return;
    }
    const Axes axes = body_axes(particle);
    const Vec3 stretch = particle.form != nullptr ? particle.form->stretch() : Vec3{1, 1, 1};
    float size = particle.size * look.sizes.at(particle.age);
    float radius = 0.87f * size * std::max({stretch.x, stretch.y, stretch.z}) * where->scale;
    if (where->x + radius < 0 || where->y + radius < 0 || where->x - radius > to.right ||
        where->y - radius > to.bottom || size <= 0) {
        return;
    }
    Colour colour = colour_of(particle, look);
    if (radius < smallest_radius) {
        colour.alpha *= radius * radius / (smallest_radius * smallest_radius);
        size *= smallest_radius / radius;
        radius = smallest_radius;
    }
    if (colour.alpha <= 1e-3f) {
        return;
    }
    const Body& body = level_for(levels, radius);
    thread_local std::vector<SeenCorner> corners;
    const Vec3 sizes = stretch * size;
    see_corners(body, particle.place, {axes.x * sizes.x, axes.y * sizes.y, axes.z * sizes.z}, to, corners);
    const bool is_even = stretch.x == stretch.y && stretch.x == stretch.z;
    const Vec3 shrink = {1 / std::max(stretch.x, 1e-3f), 1 / std::max(stretch.y, 1e-3f),
                         1 / std::max(stretch.z, 1e-3f)};
    thread_local std::vector<Side> sides;
    find_sides(body, corners, to, sides);
    append_faces(
        body, {0, body.faces.size()}, corners, sides,
        [&](const Vec3& normal) {
            return axes.out(is_even ? normal : normalized(normal * shrink, {0, 1, 0}));
        },
        colour, look, {}, skin, to, out);
}

void project_shape(const Body& body, const Colour& colour, const PreparedLook& look, uint32_t skin,
                   const Projection& to, Triangles& out) {
    std::vector<SeenCorner> corners;
    see_corners(body, {}, {}, to, corners);
    std::vector<Side> sides;
    find_sides(body, corners, to, sides);
    append_faces(
        body, {0, body.faces.size()}, corners, sides, [](const Vec3& normal) { return normal; }, colour, look,
        {}, skin, to, out);
}

void project_piece(const FramePiece& shown, const PieceBody& piece, std::span<const char> closed,
                   const PieceSkins& skins, const Projection& to, Triangles& out) {
    const Vec3& middle = shown.placement.position;
    const auto where = seen(middle, {}, to);
    const float radius = where ? piece.radius * shown.size * where->scale : 0;
    const bool is_beside = where && (where->x + radius < 0 || where->y + radius < 0 ||
                                     where->x - radius > to.right || where->y - radius > to.bottom);
    if (is_beside || shown.opacity <= 1e-3f || shown.size <= 1e-3f) {
        return;
    }
    thread_local std::vector<SeenCorner> corners;
    thread_local std::vector<Side> sides;
    const Axes& axes = shown.placement.axes;
    see_corners(piece.body, middle, {axes.x * shown.size, axes.y * shown.size, axes.z * shown.size}, to,
                corners);
    find_sides(piece.body, corners, to, sides);
    for (size_t i = 0; i < piece.joins.size(); ++i) {
        if (piece.joins[i] >= 0 && closed[size_t(piece.joins[i])] != 0) {
            sides[piece.outer + i] = edge; // the piece beyond goes on
        }
    }
    const auto turned = [&](const Vec3& normal) { return axes.out(normal); };
    for (const bool is_inner : {false, true}) {
        const FaceSpan faces =
            is_inner ? FaceSpan{piece.outer, piece.body.faces.size()} : FaceSpan{0, piece.outer};
        Colour colour = is_inner ? skins.inner : skins.outer;
        colour.alpha *= shown.opacity;
        append_faces(piece.body, faces, corners, sides, turned, colour, skins.look,
                     {piece.offset, skins.per_metre}, is_inner ? skins.inner_skin : skins.outer_skin, to,
                     out);
    }
}

} // namespace ember
