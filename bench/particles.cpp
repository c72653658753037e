#include "bench/figures.h"

#include "core/particles/block_kernels.h"
#include "core/particles/program.h"

#include <benchmark/benchmark.h>

#include <vector>

namespace ember::bench {

namespace {

constexpr double step_s = 1.0 / 60;

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

// One thread, one step of all blocks in each iteration; the blocks are set back in between, outside of the
// time.
void step_blocks(benchmark::State& state, Isa isa, const std::vector<ElementBody>& influences) {
    const PreparedEffect ready = prepared(std::make_shared<const Effect>(effect_with(influences)), {}, {});
    const SourceProgram program = compiled(ready, {}, {0.37, step_s, 22}).front();
    const BlockKernels& run = block_kernels(isa);
    std::vector<ParticleBlock> start(bench_blocks);
    static const BirthOrigins origins = {};
    for (size_t i = 0; i < start.size(); ++i) {
        run.give_birth(program.birth, uint32_t(i) * block_size, block_size, origins, start[i]);
    }
    std::vector<ParticleBlock> blocks;
    ForceSums sums;
    PathStarts starts;
    for (auto _ : state) {
        state.PauseTiming();
        blocks = start;
        state.ResumeTiming();
        for (ParticleBlock& block : blocks) {
            run.clear(program.life, block, sums);
            for (const auto& force : program.forces) {
                run.add_force(force.row, block, float(step_s), {}, sums);
            }
            run.advance(program.life, sums, float(step_s), block, starts);
            for (const auto& collider : program.colliders) {
                run.collide(collider.row, starts, float(step_s), block, nullptr);
            }
        }
        benchmark::ClobberMemory();
    }
}

} // namespace

void register_particles() {
    const std::vector<std::pair<std::string, std::vector<ElementBody>>> cases = {
        {"motion", {}},
        {"gravity", {Gravity{}}},
        {"wind", {Wind{}}},
        {"drag", {Drag{.quadratic = 0.1f}}},
        {"turbulence, 1 octave, churn 0", {Turbulence{.octaves = 1, .churn = 0}}},
        {"turbulence, 3 octaves, churn 0", {Turbulence{.octaves = 3, .churn = 0}}},
        {"turbulence, 3 octaves", {Turbulence{.octaves = 3, .churn = 1}}},
        {"ground plane", {Plane{}}},
        {"box", {Box{}}},
        {"P1", {Gravity{}, Wind{}, Drag{}, Turbulence{.octaves = 3, .churn = 1}, Plane{}, Box{}}},
    };
    for (const auto& [name, influences] : cases) {
        for (const Isa isa : {Isa::scalar, Isa::v2, Isa::avx2}) {
            const std::string full = "particles/" + name + "/" + std::string(name_of(isa));
            benchmark::RegisterBenchmark(full.c_str(), step_blocks, isa, influences)
                ->Unit(benchmark::kMillisecond);
        }
    }
}

} // namespace ember::bench
