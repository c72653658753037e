#include "render/projection.h"

#include "render/seen.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>

namespace ember {

namespace {

// What a particle covers on the picture: the points d with d' C^-1 d <= 1. A ball's C is its radius squared;
// an ellipsoid's, seen in parallel, sums the outer squares of its half axes as they lie on the picture.
struct Covered {
    float xx, xy, yy; // pixels^2, y down

    static Covered ball(float radius) { return {radius * radius, 0, radius * radius}; }

    static Covered ellipsoid(const FrameForm& form, float radius, const ViewAxes& view) {
        const Axes axes = form.axes();
        const Vec3 stretch = form.stretch() * radius;
        Covered c = {0, 0, 0};
        for (const Vec3& axis : {axes.x * stretch.x, axes.y * stretch.y, axes.z * stretch.z}) {
            const float x = dot(axis, view.right), y = -dot(axis, view.up);
            c = {c.xx + x * x, c.xy + x * y, c.yy + y * y};
        }
        return c;
    }

    float area() const { return std::sqrt(std::max(xx * yy - xy * xy, 0.0f)); } // over pi

    void widen(float radius) {
        xx += radius * radius;
        yy += radius * radius;
    }

    // Longer by a way (pixels) from one end to the other.
    void draw_out(float x, float y) {
        const float way = std::sqrt(x * x + y * y);
        if (way > 1e-3f) {
            const float u = x / way, v = y / way;
            const float half = std::sqrt(u * u * xx + 2 * u * v * xy + v * v * yy);
            const float more = (half + way * 0.5f) * (half + way * 0.5f) - half * half;
            xx += more * u * u;
            xy += more * u * v;
            yy += more * v * v;
        }
    }
};

// The mean over an ellipse of what splat_one() makes of a steepness times the half width squared.
float mean_amount(float sharpness) {
    return 1 - 2 / (3 * sharpness);
}

// What a sprite shows of that.
struct Outline {
    float width, height, square, narrowing, slant; // see Sprite
    float sharpness;                               // steepness times square
    float dimmed;                                  // share of the light that is left to it
};

Outline round_outline(float true_radius, const PreparedLook& look) {
    const float radius = std::max(true_radius, smallest_radius);
    const float share = true_radius / radius;
    return {radius,       radius, radius * radius, 1, 0, std::min(look.sharpness, 1 + radius * 0.5f),
            share * share};
}

// What is drawn out, blurred or thinner than a pixel is dimmed by as much as its area grows; only streaks
// stay as bright.
Outline general_outline(Covered covered, const Seen& where, const PreparedLook& look, const Lens& lens) {
    covered.draw_out(where.way_x * look.streak_s, where.way_y * look.streak_s);
    const float own_area = covered.area();
    const float own_sharpness = std::min(look.sharpness, 1 + std::sqrt(own_area) * 0.5f);
    covered.draw_out(where.way_x * lens.shutter, where.way_y * lens.shutter);
    covered.widen(smallest_radius);
    const float blur = lens.blur(where.depth);
    float sharpness = look.sharpness;
    if (blur > 0) {
        // A point out of focus is an even disc. Its rim, soft over a pixel, lies half outside of it.
        constexpr float half_rim = 0.55f; // pixels
        const float share = blur * blur / (blur * blur + own_area);
        sharpness += share * (2 + blur - sharpness);
        covered.widen(blur + half_rim * share);
    }
    const float width = std::sqrt(covered.xx), height = std::sqrt(covered.yy);
    sharpness = std::max(std::min(sharpness, 1 + std::min(width, height) * 0.5f), 1.0f);
    const float area = covered.area();
    const float square = area * area / covered.yy;
    float dimmed = own_area / area;
    if (blur > 0) {
        dimmed *= mean_amount(own_sharpness) / mean_amount(sharpness);
    }
    return {width, height, square, square / covered.yy, covered.xy / covered.yy, sharpness, dimmed};
}

} // namespace

PreparedLook prepared(const Look& look, const Lighting& lighting) {
    PreparedLook result;
    result.sizes = sampled(look.size_over_life);
    result.colours = sampled(look.colour_over_life);
    result.cover = look.blend == Blend::add ? 0.0f : 1.0f;
    result.sharpness = 1 / std::max(look.edge, 0.05f);
    result.fade = 1 / std::max(look.surface_fade, 1e-4f);
    result.camera_fade = look.camera_fade;
    result.width_along = sampled(look.width_along);
    result.opacity_along = sampled(look.opacity_along);
    result.copies = look.copies;
    result.copies_radius = look.copies_radius;
    result.copies_ragged = look.copies_ragged;
    result.copies_clump = look.copies_clump;
    result.streak_s = look.drawn_as == Drawing::streaks ? look.streak : 0;

    result.card_faces = look.card_faces;
    result.card_direction = normalized(look.card_direction, {0, 1, 0});
    result.card_height = look.card_height;
    result.roll = look.roll;
    result.roll_over_life = look.roll_over_life;
    result.is_round = look.drawn_as == Drawing::dots;
    result.is_cut = look.blend == Blend::cut_out;
    result.shine = look.shine;
    result.own_light = look.own_light;

    // Bodies are lit face by face.
    const bool is_body = look.drawn_as == Drawing::meshes || look.drawn_as == Drawing::surface;
    const float lit = is_body ? 0 : look.lit;
    // Never quite dark: lamps are told as a factor on it.
    const Vec3 tint = Vec3{1, 1, 1} * (1 - lit) + (lighting.on_ball() + Vec3{1, 1, 1} * 1e-4f) * lit;
    result.tint = tint;
    result.lit = lit;
    result.lighting = lit > 0 || is_body ? &lighting : nullptr;
    const LifeTable<float> glow = sampled(look.glow_over_life);
    const LifeTable<float> opacity = sampled(look.opacity_over_life);
    for (size_t i = 0; i < result.colours.values.size(); ++i) {
        result.colours.values[i] =
            result.colours.values[i] * Colour{look.glow * glow.values[i] * tint.x,
                                              look.glow * glow.values[i] * tint.y,
                                              look.glow * glow.values[i] * tint.z,
                                              look.opacity * std::clamp(opacity.values[i], 0.0f, 1.0f)};
        result.sizes.values[i] = std::max(result.sizes.values[i], 0.0f);
    }
    return result;
}

void tint_by_age(PreparedLook& look) {
    static const Ramp ages = {
        {{0, {1.4f, 1.3f, 1.1f, 1}}, {0.3f, {1, 0.32f, 0.09f, 1}}, {1, {0.03f, 0.1f, 0.35f, 1}}}};
    const LifeTable<Colour> table = sampled(ages);
    for (size_t i = 0; i < table.values.size(); ++i) {
        const float alpha = look.colours.values[i].alpha;
        look.colours.values[i] = table.values[i];
        look.colours.values[i].alpha = alpha;
    }
}

Projection projection_of(const Camera& camera, int width, int height) {
    Projection to;
    to.view = axes_of(camera);
    to.pixels = to.view.focal * float(height) * 0.5f;
    to.middle_x = float(width) * 0.5f;
    to.middle_y = float(height) * 0.5f * (1 + to.view.lowered);
    to.right = float(width);
    to.bottom = float(height);
    to.above = camera.rows.first;
    return to;
}

Projection MirrorPlane::seen_by(const Projection& eye) const {
    const auto mirrored = [this](const Vec3& way) { return way - normal * (2 * dot(way, normal)); };
    Projection to = eye;
    to.view.eye = place + mirrored(eye.view.eye - place);
    to.view.right = mirrored(eye.view.right);
    to.view.up = mirrored(eye.view.up);
    to.view.forward = mirrored(eye.view.forward);
    return to;
}

Lens lens_of(const Stage& stage, const Projection& to) {
    Lens lens;
    lens.shutter = stage.shutter;
    lens.focus_m = std::max(dot(stage.focus - to.view.eye, to.view.forward), 0.05f);
    lens.aperture_px = stage.aperture * 1e-3f * to.pixels / lens.focus_m;
    return lens;
}

namespace {

// What is left of the opacity so near to the camera: all beyond the distance, nothing at the lens.
float left_near(float depth, const PreparedLook& look) {
    if (depth >= look.camera_fade) {
        return 1;
    }
    const float share = std::max(depth / look.camera_fade, 0.0f);
    return share * share * (3 - 2 * share);
}

// Of one that stands for several: of them, one before another.
float opacity_of(const Drawn& particle, float opacity, const PreparedLook& look) {
    if (particle.stands_for == 1) {
        return opacity;
    }
    return look.cover > 0 ? 1 - std::pow(1 - std::min(opacity, 1.0f), particle.stands_for)
                          : opacity * particle.stands_for;
}

} // namespace

float share_shown(const PreparedLook& look, float depth) {
    const float beyond = std::clamp(depth / look.far_from - 1, 0.0f, 1.0f);
    return 1 - beyond * (1 - look.far_least);
}

bool project(const Drawn& particle, const PreparedLook& look, const Lens& lens, const Projection& to,
             Sprite& out) {
    // What is drawn out lies behind the particle: that is the way it came.
    const float behind_s = 0.5f * (look.streak_s + lens.shutter);
    const auto where = seen(particle.place - particle.velocity * behind_s, particle.velocity, to);
    if (!where) {
        return false;
    }
    const float radius = 0.5f * particle.size * look.sizes.at(particle.age) * where->scale;
    Outline outline;
    if (particle.form != nullptr) {
        outline = general_outline(Covered::ellipsoid(*particle.form, radius, to.view), *where, look, lens);
    } else if (behind_s > 0 || lens.aperture_px > 0) {
        outline = general_outline(Covered::ball(radius), *where, look, lens);
    } else {
        outline = round_outline(radius, look);
    }
    const Colour colour = colour_of(particle, look);
    const float opacity =
        opacity_of(particle, colour.alpha * outline.dimmed * left_near(where->depth, look), look);
    const bool in_picture = where->x + outline.width > 0 && where->y + outline.height > 0 &&
                            where->x - outline.width < to.right && where->y - outline.height < to.bottom;
    if (!in_picture || opacity <= 1e-4f) {
        return false;
    }
    out = {where->x,
           where->y,
           outline.width,
           outline.height,
           outline.square,
           outline.narrowing,
           outline.slant,
           where->depth,
           colour.red * opacity,
           colour.green * opacity,
           colour.blue * opacity,
           look.cover * opacity,
           outline.sharpness / outline.square,
           look.fade};
    return true;
}

Colour colour_of(const Drawn& particle, const PreparedLook& look) {
    Colour colour = look.colours.at(particle.age);
    if (particle.mark != nullptr) {
        colour = colour * particle.mark->tint();
    }
    if (look.lit > 0 && !look.lighting->lamps.empty()) {
        const Vec3 more = look.lighting->of_lamps(particle.place) * look.lit;
        const auto lit = [](float by, float tint) { return 1 + by / tint; };
        colour =
            colour * Colour{lit(more.x, look.tint.x), lit(more.y, look.tint.y), lit(more.z, look.tint.z), 1};
    }
    return colour;
}

namespace {

// The two half axes of a card: on the picture in pixels, and how much deeper they end (m).
struct CardAxes {
    float ux, uy, vx, vy;
    float depth_u = 0, depth_v = 0;
};

CardAxes turned(const CardAxes& axes, float roll) {
    const float c = std::cos(roll), s = std::sin(roll);
    return {axes.ux * c + axes.vx * s,           axes.uy * c + axes.vy * s,
            axes.vx * c - axes.ux * s,           axes.vy * c - axes.uy * s,
            axes.depth_u * c + axes.depth_v * s, axes.depth_v * c - axes.depth_u * s};
}

CardAxes lying(const Vec3& right, const Vec3& up, float radius_m, const Seen& where, const Projection& to) {
    // How a short way in space shows on the picture: the derivative of the projection.
    const auto on_picture = [&](const Vec3& way, float& x, float& y, float& deeper) {
        deeper = dot(way, to.view.forward) * radius_m;
        const float scale = where.scale * radius_m;
        const float inward = deeper / where.depth;
        x = dot(way, to.view.right) * scale - (where.x - to.middle_x) * inward;
        y = -dot(way, to.view.up) * scale - (where.y - to.middle_y) * inward;
    };
    CardAxes axes{};
    on_picture(right, axes.ux, axes.uy, axes.depth_u);
    on_picture(up, axes.vx, axes.vy, axes.depth_v);
    return axes;
}

CardAxes card_axes(const Drawn& particle, const PreparedLook& look, const Seen& where, float radius_m,
                   const Projection& to) {
    constexpr float radians = std::numbers::pi_v<float> / 180;
    const auto in_range = [&](const Range& range, uint32_t what) {
        return range.low + (range.high - range.low) * random_of(particle.number, what);
    };
    const float roll = (in_range(look.roll, 71) + in_range(look.roll_over_life, 72) * particle.age) * radians;
    const Vec3 stretch = particle.form != nullptr ? particle.form->stretch() : Vec3{1, 1, 1};
    if (look.card_faces == CardFaces::own && particle.form != nullptr) {
        const Axes axes = particle.form->axes();
        return turned(lying(axes.x * stretch.x, axes.y * (stretch.y * look.card_height), radius_m, where, to),
                      roll);
    }
    CardAxes axes{};
    if (look.card_faces == CardFaces::direction) {
        const Vec3 aside = std::fabs(look.card_direction.y) > 0.99f ? Vec3{1, 0, 0} : Vec3{0, 1, 0};
        const Vec3 right = normalized(cross(aside, look.card_direction), {1, 0, 0});
        axes = turned(lying(right, cross(look.card_direction, right), radius_m, where, to), roll);
    } else {
        const float radius = radius_m * where.scale;
        const float way = std::hypot(where.way_x, where.way_y);
        const bool follows = look.card_faces == CardFaces::motion && way > 1e-3f;
        const float x = follows ? where.way_x / way : 0, y = follows ? where.way_y / way : -1;
        axes = turned({-y * radius, x * radius, x * radius, y * radius}, roll);
    }
    const float high = look.card_height * stretch.y;
    return {axes.ux * stretch.x, axes.uy * stretch.x,      axes.vx * high,
            axes.vy * high,      axes.depth_u * stretch.x, axes.depth_v * high};
}

} // namespace

bool project_card(const Drawn& particle, const PreparedLook& look, const Lens& lens, const Projection& to,
                  Patch& out) {
    const auto where = seen(particle.place, particle.velocity, to);
    if (!where) {
        return false;
    }
    const float radius_m = 0.5f * particle.size * look.sizes.at(particle.age);
    CardAxes axes = card_axes(particle, look, *where, radius_m, to);
    // No side is thinner than a pixel, and out of focus each is wider; what grows is dimmed.
    const float blur = lens.blur(where->depth);
    float dimmed = 1;
    const auto widen = [&](float& x, float& y) {
        const float half = std::hypot(x, y);
        const float wide = std::max(half + blur, smallest_radius);
        if (half < 1e-4f) {
            return wide;
        }
        dimmed *= half / wide;
        x *= wide / half;
        y *= wide / half;
        return wide;
    };
    const float half_u = widen(axes.ux, axes.uy), half_v = widen(axes.vx, axes.vy);
    const float area = axes.ux * axes.vy - axes.vx * axes.uy;
    const Colour colour = colour_of(particle, look);
    const float opacity = opacity_of(particle, colour.alpha * dimmed * left_near(where->depth, look), look);
    const float width = std::fabs(axes.ux) + std::fabs(axes.vx),
                height = std::fabs(axes.uy) + std::fabs(axes.vy);
    const bool in_picture = where->x + width > 0 && where->y + height > 0 && where->x - width < to.right &&
                            where->y - height < to.bottom;
    if (!in_picture || opacity <= 1e-4f || std::fabs(area) < 0.02f * half_u * half_v) {
        return false;
    }
    const auto rim = [&](float half) {
        const float soft = 1 / look.sharpness; // share of the half width
        return 1 / std::clamp(std::max(soft, (1 + 2 * blur) / half), 0.01f, 1.0f);
    };
    out = {where->x,        where->y,        width,          height,       axes.vy / area,
           -axes.vx / area, -axes.uy / area, axes.ux / area, where->depth, axes.depth_u,
           axes.depth_v,    colour.red,      colour.green,   colour.blue,  opacity,
           look.cover,      rim(half_u),     rim(half_v),    look.fade,    0,
           look.is_round,   look.is_cut};
    return true;
}

Vec3 copy_offset(uint32_t number, int copy, float age_share, const PreparedLook& look) {
    const auto random = [&](uint32_t what) {
        return float(mixed_seed(mixed_seed(number, uint32_t(copy)), what) >> 8) / 16777216.0f;
    };
    // Even over the ball's surface (Archimedes), and over its inside.
    const float height = 2 * random(1) - 1;
    const float turn = 2 * std::numbers::pi_v<float> * random(2);
    const float across = std::sqrt(std::max(1 - height * height, 0.0f));
    const float inside = 1 - look.copies_ragged * (1 - std::cbrt(random(3)));
    const float size = look.copies_radius * inside * (1 - look.copies_clump * age_share);
    return Vec3{across * std::cos(turn), height, across * std::sin(turn)} * size;
}

namespace {

// A point of a ribbon on the picture.
struct RibbonPoint {
    float x, y, depth, half;
    float share; // of the trail
    float colour[3];
    float cover;
};

std::optional<RibbonPoint> ribbon_point(const FrameTrail& trail, const FrameTrailPoint& point, bool tinted,
                                        const PreparedLook& look, const Projection& to) {
    const auto where = seen(point.place, {}, to);
    if (!where) {
        return std::nullopt;
    }
    const float share = std::clamp(point.share, 0.0f, 1.0f);
    const float true_half = 0.5f * trail.size * look.sizes.at(trail.age_share) *
                            std::max(look.width_along.at(share), 0.0f) * where->scale;
    const float half = std::max(true_half, smallest_radius);
    const Colour colour = colour_of(
        {point.place, {}, trail.age_share, trail.size, tinted ? &trail.mark : nullptr, nullptr}, look);
    const float opacity = colour.alpha * std::clamp(look.opacity_along.at(share), 0.0f, 1.0f) * true_half /
                          half * left_near(where->depth, look);
    return RibbonPoint{where->x,
                       where->y,
                       where->depth,
                       half,
                       share,
                       {colour.red * opacity, colour.green * opacity, colour.blue * opacity},
                       look.cover * opacity};
}

// Leaves out points between which a straight piece shows the same: nearer to it than a quarter of a pixel,
// and not so far along the trail that its width or colour would change on the way.
void simplify(std::vector<RibbonPoint>& line) {
    constexpr float most_aside = 0.25f; // pixels
    constexpr float most_share = 0.2f;
    size_t kept = 0;
    for (size_t from = 0; from + 1 < line.size();) {
        size_t to = from + 1;
        const auto is_straight = [&](size_t end) {
            const float x = line[end].x - line[from].x, y = line[end].y - line[from].y;
            const float size = std::max(std::sqrt(x * x + y * y), 1e-3f);
            for (size_t i = from + 1; i < end; ++i) {
                const float dx = line[i].x - line[from].x, dy = line[i].y - line[from].y;
                const bool is_between = dx * x + dy * y > 0 && dx * x + dy * y < size * size;
                if (!is_between || std::fabs(dx * y - dy * x) > most_aside * size) {
                    return false;
                }
            }
            return line[end].share - line[from].share <= most_share;
        };
        while (to + 1 < line.size() && is_straight(to + 1)) {
            ++to;
        }
        line[++kept] = line[to]; // behind all that is still to be read
        from = to;
    }
    line.resize(std::min(line.size(), kept + 1));
}

// Where two pieces meet: halfway between their directions, or, at a fast turn, across the one.
Vec3 joint(const Vec3& one, const Vec3& other) {
    return dot(one, other) > 0.2f ? normalized(one + other) : one;
}

} // namespace

void project_trail(const FrameTrail& trail, const std::vector<FrameTrailPoint>& points, bool tinted,
                   const PreparedLook& look, const Projection& to, std::vector<Segment>& out) {
    thread_local std::vector<RibbonPoint> line;
    line.clear();
    for (uint32_t i = 0; i < trail.count; ++i) {
        const auto point = ribbon_point(trail, points[trail.first + i], tinted, look, to);
        if (!point) {
            break; // behind the camera
        }
        // Points in one place have no direction between them.
        const bool is_apart =
            line.empty() || std::hypot(point->x - line.back().x, point->y - line.back().y) > 0.05f;
        if (is_apart) {
            line.push_back(*point);
        }
    }
    simplify(line);
    thread_local std::vector<Vec3> ways; // from each point to the next
    ways.clear();
    for (size_t i = 0; i + 1 < line.size(); ++i) {
        ways.push_back(normalized(Vec3{line[i + 1].x - line[i].x, line[i + 1].y - line[i].y, 0}, {1, 0, 0}));
    }
    for (size_t i = 0; i + 1 < line.size(); ++i) {
        const RibbonPoint &a = line[i], &b = line[i + 1];
        const float wide = std::max(a.half, b.half);
        const bool in_picture = std::max(a.x, b.x) + wide > 0 && std::min(a.x, b.x) - wide < to.right &&
                                std::max(a.y, b.y) + wide > 0 && std::min(a.y, b.y) - wide < to.bottom;
        if (!in_picture || std::max(a.colour[0] + a.colour[1] + a.colour[2] + a.cover,
                                    b.colour[0] + b.colour[1] + b.colour[2] + b.cover) <= 1e-4f) {
            continue;
        }
        const Vec3 first = i > 0 ? joint(ways[i], ways[i - 1]) : ways[i];
        const Vec3 last = i + 1 < ways.size() ? joint(ways[i], ways[i + 1]) : ways[i];
        out.push_back({a.x,
                       a.y,
                       b.x,
                       b.y,
                       a.half,
                       b.half,
                       first.x,
                       first.y,
                       last.x,
                       last.y,
                       a.depth,
                       b.depth,
                       {a.colour[0], a.colour[1], a.colour[2]},
                       {b.colour[0], b.colour[1], b.colour[2]},
                       a.cover,
                       b.cover,
                       std::min(look.sharpness, 1 + wide * 0.5f),
                       look.fade,
                       i == 0,
                       i + 2 == line.size()});
    }
}

} // namespace ember
