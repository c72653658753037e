#include "bench/figures.h"
#include "bench/turns.h"

#include "core/assets/assets.h"
#include "core/blocks/block_kernels.h"
#include "core/runtime/simulation.h"
#include "core/scene/program.h"
#include "core/scene/windows.h"

#include <benchmark/benchmark.h>

#include <algorithm>
#include <cstring>
#include <iterator>
#include <vector>

namespace ember::bench {

namespace {

constexpr double step_s = 1.0 / 60;
constexpr StepTime step_time = {step_s, 22};

Effect effect_with(const std::vector<ElementBody>& influences) {
    Effect effect = starter_effect();
    effect.elements.resize(1);
    Emitter& emitter = std::get<Emitter>(effect.elements.front().body);
    // A cloud 4 m across that moves slowly.
    emitter.size = {4, 4, 4};
    emitter.position = {0, 2.5f, 0};
    emitter.lifetime = {1000, 1000};
    for (const ElementBody& body : influences) {
        const std::string id = "i" + std::to_string(effect.elements.size());
        effect.elements.push_back({.id = id, .name = id, .body = body, .links = {{"emitter", 1}}});
    }
    return effect;
}

PreparedEffect ready_effect(const Effect& effect) {
    static AssetLibrary library;
    return prepared(std::make_shared<const Effect>(effect), library.load(effect, EMBER_DEMO_FOLDER).assets,
                    {});
}

Meters meters_for(const PreparedEffect& ready) {
    Meters meters;
    meters.elements.resize(ready.effect->elements.size());
    return meters;
}

// One thread, one step of all blocks at a time; they are set back before each, outside of the time.
class BlockSteps {
  public:
    BlockSteps(Isa isa, const std::vector<ElementBody>& influences)
        : run_(block_kernels(isa)), ready_(ready_effect(effect_with(influences))),
          meters_(meters_for(ready_)), windows_(run_), placed_(placements_in(ready_, step_time)),
          program_(
              compiled(ready_, windows_.update(ready_, placed_.to, meters_), step_time, placed_).front()),
          start_(bench_blocks) {
        for (size_t i = 0; i < start_.size(); ++i) {
            run_.give_birth(program_.birth, uint32_t(i) * block_size, block_size, {}, start_[i]);
            for (int k = 0; k < block_size; ++k) {
                start_[i].y[k] += 2.5f;
            }
        }
    }

    double seconds() {
        blocks_ = start_;
        return seconds_of([this] {
            for (ParticleBlock& block : blocks_) {
                step(block);
            }
        });
    }

  private:
    void step(ParticleBlock& block) {
        run_.clear(program_.life, block, sums_);
        for (const auto& force : program_.forces) {
            run_.add_force(force.row, block, float(step_s), {}, sums_);
        }
        run_.advance(program_.life, sums_, float(step_s), block, starts_);
        for (const auto& collider : program_.colliders) {
            run_.collide(collider.row, starts_, float(step_s), block, nullptr);
        }
    }

    const BlockKernels& run_;
    const PreparedEffect ready_;
    Meters meters_;
    StageWindows windows_;
    const StepPlacements placed_;
    const SourceProgram program_;
    std::vector<ParticleBlock> start_, blocks_;
    ForceSums sums_;
    PathStarts starts_;
};

void step_blocks(benchmark::State& state, Isa isa, const std::vector<ElementBody>& influences) {
    BlockSteps steps(isa, influences);
    for (auto _ : state) {
        state.SetIterationTime(steps.seconds());
    }
}

// P1.
void step_against_scalar(benchmark::State& state) {
    const std::vector<ElementBody> influences = {
        Gravity{}, Wind{}, Drag{}, Turbulence{.octaves = 3, .churn = 1}, Plane{}, Box{}};
    BlockSteps ours(Isa::avx2, influences), scalar(Isa::scalar, influences);
    in_turns(
        state, [&] { return ours.seconds(); }, [&] { return scalar.seconds(); });
}

// One thread, a birth of all blocks in each iteration.
void give_birth(benchmark::State& state, const Emitter& emitter) {
    Effect effect = effect_with({});
    const std::string look = std::get<Emitter>(effect.elements[0].body).look;
    std::get<Emitter>(effect.elements[0].body) = emitter;
    std::get<Emitter>(effect.elements[0].body).look = look;
    const PreparedEffect ready = ready_effect(effect);
    const BlockKernels& run = block_kernels(best_isa());
    const SourceProgram program = compiled(ready, {}, step_time, placements_in(ready, step_time)).front();
    static const BirthOrigins origins = {};
    ParticleBlock block;
    for (auto _ : state) {
        for (int i = 0; i < bench_blocks; ++i) {
            run.give_birth(program.birth, uint32_t(i) * block_size, block_size, origins, block);
            benchmark::ClobberMemory();
        }
    }
}

// As births by a shape, with places on the faces of a break, fifty on each.
void give_birth_on_faces(benchmark::State& state) {
    CutOrder order;
    order.pieces = 30;
    Problems problems;
    const Cut cut = *cut_apart(block_mesh({1, 1, 1}), order, problems);
    Emitter emitter;
    emitter.shape = BirthShape::broken;
    const PreparedEffect ready = ready_effect([&] {
        Effect effect = effect_with({});
        emitter.look = std::get<Emitter>(effect.elements[0].body).look;
        effect.elements[0].body = emitter;
        return effect;
    }());
    const BlockKernels& run = block_kernels(best_isa());
    const SourceProgram program = compiled(ready, {}, step_time, placements_in(ready, step_time)).front();
    BirthOrigins origins = {};
    ParticleBlock block;
    for (auto _ : state) {
        for (int i = 0; i < bench_blocks; ++i) {
            for (int k = 0; k < block_size;) {
                const BondFace face(cut.bonds[size_t(i + k) % cut.bonds.size()]);
                for (int each = 0; each < 50 && k < block_size; ++each, ++k) {
                    const Vec3 place = face.place(uint32_t(i * block_size + k));
                    origins.x[k] = place.x;
                    origins.y[k] = place.y;
                    origins.z[k] = place.z;
                }
            }
            run.give_birth(program.birth, uint32_t(i) * block_size, block_size, origins, block);
            benchmark::ClobberMemory();
        }
    }
}

// Whole steps, with births, deaths and compaction, on all threads: about `count` particles that live for a
// second.
Simulation steady_run(const Effect& effect) {
    Simulation simulation;
    simulation.set_effect(std::make_shared<const Effect>(effect),
                          AssetLibrary().load(effect, EMBER_DEMO_FOLDER).assets);
    for (int i = 0; i < 100; ++i) {
        simulation.step();
    }
    return simulation;
}

Effect goal_effect(int count) {
    Vortex vortex;
    vortex.grip = 2;
    Effect effect = effect_with({Turbulence{.octaves = 1, .churn = 0}, vortex, Drag{}, Plane{}});
    Emitter& emitter = std::get<Emitter>(effect.elements[0].body);
    emitter.rate = float(count);
    emitter.lifetime = {0.5f, 1.5f};
    emitter.capacity = count * 2;
    return effect;
}

// P9: the same effect with few and many particles, in turn. Leaves nanoseconds per particle and counts
// behind.
void steps_of_all_sizes(benchmark::State& state) {
    std::vector<Simulation> simulations;
    std::vector<std::vector<double>> ns(std::size(bench_counts));
    for (const int count : bench_counts) {
        simulations.push_back(steady_run(goal_effect(count)));
    }
    for (auto _ : state) {
        double seconds = 0;
        for (size_t i = 0; i < simulations.size(); ++i) {
            // Short steps often, so that none is over before the clock has ticked.
            const int steps = std::max(500000 / bench_counts[i], 1);
            double particles = 0;
            const double taken = seconds_of([&] {
                for (int step = 0; step < steps; ++step) {
                    simulations[i].step();
                    particles += double(simulations[i].meters().particles);
                }
            });
            ns[i].push_back(taken / particles * 1e9);
            seconds += taken;
        }
        state.SetIterationTime(seconds);
    }
    for (size_t i = 0; i < simulations.size(); ++i) {
        const std::string count = std::to_string(bench_counts[i]);
        state.counters["ns of " + count] = middle_of(ns[i]);
        state.counters["alive of " + count] = double(simulations[i].meters().particles);
    }
}

// P2: a step against copying the same bytes of state once.
void step_against_copy(benchmark::State& state) {
    Simulation simulation = steady_run(goal_effect(1000000));
    const size_t bytes = simulation.meters().particles * particle_bytes;
    std::vector<char> from(bytes, 1), to(bytes);
    in_turns(
        state, [&] { return seconds_of([&] { simulation.step(); }); },
        [&] { return seconds_of([&] { std::memcpy(to.data(), from.data(), bytes); }); });
    values()["alive against copy"] = double(simulation.meters().particles);
}

// Particles that see one another, as many to a view as a shoal has.
Effect crowd(const ElementBody& influence, int count, float spacing_m) {
    Effect effect = effect_with({influence});
    Emitter& emitter = std::get<Emitter>(effect.elements[0].body);
    const float side = spacing_m * std::cbrt(float(count));
    emitter.shape = BirthShape::box;
    emitter.size = {side, side, side};
    emitter.rate = 0;
    emitter.burst_count = emitter.capacity = count;
    emitter.for_ever = true;
    emitter.order = BirthOrder::even;
    emitter.spread = 180;
    emitter.speed = {0.2f, 0.8f};
    emitter.particle_size = {0.04f, 0.06f};
    return effect;
}

void crowd_steps(benchmark::State& state, const ElementBody& influence, int count, float spacing_m) {
    Simulation simulation = steady_run(crowd(influence, count, spacing_m));
    for (auto _ : state) {
        simulation.step();
    }
}

// What 20000 particles pay to meet 150 pieces that fly apart, against one mesh.
void pieces_against_mesh(benchmark::State& state) {
    const auto cloud = [](const ElementBody& collider) {
        Effect effect = effect_with({collider});
        Emitter& emitter = std::get<Emitter>(effect.elements[0].body);
        emitter.shape = BirthShape::box;
        emitter.size = {1.4f, 1.4f, 1.4f};
        emitter.rate = 20000;
        emitter.capacity = 20000;
        emitter.lifetime = {1, 1};
        emitter.spread = 180;
        emitter.speed = {0.5f, 2};
        emitter.particle_size = {0.005f, 0.02f};
        return effect;
    };
    MeshCollider mesh;
    mesh.mesh = "wheel-rim.obj";
    mesh.position = {0, 2.5f, 0};
    Effect broken = cloud(PieceCollider{});
    Breakable block;
    block.position = {0, 2.5f, 0};
    block.pieces = 150;
    broken.elements.push_back({.id = "block", .name = "Block", .body = block});
    Blast blast;
    blast.reach = ReachShape::ball;
    blast.reach_position = {0, 2.5f, 0};
    blast.reach_size = {3, 3, 3};
    blast.speed = 0.3f;
    blast.first = 1;
    broken.elements.push_back({.id = "blast", .name = "Blast", .body = blast, .links = {{"block", 1}}});
    Simulation pieces = steady_run(broken), solid = steady_run(cloud(mesh));
    const auto collision_s = [](Simulation& simulation) {
        simulation.step();
        return simulation.meters().collision_ms / 1000;
    };
    in_turns(
        state, [&] { return collision_s(pieces); }, [&] { return collision_s(solid); });
}

void register_influences() {
    PathFlow path;
    GridFlow grid;
    grid.size = {4, 4, 4};
    HeightMap heights;
    heights.from = HeightsFrom::stage;
    heights.size = {4, 1, 4};
    MeshCollider mesh;
    mesh.mesh = "wheel-rim.obj";
    mesh.position = {0, 2.5f, 0};
    const Place middle = {{0, 2.5f, 0}, {}, {}};
    Gravity reaching;
    reaching.reach = ReachShape::box;
    Gravity curved = reaching;
    curved.fade = Fade::curve;
    const std::vector<std::pair<std::string, std::vector<ElementBody>>> cases = {
        {"motion", {}},
        {"gravity", {Gravity{}}},
        {"gravity in a box, faded by power", {reaching}},
        {"gravity in a box, faded by curve", {curved}},
        {"wind", {Wind{}}},
        {"drag", {Drag{.quadratic = 0.1f}}},
        {"turbulence, 1 octave, churn 0", {Turbulence{.octaves = 1, .churn = 0}}},
        {"turbulence, 3 octaves, churn 0", {Turbulence{.octaves = 3, .churn = 0}}},
        {"turbulence, 3 octaves", {Turbulence{.octaves = 3, .churn = 1}}},
        {"waves, 1 octave", {Waves{}}},
        {"vortex", {Vortex{}}},
        {"pull", {Pull{}}},
        {"spring", {Spring{}}},
        {"path flow, helix of 3 turns", {path}},
        {"grid flow, 32 cells", {grid}},
        {"jitter", {Jitter{}}},
        {"ground plane", {Plane{}}},
        {"box", {Box{{}, middle, {1, 1, 1}}}},
        {"ball", {Ball{{}, middle, 0.5f}}},
        {"capsule", {Capsule{{}, middle, 0.25f, 1}}},
        {"cylinder", {Cylinder{{}, middle, 0.25f, 1}}},
        {"height map", {heights}},
        {"mesh, 64 cells", {mesh}},
    };
    for (const auto& [name, influences] : cases) {
        influence_names().push_back(name);
        for (const Isa isa : {Isa::scalar, Isa::v2, Isa::avx2}) {
            const std::string full = "particles/" + name + "/" + std::string(name_of(isa));
            benchmark::RegisterBenchmark(full.c_str(), step_blocks, isa, influences)
                ->Unit(benchmark::kMillisecond)
                ->UseManualTime();
        }
    }
}

void register_births() {
    const auto add = [](const std::string& name, BirthShape shape, BirthFill fill) {
        Emitter emitter;
        emitter.shape = shape;
        emitter.fill = fill;
        emitter.size = {2, 1, 2};
        emitter.mesh = "wheel-rim.obj";
        birth_names().push_back(name);
        benchmark::RegisterBenchmark(("births/" + name).c_str(), give_birth, emitter)
            ->Unit(benchmark::kMillisecond);
    };
    add("point", BirthShape::point, BirthFill::inside);
    add("line", BirthShape::line, BirthFill::inside);
    add("disc", BirthShape::disc, BirthFill::inside);
    add("rectangle", BirthShape::rectangle, BirthFill::inside);
    add("ring", BirthShape::ring, BirthFill::inside);
    add("box", BirthShape::box, BirthFill::inside);
    add("ball", BirthShape::ball, BirthFill::inside);
    add("ellipsoid, surface", BirthShape::ball, BirthFill::surface);
    add("cylinder", BirthShape::cylinder, BirthFill::inside);
    add("cone", BirthShape::cone, BirthFill::inside);
    add("path", BirthShape::path, BirthFill::inside);
    add("mesh, 1792 triangles", BirthShape::mesh, BirthFill::inside);
    birth_names().push_back("broken");
    benchmark::RegisterBenchmark("births/broken", give_birth_on_faces)->Unit(benchmark::kMillisecond);
}

} // namespace

std::vector<std::string>& influence_names() {
    static std::vector<std::string> names;
    return names;
}

std::vector<std::string>& birth_names() {
    static std::vector<std::string> names;
    return names;
}

void register_particles() {
    benchmark::RegisterBenchmark("P1", step_against_scalar)->Unit(benchmark::kMillisecond)->UseManualTime();
    benchmark::RegisterBenchmark("P2", step_against_copy)->Unit(benchmark::kMillisecond)->UseManualTime();
    register_influences();
    register_births();
    benchmark::RegisterBenchmark("P9", steps_of_all_sizes)
        ->Unit(benchmark::kMillisecond)
        ->UseManualTime()
        ->MinTime(3);
    Flock flock;
    flock.view = 0.2f;
    for (const int count : {5000, 20000, 80000}) {
        benchmark::RegisterBenchmark(("flock/" + std::to_string(count)).c_str(), crowd_steps, flock, count,
                                     0.08f)
            ->Unit(benchmark::kMillisecond)
            ->UseRealTime();
    }
    benchmark::RegisterBenchmark("pieces against mesh", pieces_against_mesh)
        ->Unit(benchmark::kMillisecond)
        ->UseManualTime();
    benchmark::RegisterBenchmark("contacts", crowd_steps, Contacts{}, 20000, 0.06f)
        ->Unit(benchmark::kMillisecond)
        ->UseRealTime();
}

} // namespace ember::bench
