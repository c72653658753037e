#include "core/particles/program.h"

#include "core/base/hash.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {

constexpr float radians = std::numbers::pi_v<float> / 180;

// What a row may depend on besides its element's own parameters.
struct Context {
    double time_s;
    uint64_t step;
    uint32_t seed; // of the effect and the element
    float weight;  // of the link
};

void set_axes(auto& row, const Axes& axes) {
    row.axis_x = axes.x;
    row.axis_y = axes.y;
    row.axis_z = axes.z;
}

// Two directions of length 1 across `direction` and each other.
Axes axes_across(const Vec3& direction) {
    const Vec3 other = std::fabs(direction.y) < 0.9f ? Vec3{0, 1, 0} : Vec3{1, 0, 0};
    const Vec3 a = normalized(cross(direction, other));
    return {a, direction, cross(a, direction)};
}

BirthRow row_of(const Emitter& emitter, uint32_t seed) {
    BirthRow row;
    row.shape = unint(emitter.shape);
    row.seed = seed;
    row.position = emitter.position;
    set_axes(row, turned_axes(emitter.turn));
    row.half_size = emitter.size * 0.5f;
    row.direction = normalized(emitter.direction);
    const Axes across = axes_across(row.direction);
    row.side_a = across.x;
    row.side_b = across.z;
    row.cos_spread = std::cos(emitter.spread * radians);
    row.speed_low = emitter.speed.low;
    row.speed_high = emitter.speed.high;
    row.lifetime_low = emitter.lifetime.low;
    row.lifetime_high = emitter.lifetime.high;
    row.size_low = emitter.particle_size.low;
    row.size_high = emitter.particle_size.high;
    return row;
}

ForceRow row_of(const Gravity& gravity, const Context& context) {
    ForceRow row{};
    row.kind = FORCE_PUSH;
    row.push = normalized(gravity.direction, {0, -1, 0}) * (gravity.strength * context.weight);
    return row;
}

ForceRow row_of(const Wind& wind, const Context& context) {
    ForceRow row{};
    row.kind = FORCE_AIR;
    const float gusts = 1 + wind.gusts * gust(context.time_s, wind.gust_period, context.seed);
    row.air = normalized(wind.direction, {1, 0, 0}) * (wind.speed * gusts);
    row.linear = wind.grip * context.weight;
    return row;
}

ForceRow row_of(const Drag& drag, const Context& context) {
    ForceRow row{};
    row.kind = FORCE_DRAG;
    row.linear = drag.linear * context.weight;
    row.quadratic = drag.quadratic * context.weight;
    return row;
}

// Distances that the field has drifted are wrapped after this many eddies, so that 32-bit places stay exact.
constexpr double drift_wrap = 65536;

ForceRow row_of(const Turbulence& turbulence, const Context& context) {
    ForceRow row{};
    row.kind = FORCE_TURBULENCE;
    row.seed = context.seed;
    row.strength = turbulence.strength * context.weight;
    row.frequency = 1 / turbulence.eddy_size;
    row.octaves = turbulence.octaves;
    row.roughness = turbulence.roughness;
    const auto drifted = [&](float speed) {
        return float(std::fmod(double(speed) * context.time_s / turbulence.eddy_size, drift_wrap));
    };
    row.drift = {drifted(turbulence.drift.x), drifted(turbulence.drift.y), drifted(turbulence.drift.z)};

    // Two time slices of the field are blended at constant power: cos^2 + sin^2 = 1.
    const double phase = turbulence.churn * context.time_s;
    const double slice = std::floor(phase);
    const double between = phase - slice;
    const double eased = between * between * (3 - 2 * between);
    row.slice = uint32_t(uint64_t(slice));
    row.now_share = float(std::cos(eased * std::numbers::pi / 2));
    row.next_share = turbulence.churn > 0 ? float(std::sin(eased * std::numbers::pi / 2)) : 0.0f;
    return row;
}

ColliderRow row_of(const Surface& surface, const Context& context) {
    ColliderRow row{};
    row.seed = context.seed;
    row.step = uint32_t(context.step);
    row.bounce = surface.bounce;
    row.friction = surface.friction;
    row.roughness = surface.roughness;
    row.share = context.weight;
    return row;
}

ColliderRow row_of(const Plane& plane, const Context& context) {
    ColliderRow row = row_of(static_cast<const Surface&>(plane), context);
    row.kind = COLLIDER_PLANE;
    row.position = plane.position;
    const Vec3 normal = normalized(plane.normal);
    const Axes axes = axes_across(normal);
    set_axes(row, axes);
    return row;
}

ColliderRow row_of(const Box& box, const Context& context) {
    ColliderRow row = row_of(static_cast<const Surface&>(box), context);
    row.kind = COLLIDER_BOX;
    row.position = box.position;
    set_axes(row, turned_axes(box.turn));
    row.half_size = box.size * 0.5f;
    return row;
}

// Puts the influence's row where it belongs in the source's program.
struct Place {
    SourceProgram& program;
    size_t element;
    Context context;

    void operator()(const Emitter&) const {}
    void operator()(const auto& influence) const { add({element, row_of(influence, context)}); }

    void add(Influence<ForceRow> force) const { program.forces.push_back(force); }
    void add(Influence<ColliderRow> collider) const { program.colliders.push_back(collider); }
};

} // namespace

Axes turned_axes(const Vec3& degrees) {
    const float cx = std::cos(degrees.x * radians), sx = std::sin(degrees.x * radians);
    const float cy = std::cos(degrees.y * radians), sy = std::sin(degrees.y * radians);
    const float cz = std::cos(degrees.z * radians), sz = std::sin(degrees.z * radians);
    const auto turn = [&](Vec3 v) {
        v = {v.x, cx * v.y - sx * v.z, sx * v.y + cx * v.z};
        v = {cy * v.x + sy * v.z, v.y, cy * v.z - sy * v.x};
        return Vec3{cz * v.x - sz * v.y, sz * v.x + cz * v.y, v.z};
    };
    return {turn({1, 0, 0}), turn({0, 1, 0}), turn({0, 0, 1})};
}

float gust(double time_s, double period_s, uint32_t seed) {
    const double phase = 2 * time_s / period_s;
    const double whole = std::floor(phase);
    const auto level = [&](double at) {
        return float(mixed_seed(seed, uint32_t(uint64_t(at)))) / 2147483648.0f - 1.0f;
    };
    const auto t = float(phase - whole);
    const float eased = t * t * (3 - 2 * t);
    return level(whole) * (1 - eased) + level(whole + 1) * eased;
}

std::vector<SourceProgram> compiled(const Effect& effect, double time_s, uint64_t step) {
    std::vector<SourceProgram> programs;
    for (size_t i = 0; i < effect.elements.size(); ++i) {
        const Element& source = effect.elements[i];
        const auto* emitter = std::get_if<Emitter>(&source.body);
        if (emitter == nullptr || !is_active(effect, source)) {
            continue;
        }
        SourceProgram& program = programs.emplace_back();
        program.element = i;
        program.birth = row_of(*emitter, mixed_seed(effect.seed, hash_of(source.id)));
        program.rate = emitter->rate;
        program.capacity = size_t(emitter->capacity);
        for (size_t j = 0; j < effect.elements.size(); ++j) {
            const Element& influence = effect.elements[j];
            const Link* link = find_link(influence, source.id);
            if (link != nullptr && link->weight > 0 && is_active(effect, influence)) {
                const uint32_t seed = mixed_seed(effect.seed, hash_of(influence.id));
                std::visit(Place{program, j, {time_s, step, seed, link->weight}}, influence.body);
            }
        }
    }
    return programs;
}

} // namespace ember
