#include "core/scene/prepared.h"

#include "core/scene/own_way.h"

#include "core/base/hash.h"
#include "core/blocks/block_kernels.h"
#include "core/scene/even_births.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <sstream>

namespace ember {

namespace {

CurveTable table_of(const Curve& curve) {
    CurveTable table(CURVE_ENTRIES);
    for (int i = 0; i < CURVE_ENTRIES; ++i) {
        table[size_t(i)] = curve.at(float(i) / float(CURVE_ENTRIES - 1));
    }
    return table;
}

// The integral from 0 up to each entry, over 0..1.
CurveTable integral_of(const CurveTable& curve) {
    CurveTable sums(curve.size());
    for (size_t i = 1; i < curve.size(); ++i) {
        sums[i] = sums[i - 1] + (curve[i - 1] + curve[i]) * 0.5f / float(curve.size() - 1);
    }
    return sums;
}

bool is_plain_white(const Ramp& ramp) {
    return std::all_of(ramp.stops.begin(), ramp.stops.end(),
                       [](const Ramp::Stop& stop) { return stop.colour == Colour(); });
}

// --- paths

// A point of the spline through a, b, c, d between b and c (centripetal, by A. H. Barry and R. N. Goldman,
// 1988).
Vec3 spline_point(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d, float t) {
    const auto knot = [](const Vec3& p, const Vec3& q) { return std::max(std::sqrt(length(q - p)), 1e-4f); };
    const float t1 = knot(a, b), t2 = t1 + knot(b, c), t3 = t2 + knot(c, d);
    const float at = t1 + (t2 - t1) * t;
    const auto mix = [at](const Vec3& p, const Vec3& q, float from, float to) {
        return p * ((to - at) / (to - from)) + q * ((at - from) / (to - from));
    };
    const Vec3 ab = mix(a, b, 0, t1), bc = mix(b, c, t1, t2), cd = mix(c, d, t2, t3);
    return mix(mix(ab, bc, 0, t2), mix(bc, cd, t1, t3), t1, t2);
}

// A fine polygon along the path.
std::vector<Vec3> polygon_of(const PathShape& path) {
    std::vector<Vec3> polygon;
    if (path.path == PathKind::helix) {
        const int steps = std::clamp(int(std::fabs(path.turns) * 96), 32, 9600);
        for (int i = 0; i <= steps; ++i) {
            const float share = float(i) / float(steps);
            const float angle = share * path.turns * 2 * std::numbers::pi_v<float>;
            const float radius = path.radius + (path.end_radius - path.radius) * share;
            polygon.emplace_back(radius * std::cos(angle), path.height * share, radius * std::sin(angle));
        }
        return polygon;
    }
    const auto count = int(path.points.size());
    const int segments = path.closed ? count : count - 1;
    const auto point = [&](int i) {
        if (path.closed) {
            return path.points[size_t((i + count) % count)];
        }
        // Beyond the ends the path goes straight on.
        if (i < 0) {
            return path.points[0] * 2 - path.points[1];
        }
        return i < count ? path.points[size_t(i)]
                         : path.points[size_t(count - 1)] * 2 - path.points[size_t(count - 2)];
    };
    constexpr int parts = 24;
    for (int s = 0; s < segments; ++s) {
        for (int k = 0; k < parts; ++k) {
            polygon.push_back(
                spline_point(point(s - 1), point(s), point(s + 1), point(s + 2), float(k) / parts));
        }
    }
    polygon.push_back(point(segments));
    return polygon;
}

// --- grids

Vec3 as_floats(const std::array<int, 3>& count) {
    return {float(count[0]), float(count[1]), float(count[2])};
}

// All of a distance field, in metres.
GridTable distance_table(const DistanceField& field, float scale) {
    std::array<int, 3> count{};
    for (size_t i = 0; i < 3; ++i) {
        count[i] = field.high_cell()[i] - field.low_cell()[i] + 1;
    }
    GridTable grid;
    grid.values.resize(size_t(count[0]) * size_t(count[1]) * size_t(count[2]));
    field.fill(field.low_cell(), count, grid.values.data());
    for (float& value : grid.values) {
        value *= scale;
    }
    const float cell = field.cell() * scale;
    grid.cells = as_floats(count);
    grid.low = as_floats(field.low_cell()) * cell;
    grid.per_cell = {1 / cell, 1 / cell, 1 / cell};
    return grid;
}

// Runs `flow(x, y, z)` for every place of a grid.
void fill_vectors(GridTable& grid, auto flow) {
    const auto nx = int(grid.cells.x), ny = int(grid.cells.y), nz = int(grid.cells.z);
    grid.values.resize(size_t(nx) * size_t(ny) * size_t(nz) * 3);
    tbb::parallel_for(0, nz, [&](int z) {
        float* next = grid.values.data() + size_t(z) * size_t(nx) * size_t(ny) * 3;
        for (int y = 0; y < ny; ++y) {
            for (int x = 0; x < nx; ++x) {
                const Vec3 v = flow(x, y, z);
                *next++ = v.x;
                *next++ = v.y;
                *next++ = v.z;
            }
        }
    });
}

Vec3 swirl_axis(const GridFlow& flow, const GridTable& distance) {
    switch (flow.swirl_about) {
    case SwirlAbout::x:
        return {1, 0, 0};
    case SwirlAbout::y:
        return {0, 1, 0};
    case SwirlAbout::z:
        return {0, 0, 1};
    case SwirlAbout::own:
        return own_way_of(distance);
    }
    return {};
}

// Towards the surface of a shape, and round it.
GridTable mesh_flow(const GridFlow& flow, const DistanceField& field) {
    const GridTable distance = distance_table(field, flow.scale);
    GridTable grid{{}, distance.cells, distance.low, distance.per_cell};
    const Vec3 axis = swirl_axis(flow, distance);
    const auto nx = int(grid.cells.x), ny = int(grid.cells.y), nz = int(grid.cells.z);
    const auto at = [&](int x, int y, int z) {
        x = std::clamp(x, 0, nx - 1);
        y = std::clamp(y, 0, ny - 1);
        z = std::clamp(z, 0, nz - 1);
        return distance.values[size_t(x) + size_t(nx) * (size_t(y) + size_t(ny) * size_t(z))];
    };
    fill_vectors(grid, [&](int x, int y, int z) {
        const Vec3 outward = normalized({at(x + 1, y, z) - at(x - 1, y, z), at(x, y + 1, z) - at(x, y - 1, z),
                                         at(x, y, z + 1) - at(x, y, z - 1)},
                                        {});
        const float side = at(x, y, z) < 0 ? 1.0f : -1.0f;
        return outward * (side * flow.attraction) + cross(axis, outward) * flow.swirl;
    });
    return grid;
}

// Frozen curl noise with a root mean square of 1.
GridTable noise_flow(const GridFlow& flow, uint32_t seed) {
    const float longest = std::max({flow.size.x, flow.size.y, flow.size.z});
    const float cell = longest / float(flow.resolution - 1);
    const auto count = [&](float length) { return std::max(2.0f, std::floor(length / cell + 0.5f) + 1); };
    GridTable grid;
    grid.cells = {count(flow.size.x), count(flow.size.y), count(flow.size.z)};
    grid.low = flow.size * -0.5f;
    grid.per_cell = {1 / cell, 1 / cell, 1 / cell};

    ForceRow row{};
    row.kind = FORCE_TURBULENCE;
    row.seed = seed;
    row.strength = 1;
    row.frequency = 1 / flow.eddy_size;
    row.octaves = 1;
    row.now_share = 1;
    const BlockKernels& run = block_kernels(best_isa());
    const auto nx = int(grid.cells.x), ny = int(grid.cells.y), nz = int(grid.cells.z);
    const size_t total = size_t(nx) * size_t(ny) * size_t(nz);
    grid.values.resize(total * 3);
    tbb::parallel_for(size_t(0), (total + block_size - 1) / block_size, [&](size_t b) {
        ParticleBlock block;
        ForceSums sums;
        block.count = int(std::min<size_t>(block_size, total - b * block_size));
        for (int i = 0; i < block.count; ++i) {
            const size_t index = b * block_size + size_t(i);
            block.x[i] = grid.low.x + cell * float(index % size_t(nx));
            block.y[i] = grid.low.y + cell * float(index / size_t(nx) % size_t(ny));
            block.z[i] = grid.low.z + cell * float(index / size_t(nx) / size_t(ny));
        }
        run.clear({}, block, sums);
        run.add_force(row, block, 0, {}, sums);
        for (int i = 0; i < block.count; ++i) {
            float* out = &grid.values[(b * block_size + size_t(i)) * 3];
            out[0] = sums.push_x[i];
            out[1] = sums.push_y[i];
            out[2] = sums.push_z[i];
        }
    });
    return grid;
}

GridTable height_table(const HeightMap& map, const HeightImage& image) {
    GridTable grid;
    grid.cells = {float(image.width), 1, float(image.height)};
    grid.low = {-map.size.x / 2, 0, -map.size.z / 2};
    grid.per_cell = {float(image.width - 1) / map.size.x, 0, float(image.height - 1) / map.size.z};
    grid.values.resize(image.values.size());
    std::transform(image.values.begin(), image.values.end(), grid.values.begin(),
                   [&](float bright) { return bright * map.size.y; });
    return grid;
}

GridTable vector_table(const GridFlow& flow, const VectorGrid& vectors) {
    const float cell = vectors.cell * flow.scale;
    return {vectors.values,
            as_floats(vectors.count),
            vectors.low * flow.scale,
            {1 / cell, 1 / cell, 1 / cell},
            vectors.turn};
}

// --- one element

// What an element needs, as read, in the order of needs_of().
std::vector<std::shared_ptr<const void>> assets_of(const Element& element, uint32_t effect_seed,
                                                   const Assets& assets) {
    std::vector<std::shared_ptr<const void>> result;
    for (const AssetNeed& need : needs_of(element, effect_seed)) {
        const auto found = assets.by_key.find(need.key());
        result.push_back(found != assets.by_key.end() ? found->second : nullptr);
    }
    return result;
}

// A text that differs where one of the values does.
template <class... Values>
std::string key_of(const Values&... values) {
    std::ostringstream text;
    text << std::hexfloat;
    ((text << values << ' '), ...);
    return text.str();
}

struct Preparer {
    const Element& element;
    const Assets& assets;
    uint32_t effect_seed;
    uint32_t seed; // of the element
    const PreparedElement* before;
    PreparedElement& ready;

    template <class T>
    std::shared_ptr<const T> asset() const {
        const auto needs = needs_of(element, effect_seed);
        return needs.empty() ? nullptr : assets.find<T>(needs.front().key());
    }

    // Makes a grid or mesh, or takes over the one that was made of the same.
    template <class T>
    void make(std::shared_ptr<const T> PreparedElement::*what, std::string made_of, auto make_new) const {
        ready.made_of = std::move(made_of);
        const bool same = before != nullptr && before->made_of == ready.made_of && before->*what;
        ready.*what = same ? before->*what : std::make_shared<const T>(make_new());
    }

    // The same for the table of a curve.
    template <class Body>
    void make_table(CurveTable PreparedElement::*what, const Body& body, Curve Body::*curve,
                    CurveTable (*make_new)(const Curve&) = table_of) const {
        const auto* old = before != nullptr ? std::get_if<Body>(&before->body) : nullptr;
        const bool same = old != nullptr && old->*curve == body.*curve && !(before->*what).empty();
        ready.*what = same ? before->*what : make_new(body.*curve);
    }
    // The same for a path.
    template <class Body>
    void make_path(const Body& body, bool closed = false) const {
        const auto* old = before != nullptr ? std::get_if<Body>(&before->body) : nullptr;
        const PathShape& path = body;
        const bool same = old != nullptr && path == static_cast<const PathShape&>(*old) &&
                          before->path.count() > 0 && before->path_closed == closed;
        ready.path = same ? before->path : sampled(path, closed);
        ready.path_closed = closed;
    }

    void operator()(const Emitter& emitter) const {
        make_table(&PreparedElement::hold, emitter, &Emitter::hold_over_life);
        make_table(&PreparedElement::limit, emitter, &Emitter::speed_limit_over_life);
        if (emitter.form == Form::stretched) {
            make_table(&PreparedElement::stretch_x, emitter, &Emitter::stretch_x_over_life);
            make_table(&PreparedElement::stretch_y, emitter, &Emitter::stretch_y_over_life);
            make_table(&PreparedElement::stretch_z, emitter, &Emitter::stretch_z_over_life);
            make_table(&PreparedElement::spun, emitter, &Emitter::spin_over_life,
                       [](const Curve& curve) { return integral_of(table_of(curve)); });
        }
        if (!is_plain_white(emitter.birth_colours)) {
            ready.birth_colours = sampled(emitter.birth_colours);
        }
        if (emitter.shape == BirthShape::path) {
            make_path(emitter);
        }
        const Vec3& size = emitter.size;
        const bool is_round = size.x == size.y && size.y == size.z;
        if (emitter.shape == BirthShape::ball && emitter.fill == BirthFill::surface &&
            emitter.order == BirthOrder::even && !is_round) {
            make(&PreparedElement::mesh, key_of(size.x, size.y, size.z), [&] {
                return birth_mesh(ellipsoid_mesh(size * 0.5f), MeshBirth::faces,
                                  FaceOrder::neighbours_together);
            });
        }
        if (emitter.shape == BirthShape::clip) {
            ready.clip = asset<Clip>();
        }
        if (const auto mesh = asset<Mesh>()) {
            make(&PreparedElement::mesh, key_of(mesh.get(), int(emitter.mesh_birth)),
                 [&] { return birth_mesh(*mesh, emitter.mesh_birth, FaceOrder::neighbours_together); });
        }
    }
    void operator()(const PathFlow& flow) const { make_path(flow, flow.flow_end == FlowEnd::loop); }
    void operator()(const PathMover& mover) const { make_path(mover); }
    void operator()(const GridFlow& flow) const {
        const auto grid = &PreparedElement::grid;
        if (flow.grid == FlowGrid::noise) {
            make(grid, key_of(seed, flow.size.x, flow.size.y, flow.size.z, flow.resolution, flow.eddy_size),
                 [&] { return noise_flow(flow, seed); });
        } else if (flow.grid == FlowGrid::smoke) {
            return; // it changes with every step: see core/scene/windows.h
        } else if (const auto vectors = asset<VectorGrid>()) {
            make(grid, key_of(vectors.get(), flow.scale), [&] { return vector_table(flow, *vectors); });
        } else if (const auto field = asset<DistanceField>()) {
            make(grid, key_of(field.get(), flow.scale, flow.attraction, flow.swirl, int(flow.swirl_about)),
                 [&] { return mesh_flow(flow, *field); });
        }
    }
    void operator()(const HeightMap& map) const {
        if (const auto image = asset<HeightImage>()) {
            make(&PreparedElement::grid, key_of(image.get(), map.size.x, map.size.y, map.size.z),
                 [&] { return height_table(map, *image); });
        }
    }
    void operator()(const MeshCollider& collider) const {
        const auto field = asset<DistanceField>();
        if (field && collider.area == 0) {
            make(&PreparedElement::grid, key_of(field.get(), collider.scale),
                 [&] { return distance_table(*field, collider.scale); });
        } else {
            ready.distances = field;
        }
    }
    void operator()(const Smoke&) const { ready.smoke_clip = asset<SmokeClip>(); }
    void operator()(const Breakable&) const {
        ready.cut = asset<Cut>();
        ready.piece_clip = asset<PieceClip>();
    }
    void operator()(const KeyedMover&) const { ready.keys = asset<KeyTrack>(); }
    void operator()(const auto&) const {}
};

} // namespace

PathPoint PathTable::at(float share) const {
    const float place = std::clamp(share, 0.0f, 1.0f) * float(count() - 1);
    const int i = std::min(int(place), count() - 2);
    const auto point = [this](int k) {
        return Vec3{points[size_t(k) * 3], points[size_t(k) * 3 + 1], points[size_t(k) * 3 + 2]};
    };
    const Vec3 a = point(i), b = point(i + 1);
    return {a + (b - a) * (place - float(i)), normalized(b - a, {1, 0, 0})};
}

PathTable sampled(const PathShape& path, bool closed) {
    std::vector<Vec3> polygon = polygon_of(path);
    if (closed) {
        polygon.push_back(polygon.front());
    }
    std::vector<double> way = {0};
    for (size_t i = 1; i < polygon.size(); ++i) {
        way.push_back(way.back() + double(length(polygon[i] - polygon[i - 1])));
    }
    PathTable table;
    table.length = float(way.back());
    const size_t count = std::clamp<size_t>(polygon.size() / 2, 64, 4096);
    size_t at = 0;
    for (size_t i = 0; i < count; ++i) {
        const double goal = way.back() * double(i) / double(count - 1);
        while (at + 2 < way.size() && way[at + 1] < goal) {
            ++at;
        }
        const double span = std::max(way[at + 1] - way[at], 1e-12);
        const Vec3 p = polygon[at] +
                       (polygon[at + 1] - polygon[at]) * float(std::clamp((goal - way[at]) / span, 0.0, 1.0));
        table.points.insert(table.points.end(), {p.x, p.y, p.z});
    }
    return table;
}

std::optional<size_t> PreparedEffect::index_of(const std::string& id) const {
    if (id.empty()) {
        return std::nullopt;
    }
    for (size_t i = 0; i < effect->elements.size(); ++i) {
        if (effect->elements[i].id == id) {
            return i;
        }
    }
    return std::nullopt;
}

namespace {

// Places in 1024 cells each way, in the order of G. M. Morton, 1966: what follows in it lies near.
uint32_t place_in_order(const Vec3& place, const Vec3& low, float per_m) {
    const auto spread = [](float at) {
        auto bits = uint32_t(std::clamp(at, 0.0f, 1023.0f));
        uint32_t code = 0;
        for (int i = 0; i < 10; ++i) {
            code |= ((bits >> i) & 1u) << (3 * i);
        }
        return code;
    };
    const Vec3 at = (place - low) * per_m;
    return spread(at.x) | spread(at.y) << 1 | spread(at.z) << 2;
}

std::vector<std::array<uint32_t, 3>> neighbours_together(const Mesh& mesh) {
    Vec3 low = mesh.corners.empty() ? Vec3() : mesh.corners.front(), high = low;
    for (const Vec3& c : mesh.corners) {
        low = {std::min(low.x, c.x), std::min(low.y, c.y), std::min(low.z, c.z)};
        high = {std::max(high.x, c.x), std::max(high.y, c.y), std::max(high.z, c.z)};
    }
    const Vec3 size = high - low;
    const float per_m = 1023 / std::max({size.x, size.y, size.z, 1e-9f});
    std::vector<std::pair<uint32_t, size_t>> order;
    for (size_t i = 0; i < mesh.triangles.size(); ++i) {
        const auto& t = mesh.triangles[i];
        const Vec3 middle = (mesh.corners[t[0]] + mesh.corners[t[1]] + mesh.corners[t[2]]) * (1 / 3.0f);
        order.push_back({place_in_order(middle, low, per_m), i});
    }
    std::sort(order.begin(), order.end());
    std::vector<std::array<uint32_t, 3>> triangles;
    for (const auto& [code, i] : order) {
        triangles.push_back(mesh.triangles[i]);
    }
    return triangles;
}

} // namespace

BirthMesh birth_mesh(const Mesh& mesh, MeshBirth birth, FaceOrder order) {
    BirthMesh ready;
    if (birth == MeshBirth::corners) {
        ready.parts = int(mesh.corners.size());
        ready.values.reserve(mesh.corners.size() * 6);
        for (size_t i = 0; i < mesh.corners.size(); ++i) {
            const Vec3 &c = mesh.corners[i], &n = mesh.normals[i];
            ready.values.insert(ready.values.end(), {c.x, c.y, c.z, n.x, n.y, n.z});
        }
        return ready;
    }
    std::vector<double> area_up_to;
    const auto triangles = order == FaceOrder::as_read ? mesh.triangles : neighbours_together(mesh);
    area_up_to.reserve(triangles.size());
    double area = 0;
    for (const auto& t : triangles) {
        const Vec3 &a = mesh.corners[t[0]], &b = mesh.corners[t[1]], &c = mesh.corners[t[2]];
        area += double(length(cross(b - a, c - a)));
        area_up_to.push_back(area);
    }
    ready.parts = int(triangles.size());
    ready.values.reserve(triangles.size() * 10);
    for (size_t i = 0; i < triangles.size(); ++i) {
        ready.values.push_back(float(area > 0 ? area_up_to[i] / area : 1));
        for (const uint32_t corner : triangles[i]) {
            const Vec3& c = mesh.corners[corner];
            ready.values.insert(ready.values.end(), {c.x, c.y, c.z});
        }
    }
    return ready;
}

// `old`: what was made for the element before; may be null.
static std::shared_ptr<const PreparedElement> prepared(const Element& element, uint32_t effect_seed,
                                                       const Assets& assets,
                                                       std::shared_ptr<const PreparedElement> old,
                                                       bool same_seed) {
    auto needed = assets_of(element, effect_seed, assets);
    if (old && same_seed && old->body == element.body && old->assets == needed) {
        return old;
    }
    auto ready = std::make_shared<PreparedElement>();
    ready->body = element.body;
    ready->assets = std::move(needed);
    if (const Reach* reach = reach_of(element.body)) {
        const Reach* before = old ? reach_of(old->body) : nullptr;
        const bool same = before != nullptr && before->fade_curve == reach->fade_curve;
        ready->fade = same ? old->fade : table_of(reach->fade_curve);
    }
    const uint32_t seed = mixed_seed(effect_seed, hash_of(element.id));
    std::visit(Preparer{element, assets, effect_seed, seed, old.get(), *ready}, element.body);
    return ready;
}

PreparedEffect prepared(EffectPtr effect, const Assets& assets, const PreparedEffect& before) {
    PreparedEffect result{effect, before.inputs, {}};
    const bool same_seed = before.effect && before.effect->seed == effect->seed;
    for (const Element& element : effect->elements) {
        const auto index = before.effect ? before.index_of(element.id) : std::nullopt;
        result.elements.push_back(
            prepared(element, effect->seed, assets, index ? before.elements[*index] : nullptr, same_seed));
    }
    return result;
}

PreparedEffect prepared(EffectPtr effect, const Assets& assets, const PreparedEffect& before,
                        std::span<const size_t> changed) {
    PreparedEffect result{effect, before.inputs, before.elements};
    for (const size_t i : changed) {
        result.elements[i] = prepared(effect->elements[i], effect->seed, assets, before.elements[i], true);
    }
    return result;
}

} // namespace ember
