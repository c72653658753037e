// What a picture costs, pass by pass.
#include "core/effect/effect_file.h"
#include "core/runtime/simulation.h"
#include "render/renderer.h"

#include <benchmark/benchmark.h>

namespace {

using namespace ember;

// The demo effect after four seconds.
void demo_picture(benchmark::State& state) {
    const auto effect = std::make_shared<const Effect>(*read_effect(EMBER_DEMO).effect);
    Simulation simulation;
    simulation.set_effect(effect);
    for (int i = 0; i < 240; ++i) {
        simulation.step();
    }
    Frame frame;
    simulation.write_frame(frame);
    Renderer renderer;
    Picture picture;
    for (int i = 0; i < 12; ++i) {
        renderer.draw(frame, *effect, camera_of(effect->stage), 900, 560, picture);
    }
    double stage = 0, dots = 0, finishing = 0;
    for (auto _ : state) {
        renderer.draw(frame, *effect, camera_of(effect->stage), 900, 560, picture);
        stage += renderer.meters().stage_ms;
        dots += renderer.meters().dots_ms;
        finishing += renderer.meters().finishing_ms;
    }
    const auto mean = [&](double sum) { return benchmark::Counter(sum, benchmark::Counter::kAvgIterations); };
    state.counters["stage_ms"] = mean(stage);
    state.counters["dots_ms"] = mean(dots);
    state.counters["finishing_ms"] = mean(finishing);
    state.counters["dots"] = double(renderer.meters().dots);
}
BENCHMARK(demo_picture)->Unit(benchmark::kMillisecond);

} // namespace
