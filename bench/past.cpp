// What going back in time costs: P16.
#include "bench/figures.h"

#include "core/assets/assets.h"
#include "core/base/stopwatch.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/effect/track.h"
#include "core/runtime/past.h"
#include "core/runtime/player.h"

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <random>
#include <thread>

namespace ember::bench {

namespace {

const std::filesystem::path demo_folder = EMBER_DEMO_FOLDER;
constexpr int minute = 60 * 60; // steps

void measure_demo(const std::string& name) {
    const auto effect =
        std::make_shared<const Effect>(*read_effect(demo_folder / (name + ".ember.json")).effect);
    Simulation simulation;
    simulation.set_effect(effect, AssetLibrary().load(*effect, demo_folder).assets);
    while (simulation.is_warming_up()) {
        simulation.step();
    }
    Past past;
    double noting_ms = 0, stepping_ms = 0;
    for (int i = 0; i < minute; ++i) {
        Stopwatch watch;
        past.note(simulation, {});
        noting_ms += watch.lap_ms();
        simulation.step();
        stepping_ms += watch.elapsed_ms();
    }
    values()["past share of " + name] = noting_ms / stepping_ms;
    values()["past MB of " + name] = double(past.bytes()) / 1e6;
    std::mt19937 random(16);
    double worst_ms = 0;
    for (int i = 0; i < 30; ++i) {
        const uint64_t step = past.begin() + random() % (past.end() - past.begin());
        const Stopwatch watch;
        past.go_to(simulation, step, [] { return true; });
        worst_ms = std::max(worst_ms, watch.elapsed_ms());
    }
    values()["past worst s of " + name] = worst_ms / 1000;
}

// Of a step of an effect without particles, with and without two hundred keyed numbers.
void measure_tracks() {
    Effect effect = starter_effect();
    std::get<Emitter>(effect.elements[0].body).rate = 0;
    Effect keyed = effect;
    std::string id = effect.elements[1].id;
    size_t tracks = 0;
    for (int i = 0; i < 70; ++i) {
        Element force = effect.elements[1];
        force.id = id + std::to_string(i);
        keyed.elements.push_back(force);
        effect.elements.push_back(force);
        for (const Parameter& parameter : type_of(force.body).parameters) {
            if (parameter.kind == ParameterKind::number && track_parts(parameter) > 0 && tracks < 200) {
                keyed = with_key(keyed, force.id, parameter.key, 0, float(parameter.soft_low));
                keyed = with_key(keyed, force.id, parameter.key, 9, float(parameter.soft_high));
                ++tracks;
            }
        }
    }
    const auto step_ms = [](const Effect& of) {
        Simulation simulation;
        simulation.set_effect(std::make_shared<const Effect>(of));
        std::vector<double> ms;
        for (int i = 0; i < 400; ++i) {
            const Stopwatch watch;
            simulation.step();
            ms.push_back(watch.elapsed_ms());
        }
        std::nth_element(ms.begin(), ms.begin() + 200, ms.end());
        return ms[200];
    };
    values()["tracks"] = double(tracks);
    values()["tracks ms"] = step_ms(keyed) - step_ms(effect);
}

// A force is turned for two seconds while a moment is held: how soon anything of it is seen, and the moment
// as it would be after it was let go of.
void measure_held_edit() {
    using namespace std::chrono_literals;
    const Effect effect = *read_effect(demo_folder / (std::string(main_demo) + ".ember.json")).effect;
    const auto turned = [&](float strength) {
        const Parameter& parameter = *holder_of(*find_element(effect, "gravity")).find("strength");
        return std::make_shared<const Effect>(with_value(effect, "gravity", parameter, strength));
    };
    constexpr uint64_t moment = 6 * 60;
    Player player([] {});
    const auto wait_until = [&](const auto& is_so) {
        const Stopwatch watch;
        for (player.take_frame(); !is_so(player.frame()); player.take_frame()) {
            std::this_thread::sleep_for(1ms);
        }
        return watch.elapsed_ms();
    };
    player.set_effect(turned(1));
    player.step_once();
    wait_until([](const Frame& frame) { return frame.step == 1; });
    player.go_to(6);
    wait_until([](const Frame& frame) { return frame.step == moment; });
    EffectPtr last = turned(1.01f);
    player.set_effect(last);
    values()["held first s"] = wait_until([&](const Frame& frame) { return frame.effect == last; }) / 1000;
    for (int i = 0; i < 120; ++i) {
        last = turned(1 + 0.01f * float(i));
        player.set_effect(last);
        std::this_thread::sleep_for(16ms);
    }
    bool is_made = false;
    const double ms = wait_until([&](const Frame& frame) {
        for (const StepCost& cost : player.take_costs()) {
            is_made = is_made || (cost.step == moment && cost.effect == last);
        }
        return is_made && frame.effect == last && frame.step == moment;
    });
    values()["held s"] = ms / 1000;
}

} // namespace

void measure_past() {
    measure_held_edit();
    for (const char* name : demo_names) {
        measure_demo(name);
    }
    measure_tracks();
}

} // namespace ember::bench
