#include "core/scene/program.h"

#include "core/base/hash.h"
#include "core/scene/birth_rows.h"
#include "core/scene/placements.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {

void set_place(auto& row, const Placement& placement) {
    row.position = placement.position;
    row.axis_x = placement.axes.x;
    row.axis_y = placement.axes.y;
    row.axis_z = placement.axes.z;
}

// --- influences

// What a row may depend on besides its element's own parameters.
struct Context {
    const PreparedElement& ready;
    Placement place; // in the middle of the step
    double run_s;    // in the middle of the step
    double step_s;
    uint32_t step;
    uint32_t seed; // of the effect and the element
    float weight;  // of the link
};

// A rate of damping that a single step can take in full, as the mean over the step.
float bounded_rate(float rate, double step_s) {
    return float((1 - std::exp(-double(rate) * step_s)) / step_s);
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
    const float gusts = 1 + wind.gusts * gust(context.run_s, double(wind.gust_period), context.seed);
    row.air = normalized(wind.direction, {1, 0, 0}) * (wind.speed * gusts);
    row.linear = wind.grip * context.weight;
    return row;
}

ForceRow row_of(const Drag& drag, const Context& context) {
    ForceRow row{};
    row.kind = FORCE_DRAG;
    row.linear = drag.linear * context.weight;
    row.quadratic = drag.quadratic * context.weight;
    row.brake = drag.brake * context.weight;
    return row;
}

// Distances that the field has drifted are wrapped after this many eddies, so that 32-bit places stay exact.
constexpr double drift_wrap = 65536;

// What Turbulence and Waves have in common.
ForceRow noise_row(const auto& noise, float strength, const Context& context) {
    ForceRow row{};
    row.seed = context.seed;
    row.strength = strength * context.weight;
    row.frequency = 1 / noise.eddy_size;
    row.octaves = noise.octaves;
    row.roughness = noise.roughness;
    const auto drifted = [&](float speed) {
        return float(std::fmod(double(speed) * context.run_s / double(noise.eddy_size), drift_wrap));
    };
    row.drift = {drifted(noise.drift.x), drifted(noise.drift.y), drifted(noise.drift.z)};

    // Two time slices of the field are blended at constant power: cos^2 + sin^2 = 1.
    const double phase = double(noise.churn) * context.run_s;
    const double slice = std::floor(phase);
    const double between = phase - slice;
    const double eased = between * between * (3 - 2 * between);
    row.slice = uint32_t(int64_t(slice));
    row.now_share = float(std::cos(eased * std::numbers::pi / 2));
    row.next_share = noise.churn > 0 ? float(std::sin(eased * std::numbers::pi / 2)) : 0.0f;
    return row;
}

ForceRow row_of(const Turbulence& turbulence, const Context& context) {
    ForceRow row = noise_row(turbulence, turbulence.strength, context);
    row.kind = FORCE_TURBULENCE;
    return row;
}

ForceRow row_of(const Waves& waves, const Context& context) {
    ForceRow row = noise_row(waves, waves.speed, context);
    row.kind = FORCE_WAVES;
    return row;
}

ForceRow row_of(const Vortex& vortex, const Context& context) {
    ForceRow row{};
    row.kind = FORCE_VORTEX;
    row.variant = unint(vortex.about);
    set_place(row, context.place);
    row.spin = vortex.spin * radians_per_degree;
    row.core = vortex.core;
    row.inflow = vortex.inflow;
    row.lift = vortex.lift;
    row.linear = vortex.grip * context.weight;
    return row;
}

ForceRow row_of(const Pull& pull, const Context& context) {
    ForceRow row{};
    if (pull.law == PullLaw::linear && pull.strength > 0) {
        row.kind = FORCE_SPRING;
        row.variant = SPRING_POINT;
        set_place(row, context.place);
        row.stiffness = pull.strength * context.weight;
        return row;
    }
    row.kind = FORCE_PULL;
    row.variant = unint(pull.law);
    set_place(row, context.place);
    row.strength = pull.strength * context.weight;
    row.core = pull.core;
    return row;
}

ForceRow row_of(const Spring& spring, const Context& context) {
    ForceRow row{};
    row.kind = FORCE_SPRING;
    row.variant = unint(spring.to);
    set_place(row, context.place);
    const double swing = 2 * std::numbers::pi * double(spring.frequency); // rad/s
    row.stiffness = float(swing * swing) * context.weight;
    row.linear = spring.damping * float(swing) * context.weight;
    return row;
}

ForceRow row_of(const PathFlow& flow, const Context& context) {
    ForceRow row{};
    row.kind = FORCE_PATH;
    set_place(row, context.place);
    row.path = context.ready.path.points.data();
    row.path_points = context.ready.path.count();
    row.speed = flow.speed;
    row.pull = bounded_rate(flow.pull, context.step_s);
    row.variant = unint(flow.flow_end);
    row.tube = flow.tube;
    row.linear = flow.grip * context.weight;
    return row;
}

void set_grid(ForceRow& row, const GridTable& grid) {
    const Axes turned = Axes{row.axis_x, row.axis_y, row.axis_z}.out(grid.turn);
    row.axis_x = turned.x;
    row.axis_y = turned.y;
    row.axis_z = turned.z;
    row.grid = grid.values.data();
    row.grid_cells = grid.cells;
    row.grid_low = grid.low;
    row.per_cell = grid.per_cell.x;
}

ForceRow row_of(const GridFlow& flow, const Context& context) {
    ForceRow row{};
    row.kind = FORCE_GRID;
    set_place(row, context.place);
    if (context.ready.grid) {
        set_grid(row, *context.ready.grid);
    }
    row.speed = flow.speed;
    row.linear = flow.grip * context.weight;
    row.variant = flow.grid == FlowGrid::mesh    ? GRID_GOES_ON
                  : flow.grid == FlowGrid::noise ? GRID_REPEATS
                                                 : GRID_ENDS;
    return row;
}

ForceRow row_of(const Jitter& jitter, const Context& context) {
    ForceRow row{};
    row.kind = FORCE_JITTER;
    row.seed = mixed_seed(context.seed, context.step);
    row.strength = jitter.strength * context.weight / float(std::sqrt(context.step_s));
    return row;
}

// All of its speed within the step, away from the middle of its reach.
ForceRow blast_row(const Blast& blast, const ReachRow& reach, const Context& context) {
    ForceRow row{};
    row.kind = FORCE_PULL;
    row.variant = PULL_CONSTANT;
    row.position = reach.position;
    row.reach = reach;
    row.strength = -blast.speed * context.weight / float(context.step_s);
    return row;
}

ForceRow row_of(const Flock&, const Context& context) {
    ForceRow row{};
    row.kind = FORCE_FOUND;
    row.strength = context.weight;
    return row;
}

ReachRow reach_row(const Reach& reach, const PreparedElement& ready, const Placement& placement) {
    ReachRow row{};
    row.shape = unint(reach.reach);
    row.fade = unint(reach.fade);
    set_place(row, placement);
    row.half_size = reach.reach_size * 0.5f;
    row.side = reach.side == ReachSide::inside ? 1.0f : -1.0f;
    row.per_distance = 1 / std::max(reach.fade_distance, 1e-6f);
    row.power = reach.fade_power;
    row.curve = ready.fade.data();
    return row;
}

// --- colliders

// What is a force of those that reach.
template <class Body>
constexpr bool is_force = std::is_base_of_v<Reach, Body> && !std::is_base_of_v<Surface, Body> &&
                          !std::is_same_v<Body, Pin> && !std::is_same_v<Body, Blast> &&
                          !std::is_same_v<Body, CleanupZone> && !std::is_same_v<Body, PieceCollider>;

void set_shape(const Plane&, ColliderRow& row) {
    row.kind = COLLIDER_PLANE;
}
void set_shape(const Box& box, ColliderRow& row) {
    row.kind = COLLIDER_BOX;
    row.half_size = box.size * 0.5f;
}
void set_shape(const Ball& ball, ColliderRow& row) {
    row.kind = COLLIDER_BALL;
    row.half_size = {ball.radius, ball.radius, ball.radius};
}
void set_shape(const Capsule& capsule, ColliderRow& row) {
    row.kind = COLLIDER_CAPSULE;
    row.half_size = {capsule.radius, capsule.length / 2, capsule.radius};
}
void set_shape(const Cylinder& cylinder, ColliderRow& row) {
    row.kind = COLLIDER_CYLINDER;
    row.half_size = {cylinder.radius, cylinder.length / 2, cylinder.radius};
}
void set_shape(const HeightMap& map, ColliderRow& row) {
    row.kind = COLLIDER_HEIGHTS;
    row.at_edge = unint(map.at_edge);
    row.half_size = map.size * 0.5f;
}
void set_shape(const MeshCollider&, ColliderRow& row) {
    row.kind = COLLIDER_DISTANCES;
}

// What becomes of particles that hit it.
void set_hit(const auto& body, ColliderRow& row) {
    const bool sticks = body.on_hit == OnHit::stick;
    row.on_hit = unint(body.on_hit);
    row.bounce = body.on_hit == OnHit::bounce ? body.bounce : 0.0f;
    row.friction = sticks ? 1e6f : body.friction;
    row.roughness = sticks ? 0.0f : body.roughness;
}

bool needs_grid(const ColliderRow& row) {
    return row.kind == COLLIDER_HEIGHTS || row.kind == COLLIDER_DISTANCES;
}

// --- putting it together

class Compiler {
  public:
    Compiler(const PreparedEffect& prepared, const WindowGrids& windows, const StepTime& time,
             const StepPlacements& placed, const std::vector<size_t>& blasts)
        : prepared_(prepared), windows_(windows), time_(time), placed_(placed), blasts_(blasts) {}

    std::vector<SourceProgram> programs() {
        const Effect& effect = *prepared_.effect;
        std::vector<SourceProgram> programs;
        for (size_t i = 0; i < effect.elements.size(); ++i) {
            const Element& source = effect.elements[i];
            const auto* emitter = std::get_if<Emitter>(&source.body);
            if (emitter == nullptr || !is_active(effect, source)) {
                continue;
            }
            SourceProgram& program = programs.emplace_back();
            program.element = i;
            program.emitter = emitter;
            program.start_s = emitter->begins == Begin::at_once ? time_.first_s() : double(emitter->start);
            program.ready = prepared_.elements[i].get();
            program.from = placed_.from[i];
            program.to = placed_.to[i];
            const uint32_t seed = source_seed(*prepared_.effect, source, *emitter);
            const Axes below = riding(prepared_, placed_.from, emitter->rides_on, {}, {}).axes;
            program.birth = birth_row(*emitter, *program.ready, seed, placed_.from[i], below, time_);
            program.life = life_use(*emitter, *program.ready, program.birth.seed);
            add_linked(program, source);
        }
        return programs;
    }

    SourceProgram without_births(size_t element) {
        SourceProgram program;
        program.element = element;
        program.ready = prepared_.elements[element].get();
        add_linked(program, prepared_.effect->elements[element]);
        return program;
    }

  private:
    uint32_t seed_of(const Element& element) const { return element_seed(*prepared_.effect, element); }

    void add_linked(SourceProgram& program, const Element& source) {
        const Effect& effect = *prepared_.effect;
        for (size_t j = 0; j < effect.elements.size(); ++j) {
            const Link* link = find_link(effect.elements[j], source.id);
            if (link != nullptr && link->weight > 0 && is_active(effect, effect.elements[j])) {
                add(program, j, link->weight);
            }
        }
    }

    void add(SourceProgram& program, size_t j, float weight) {
        const Element& element = prepared_.effect->elements[j];
        const PreparedElement& ready = *prepared_.elements[j];
        const ReachRow reach_row_now = reach_row(prepared_, placed_.middle, j);
        const Context context = {ready,        placed_.middle[j],    time_.run_s() + time_.step_s / 2,
                                 time_.step_s, uint32_t(time_.step), seed_of(element),
                                 weight};
        const auto add_collider = [&](ColliderRow& row) {
            row.seed = context.seed;
            row.step = context.step;
            row.share = weight;
            row.reach = reach_row_now;
            program.is_sticky = program.is_sticky || row.on_hit == HIT_STICK;
            program.colliders.push_back({j, row, weight});
        };
        std::visit(
            [&](const auto& body) {
                using Body = std::remove_cvref_t<decltype(body)>;
                if constexpr (std::is_base_of_v<Surface, Body>) {
                    ColliderRow row{};
                    if (collider_row(prepared_, j, windows_, placed_.from[j], placed_.to[j], time_.step_s,
                                     row)) {
                        add_collider(row);
                    }
                } else if constexpr (std::is_same_v<Body, PieceCollider>) {
                    ColliderRow row{};
                    row.kind = COLLIDER_HULL; // which, and where: see core/runtime/piece_hulls.h
                    set_hit(body, row);
                    const std::optional<size_t> of = prepared_.index_of(body.of);
                    if (body.of.empty() || of) {
                        add_collider(row);
                        program.colliders.back().pieces = {of, body.push};
                    }
                } else if constexpr (std::is_same_v<Body, Blast>) {
                    // Of bodies it is a matter of debris: what it breaks, and what it throws.
                    const bool goes_off = std::find(blasts_.begin(), blasts_.end(), j) != blasts_.end();
                    if (goes_off && program.emitter != nullptr) {
                        program.forces.push_back({j, blast_row(body, reach_row_now, context), weight});
                    }
                } else if constexpr (std::is_same_v<Body, Contacts>) {
                    ColliderRow row{};
                    row.kind = -1; // no surface: see core/runtime/neighbourhood.h
                    row.reach = reach_row_now;
                    program.colliders.push_back({j, row, weight});
                } else if constexpr (is_force<Body>) {
                    ForceRow row = row_of(body, context);
                    if constexpr (std::is_same_v<Body, GridFlow>) {
                        if (const auto window = windows_.find(j); window != windows_.end()) {
                            set_place(row, {}); // smoke's grid lies in the world
                            set_grid(row, *window->second);
                        }
                    }
                    const bool lacks_grid = row.kind == FORCE_GRID && row.grid == nullptr;
                    row.reach = reach_row_now;
                    row.is_held = program.life.holds && row.kind != FORCE_PUSH ? 1 : 0;
                    program.life.carries = program.life.carries || row.kind == FORCE_WAVES;
                    if (!lacks_grid) {
                        program.forces.push_back({j, row, weight});
                    }
                }
            },
            element.body);
    }

    const PreparedEffect& prepared_;
    const WindowGrids& windows_;
    StepTime time_;
    const StepPlacements& placed_;
    const std::vector<size_t>& blasts_;
};

} // namespace

ReachRow reach_row(const PreparedEffect& prepared, const std::vector<Placement>& placements, size_t element) {
    const Reach& reach = *reach_of(prepared.effect->elements[element].body);
    return reach_row(
        reach, *prepared.elements[element],
        riding(prepared, placements, reach.reach_rides_on, reach.reach_position, reach.reach_turn));
}

SourceProgram compiled_for(const PreparedEffect& prepared, const WindowGrids& windows, const StepTime& time,
                           const StepPlacements& placed, size_t element) {
    return Compiler(prepared, windows, time, placed, {}).without_births(element);
}

void set_motion(ColliderRow& row, const Placement& from, const Placement& to, double step_s) {
    set_place(row, to);
    row.is_moving = from == to ? 0 : 1;
    row.was_position = from.position;
    row.per_step = float(1 / step_s);
    // The turn that takes the axes of the start to those of the end, as what it makes of the world's x, y and
    // z.
    const auto turned = [&](const Vec3& v) { return to.axes.out(from.axes.in(v)); };
    row.turned_x = turned({1, 0, 0});
    row.turned_y = turned({0, 1, 0});
    row.turned_z = turned({0, 0, 1});
}

bool collider_row(const PreparedEffect& prepared, size_t element, const WindowGrids& windows,
                  const Placement& from, const Placement& to, double step_s, ColliderRow& row) {
    const bool is_solid = std::visit(
        [&](const auto& body) {
            if constexpr (std::is_base_of_v<Surface, std::remove_cvref_t<decltype(body)>>) {
                set_shape(body, row);
                set_hit(body, row);
                return true;
            } else {
                return false;
            }
        },
        prepared.effect->elements[element].body);
    row.share = 1;
    set_motion(row, from, to, step_s);
    if (const auto* map = std::get_if<HeightMap>(&prepared.effect->elements[element].body);
        map != nullptr && map->from == HeightsFrom::stage) {
        // The area moves over the stage; the stage stays.
        set_place(row, {to.position, {}});
        row.is_moving = 0;
    }
    const GridTable* grid = prepared.elements[element]->grid.get();
    if (const auto window = windows.find(element); window != windows.end()) {
        grid = window->second.get();
    }
    if (grid != nullptr) {
        row.grid = grid->values.data();
        row.grid_cells = grid->cells;
        row.grid_low = grid->low;
        row.per_cell = grid->per_cell;
    }
    return is_solid && (!needs_grid(row) || row.grid != nullptr);
}

float gust(double run_s, double period_s, uint32_t seed) {
    const double phase = 2 * run_s / period_s;
    const double whole = std::floor(phase);
    const auto level = [&](double at) {
        return float(mixed_seed(seed, uint32_t(int64_t(at)))) / 2147483648.0f - 1.0f;
    };
    const auto t = float(phase - whole);
    const float eased = t * t * (3 - 2 * t);
    return level(whole) * (1 - eased) + level(whole + 1) * eased;
}

std::vector<SourceProgram> compiled(const PreparedEffect& prepared, const WindowGrids& windows,
                                    const StepTime& time, const StepPlacements& placed,
                                    const std::vector<size_t>& blasts) {
    return Compiler(prepared, windows, time, placed, blasts).programs();
}

} // namespace ember
