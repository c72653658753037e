#include "bench/figures.h"

#include "core/assets/assets.h"
#include "core/effect/effect_file.h"
#include "core/runtime/simulation.h"
#include "render/renderer.h"

#include <benchmark/benchmark.h>

#include <filesystem>
#include <string>

namespace ember::bench {

namespace {

const std::filesystem::path demo_folder = EMBER_DEMO_FOLDER;

// A demo in its steady state: step, copy to a frame, picture at 900x560, one after the other.
void whole_frame(benchmark::State& state, const std::string& name) {
    const auto effect =
        std::make_shared<const Effect>(*read_effect(demo_folder / (name + ".ember.json")).effect);
    Simulation simulation;
    simulation.set_effect(effect, AssetLibrary().load(*effect, demo_folder).assets);
    for (int i = 0; i < 360 || simulation.is_warming_up(); ++i) {
        simulation.step();
    }
    Frame frame;
    Renderer renderer;
    Picture picture;
    const auto draw = [&] {
        simulation.write_frame(frame);
        renderer.draw(frame, *effect, camera_of(effect->stage), 900, 560, picture);
    };
    do {
        draw();
    } while (!renderer.is_settled());
    double step = 0, dots = 0, finishing = 0;
    for (auto _ : state) {
        simulation.step();
        draw();
        step += simulation.meters().step_ms;
        dots += renderer.meters().dots_ms;
        finishing += renderer.meters().finishing_ms;
    }
    values()["particles of " + name] = double(simulation.meters().particles);
    if (name != main_demo) {
        return;
    }
    const auto frames = double(state.iterations());
    values()["frame step ms"] = step / frames;
    values()["frame dots ms"] = dots / frames;
    values()["frame finishing ms"] = finishing / frames;
    values()["frame droplets"] = double(simulation.find_pool("spray-jet")->live());
    values()["frame particles"] = double(simulation.meters().particles);
    values()["bytes per particle"] =
        double(simulation.meters().bytes + 3 * frame.bytes()) / double(simulation.meters().particles);
}

} // namespace

void register_frames() {
    for (const char* name : demo_names) {
        benchmark::RegisterBenchmark(("whole frame of " + std::string(name)).c_str(), whole_frame, name)
            ->Unit(benchmark::kMillisecond)
            ->UseRealTime();
    }
}

} // namespace ember::bench
