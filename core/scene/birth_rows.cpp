#include "core/scene/birth_rows.h"

#include "core/base/hash.h"
#include "core/scene/even_births.h"

#include <algorithm>
#include <cmath>

namespace ember {

BirthRow birth_row(const Emitter& emitter, const PreparedElement& ready, uint32_t seed,
                   const Placement& placement, const Axes& below, const StepTime& time) {
    BirthRow row{};
    row.shape = unint(emitter.shape);
    if (emitter.shape == BirthShape::mesh || emitter.shape == BirthShape::skin) {
        row.shape = ready.mesh && ready.mesh->parts > 0 ? BIRTH_MESH : BIRTH_POINT;
    }
    if (emitter.shape == BirthShape::broken) {
        row.shape = BIRTH_POINT; // births come with their places
    }
    row.on_surface = emitter.fill == BirthFill::surface ? 1 : 0;
    row.order = unint(emitter.order);
    row.aim = unint(emitter.aim);
    row.seed = seed;
    row.axis_x = placement.axes.x;
    row.axis_y = placement.axes.y;
    row.axis_z = placement.axes.z;
    row.half_size = emitter.size * 0.5f;
    row.tube = emitter.thickness * 0.5f;
    row.extent_low = emitter.extent.low;
    row.extent_high = emitter.extent.high;
    row.round = unuint(std::max(emitter.sequence_length, 1));
    row.even = even_row(emitter, ready);
    row.face_cells = cells_along(emitter.size);
    row.travel = emitter.travel;
    const double travelled = double(emitter.birth_place) + double(emitter.travel) * time.start_s();
    row.place = float(travelled - std::floor(travelled));
    row.path = ready.path.points.data();
    row.path_points = ready.path.count();
    row.mesh = ready.mesh ? ready.mesh->values.data() : nullptr;
    row.mesh_parts = ready.mesh ? ready.mesh->parts : 0;
    row.mesh_corners = emitter.shape == BirthShape::mesh && emitter.mesh_birth == MeshBirth::corners ? 1 : 0;
    row.scale = emitter.shape == BirthShape::mesh ? emitter.scale : 1;
    row.direction = below.out(normalized(emitter.direction));
    row.cos_spread = std::cos(emitter.spread * radians_per_degree);
    row.speed_low = emitter.speed.low;
    row.speed_high = emitter.speed.high;
    constexpr float for_ever_s = 1e30f;
    row.lifetime_low = emitter.for_ever ? for_ever_s : emitter.lifetime.low;
    row.lifetime_high = emitter.for_ever ? for_ever_s : emitter.lifetime.high;
    row.size_low = emitter.particle_size.low;
    row.size_high = emitter.particle_size.high;
    return row;
}

uint32_t element_seed(const Effect& effect, const Element& element) {
    return mixed_seed(effect.seed, hash_of(element.id));
}

uint32_t source_seed(const Effect& effect, const Element& source, const Emitter& emitter) {
    const uint32_t seed = element_seed(effect, source);
    return emitter.own_seed == 0 ? seed : mixed_seed(seed, uint32_t(emitter.own_seed));
}

LifeUse life_use(const Emitter& emitter, const PreparedElement& ready, uint32_t seed) {
    LifeUse life;
    life.row = {seed,
                emitter.mass.low,
                emitter.mass.high,
                ready.hold.data(),
                emitter.speed_limit,
                ready.limit.data()};
    const auto is_one = [](float value) { return value == 1; };
    life.holds = emitter.mass != Range{1, 1} || !std::all_of(ready.hold.begin(), ready.hold.end(), is_one);
    life.limits = emitter.speed_limit > 0;
    return life;
}

FormRow form_row(const PreparedEffect& prepared, size_t element) {
    const Element& source = prepared.effect->elements[element];
    const auto& emitter = std::get<Emitter>(source.body);
    const PreparedElement& ready = *prepared.elements[element];
    const Quaternion turn = Quaternion::turned(emitter.facing_turn);
    FormRow row{};
    row.seed = source_seed(*prepared.effect, source, emitter);
    row.facing = unint(emitter.facing);
    row.turn_v = turn.v;
    row.turn_w = turn.w;
    row.heading = emitter.facing_heading * radians_per_degree;
    row.spread = emitter.facing_spread * radians_per_degree;
    row.spins = emitter.spin != Range{0, 0} ? 1 : 0;
    row.spin_axis = unint(emitter.spin_axis);
    row.spin_low = emitter.spin.low / 60;
    row.spin_high = emitter.spin.high / 60;
    row.first_spin = emitter.spin_over_life.at(0);
    row.spun = ready.spun.data();
    row.is_for_ever = emitter.for_ever ? 1 : 0;
    row.stretch_low = {emitter.stretch_x.low, emitter.stretch_y.low, emitter.stretch_z.low};
    row.stretch_high = {emitter.stretch_x.high, emitter.stretch_y.high, emitter.stretch_z.high};
    row.stretch_x = ready.stretch_x.data();
    row.stretch_y = ready.stretch_y.data();
    row.stretch_z = ready.stretch_z.data();
    return row;
}

} // namespace ember
