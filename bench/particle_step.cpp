// P1, and what each force and collider costs: one block of particles, one thread, each instruction set.
#include "core/particles/block_kernels.h"
#include "core/particles/program.h"

#include <benchmark/benchmark.h>

#include <cstring>
#include <memory>

namespace {

using namespace ember;

// A cloud about 4 m across, moving slowly, that fills a block.
std::unique_ptr<ParticleBlock> cloud() {
    Effect effect = starter_effect();
    Emitter& emitter = std::get<Emitter>(effect.elements.front().body);
    emitter.size = {4, 4, 4};
    emitter.position = {0, 2.5f, 0};
    emitter.lifetime = {1000, 1000};
    auto block = std::make_unique<ParticleBlock>();
    alignas(64) float waits[block_size] = {};
    block_kernels(Isa::scalar).give_birth(compiled(effect, 0, 0).front().birth, 0, block_size, waits, *block);
    return block;
}

SourceProgram program_with(std::vector<ElementBody> influences) {
    Effect effect = starter_effect();
    effect.elements.resize(1);
    for (ElementBody& body : influences) {
        effect.elements.push_back({.id = "i" + std::to_string(effect.elements.size()),
                                   .body = std::move(body),
                                   .links = {{"emitter", 1}}});
    }
    return compiled(effect, 0.37, 22).front();
}

void run_program(benchmark::State& state, Isa isa, const std::vector<ElementBody>& influences) {
    const SourceProgram program = program_with(influences);
    const BlockKernels& run = block_kernels(isa);
    const auto start = cloud();
    ParticleBlock block = *start;
    ForceSums sums;
    PathStarts starts;
    for (auto _ : state) {
        run.clear(block, sums);
        for (const auto& force : program.forces) {
            run.add_force(force.row, block, sums);
        }
        run.advance(sums, 1.0f / 60, block, starts);
        for (const auto& collider : program.colliders) {
            run.collide(collider.row, starts, 1.0f / 60, block);
        }
        benchmark::ClobberMemory();
        state.PauseTiming();
        std::memcpy(static_cast<void*>(&block), start.get(), sizeof block);
        state.ResumeTiming();
    }
    state.counters["ns/particle"] =
        benchmark::Counter(double(state.iterations()) * block_size * 1e-9,
                           benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}

const std::vector<std::pair<std::string, std::vector<ElementBody>>>& cases() {
    static const std::vector<std::pair<std::string, std::vector<ElementBody>>> list = {
        {"motion only", {}},
        {"gravity", {Gravity{}}},
        {"wind", {Wind{}}},
        {"drag", {Drag{.quadratic = 0.1f}}},
        {"turbulence, 1 octave", {Turbulence{.octaves = 1, .churn = 0}}},
        {"turbulence, 3 octaves", {Turbulence{.octaves = 3, .churn = 0}}},
        {"turbulence, 3 octaves, churn", {Turbulence{.octaves = 3, .churn = 1}}},
        {"ground plane", {Plane{}}},
        {"box", {Box{}}},
        {"P1 step", {Gravity{}, Wind{}, Drag{}, Turbulence{.octaves = 3, .churn = 1}, Plane{}, Box{}}},
    };
    return list;
}

[[maybe_unused]] const bool registered = [] {
    for (const auto& [name, influences] : cases()) {
        for (const Isa isa : {Isa::scalar, Isa::v2, Isa::avx2}) {
            benchmark::RegisterBenchmark(("particles/" + name + "/" + std::string(name_of(isa))).c_str(),
                                         run_program, isa, influences);
        }
    }
    return true;
}();

} // namespace
