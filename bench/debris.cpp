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
    const Cut& cut() const { return *assets_.find<Cut>(needs_of(effect_->elements[0]).front().key()); }

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

// Milliseconds of step and picture of the first and last ten seconds of a minute.
void salt_stack(benchmark::State& state, bool cleans) {
    const std::filesystem::path folder = EMBER_DEMO_FOLDER;
    const Effect effect = *read_effect(folder / "salt-stack.ember.json").effect;
    const EffectPtr shared = std::make_shared<const Effect>(effect);
    AssetLibrary library;
    const Assets assets = library.load(effect, folder).assets;
    for (auto _ : state) {
        Simulation simulation;
        simulation.set_effect(shared, assets);
        simulation.set_cleanup(cleans);
        Renderer renderer;
        Frame frame;
        Picture picture;
        double seconds[6] = {};
        for (int i = 0; i < 3600; ++i) {
            seconds[i / 600] += seconds_of([&] {
                simulation.step();
                // Every tenth picture, taken ten times.
                if (i % 10 == 0) {
                    simulation.write_frame(frame);
                }
            });
            if (i % 10 == 0) {
                seconds[i / 600] +=
                    10 * seconds_of([&] {
                        renderer.draw(frame, effect, camera_of(effect.stage), 900, 560, picture);
                    });
            }
        }
        state.SetIterationTime(seconds[5]);
        const std::string name = cleans ? "salt-stack" : "salt-stack uncleaned";
        values()[name + " first_ms"] = seconds[0] / 600 * 1000;
        values()[name + " last_ms"] = seconds[5] / 600 * 1000;
        values()[name + " pieces"] = double(simulation.meters().debris.pieces);
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
    for (const bool cleans : {true, false}) {
        benchmark::RegisterBenchmark(cleans ? "P8 cleanup" : "P8 no cleanup", salt_stack, cleans)
            ->UseManualTime()
            ->Iterations(1)
            ->Repetitions(1)
            ->Unit(benchmark::kMillisecond);
    }
}

} // namespace ember::bench
