// Breaking: pieces that fall into a heap, against the physics library alone with the same pieces (P7), how
// the step grows with their number (P9), and Salt Stack for a minute with and without its cleanup (P8).
#include "bench/figures.h"
#include "bench/turns.h"

#include "core/effect/effect_file.h"
#include "core/runtime/simulation.h"
#include "render/renderer.h"

#include <benchmark/benchmark.h>

#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wconversion"
#pragma GCC diagnostic ignored "-Wshadow"
#include <btBulletDynamicsCommon.h>
#pragma GCC diagnostic pop

#include <cmath>
#include <memory>
#include <string>
#include <vector>

namespace ember::bench {

namespace {

constexpr double step_s = 1.0 / 60;

// A block that falls apart as it falls: pieces that all move, and meet.
Effect heap_effect(int pieces) {
    Effect effect = starter_effect();
    effect.elements.clear();
    Breakable block;
    block.position = {0, 3, 0};
    // As high and of as large pieces however many: more of them lie side by side, and each meets as many.
    const float side = 2 * std::sqrt(float(pieces) / 100);
    block.size = {side, 2, side};
    block.pieces = pieces;
    block.evenness = 1;
    block.sliver = 0;
    block.strength = 0;
    block.rest_speed = 0; // nobody falls asleep
    block.capacity = pieces;
    effect.elements.push_back({.id = "block", .name = "Block", .body = block});
    effect.elements.push_back(
        {.id = "gravity", .name = "Gravity", .body = Gravity{.strength = 9.81f}, .links = {{"block", 1}}});
    effect.elements.push_back({.id = "ground", .name = "Ground", .body = Plane{}, .links = {{"block", 1}}});
    return effect;
}

class OurHeap {
  public:
    explicit OurHeap(int pieces) : effect_(std::make_shared<const Effect>(heap_effect(pieces))) {
        assets_ = library_.load(*effect_, ".").assets;
        restart();
    }
    void restart() {
        simulation_ = std::make_unique<Simulation>();
        simulation_->set_effect(effect_, assets_);
        simulation_->step();
    }
    void step() { simulation_->step(); }
    const Cut& cut() const {
        return *assets_.find<Cut>(needs_of(effect_->elements[0], effect_->seed).front().key());
    }

  private:
    EffectPtr effect_;
    AssetLibrary library_;
    Assets assets_;
    std::unique_ptr<Simulation> simulation_;
};

// The same pieces as plain hulls of the library.
class RawHeap {
  public:
    explicit RawHeap(const Cut& cut) : cut_(&cut) {
        for (const Piece& piece : cut.pieces) {
            auto shape = std::make_unique<btConvexHullShape>();
            for (const Vec3& corner : piece.mesh.corners) {
                shape->addPoint({corner.x, corner.y, corner.z}, false);
            }
            shape->recalcLocalAabb();
            shape->setMargin(0.01f);
            shapes_.push_back(std::move(shape));
        }
        restart();
    }
    ~RawHeap() { empty(); }

    void restart() {
        empty();
        world_ = std::make_unique<World>();
        add(world_->ground, 0, {0, 0, 0});
        for (size_t i = 0; i < shapes_.size(); ++i) {
            const Vec3 at = cut_->pieces[i].centre;
            add(*shapes_[i], cut_->pieces[i].volume * 1200, {at.x, at.y + 3, at.z});
        }
        step();
    }
    void step() { world_->world.stepSimulation(float(step_s), 0); }

  private:
    struct World {
        btDefaultCollisionConfiguration configuration;
        btCollisionDispatcher dispatcher{&configuration};
        btDbvtBroadphase broadphase;
        btSequentialImpulseConstraintSolver solver;
        btDiscreteDynamicsWorld world{&dispatcher, &broadphase, &solver, &configuration};
        btStaticPlaneShape ground{{0, 1, 0}, 0};
        std::vector<std::unique_ptr<btRigidBody>> bodies;
    };
    void add(btCollisionShape& shape, float mass, const btVector3& at) {
        btVector3 inertia(0, 0, 0);
        if (mass > 0) {
            shape.calculateLocalInertia(mass, inertia);
        }
        btRigidBody::btRigidBodyConstructionInfo info(mass, nullptr, &shape, inertia);
        info.m_startWorldTransform.setOrigin(at);
        info.m_friction = 0.42f;
        auto body = std::make_unique<btRigidBody>(info);
        body->setActivationState(DISABLE_DEACTIVATION);
        world_->world.addRigidBody(body.get());
        world_->bodies.push_back(std::move(body));
    }
    void empty() {
        for (size_t i = 0; world_ && i < world_->bodies.size(); ++i) {
            world_->world.removeRigidBody(world_->bodies[i].get());
        }
    }

    const Cut* cut_;
    std::vector<std::unique_ptr<btConvexHullShape>> shapes_;
    std::unique_ptr<World> world_;
};

// A fall of a second and a half, until all lie in a heap.
constexpr int fall_steps = 90;

void pieces(benchmark::State& state, int count) {
    OurHeap ours(count);
    RawHeap raw(ours.cut());
    const auto fall = [](auto& heap) {
        heap.restart();
        return seconds_of([&] {
            for (int i = 0; i < fall_steps; ++i) {
                heap.step();
            }
        });
    };
    in_turns(
        state, [&] { return fall(ours); }, [&] { return fall(raw); });
    values()["pieces " + std::to_string(count) + " ms"] = state.counters["ours_ms"] / fall_steps;
    values()["pieces " + std::to_string(count) + " raw"] = 1 / state.counters["times"];
    values()["pieces " + std::to_string(count) + " count"] = double(ours.cut().pieces.size());
}

// Salt Stack as it runs.
class RunningStack {
  public:
    explicit RunningStack(bool cleans)
        : effect_(std::make_shared<const Effect>(*read_effect(folder / "salt-stack.ember.json").effect)) {
        simulation_.set_effect(effect_, library_.load(*effect_, folder).assets);
        inputs_.cleans = cleans;
    }

    /// A step and a picture, of which every tenth is drawn and counts ten times. Returns seconds.
    double run(int step) {
        const bool draws = step % 10 == 0;
        const double stepped = seconds_of([&] {
            simulation_.step(inputs_);
            if (draws) {
                simulation_.write_frame(frame_);
            }
        });
        return !draws ? stepped : stepped + 10 * seconds_of([&] {
                                                renderer_.draw(frame_, *effect_, camera_of(effect_->stage),
                                                               900, 560, picture_);
                                            });
    }
    size_t pieces() const { return simulation_.meters().debris.pieces; }

  private:
    static inline const std::filesystem::path folder = EMBER_DEMO_FOLDER;
    EffectPtr effect_;
    AssetLibrary library_;
    StepInputs inputs_;
    Simulation simulation_;
    Renderer renderer_;
    Frame frame_;
    Picture picture_;
};

// Milliseconds of step and picture of the first and last ten seconds of a minute, with cleanup and without,
// step by step in turn.
void salt_stack(benchmark::State& state) {
    constexpr int steps = 3600, counted = 600;
    for (auto _ : state) {
        RunningStack cleaned(true), uncleaned(false);
        double first_s = 0, last_s = 0, uncleaned_s = 0;
        for (int i = 0; i < steps; ++i) {
            const double with = cleaned.run(i), without = uncleaned.run(i);
            first_s += i < counted ? with : 0;
            last_s += i >= steps - counted ? with : 0;
            uncleaned_s += i >= steps - counted ? without : 0;
        }
        state.SetIterationTime(last_s + uncleaned_s);
        state.counters["times"] = uncleaned_s / last_s;
        values()["salt-stack first_ms"] = first_s / counted * 1000;
        values()["salt-stack last_ms"] = last_s / counted * 1000;
        values()["salt-stack uncleaned last_ms"] = uncleaned_s / counted * 1000;
        values()["salt-stack pieces"] = double(cleaned.pieces());
        values()["salt-stack uncleaned pieces"] = double(uncleaned.pieces());
    }
}

} // namespace

void register_debris() {
    for (const int count : bench_pieces) {
        benchmark::RegisterBenchmark(("P7 pieces " + std::to_string(count)).c_str(), pieces, count)
            ->UseManualTime()
            ->Iterations(count < 1000 ? 3 : 1)
            ->Repetitions(1)
            ->Unit(benchmark::kMillisecond);
    }
    benchmark::RegisterBenchmark("P8 salt-stack", salt_stack)
        ->UseManualTime()
        ->Iterations(1)
        ->Repetitions(1)
        ->Unit(benchmark::kMillisecond);
}

} // namespace ember::bench
