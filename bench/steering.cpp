// Budgets that steer, on this machine: what the keeper keeps, how well costs are predicted, what fits.
#include "bench/figures.h"
#include "bench/turns.h"

#include "core/assets/assets.h"
#include "core/base/stopwatch.h"
#include "core/budget/fit.h"
#include "core/budget/keeper.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/effect/parameter.h"
#include "desktop/workbench/pair.h"
#include "render/machine_probe.h"
#include "render/moment.h"
#include "render/renderer.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <filesystem>
#include <iomanip>
#include <thread>

namespace ember::bench {

namespace {

const std::filesystem::path demo_folder = EMBER_DEMO_FOLDER;
constexpr int width = 900, height = 560;

DrawMoment drawn() {
    return moment_painter(width, height);
}

struct Demo {
    Effect effect;
    Assets assets;
};
Demo demo(const std::string& name, float times) {
    Demo read{*read_effect(demo_folder / (name + ".ember.json")).effect, {}};
    read.assets = AssetLibrary().load(read.effect, demo_folder).assets;
    for (Element& element : read.effect.elements) {
        if (auto* emitter = std::get_if<Emitter>(&element.body)) {
            emitter->rate *= times;
            emitter->capacity = int(float(emitter->capacity) * times);
        }
    }
    return read;
}

// Ten seconds behind the first two, frame by frame: the share of frames within the limit, and their median.
struct Kept {
    double within = 0, median_ms = 0;
    int changes = 0;
};
Kept run(const Demo& what, bool has_keeper) {
    constexpr int begin = 2 * 60, end = 12 * 60;
    Effect effect = what.effect;
    effect.budget.keeper = has_keeper;
    Simulation simulation;
    simulation.set_effect(std::make_shared<const Effect>(effect), what.assets);
    Renderer renderer;
    Frame frame;
    Picture picture;
    Keeper keeper;
    std::vector<double> frames;
    StepInputs inputs;
    for (int i = 0; i < end;) {
        const bool warms_up = simulation.is_warming_up();
        simulation.step(warms_up ? StepInputs() : inputs);
        if (warms_up) {
            continue;
        }
        simulation.write_frame(frame);
        const float share = share_left(effect.budget, frame.gives, GiveWay::picture);
        renderer.draw(frame, *frame.now, camera_of(frame.now->stage), int(width * share), int(height * share),
                      picture);
        const double frame_ms = simulation.meters().step_ms + renderer.meters().total_ms;
        inputs.gives = keeper.note(effect, std::max(frame_ms / 1000, simulation.step_s()), frame_ms);
        if (i++ >= begin) {
            frames.push_back(frame_ms);
        }
    }
    Kept kept;
    kept.within = double(std::count_if(frames.begin(), frames.end(),
                                       [&](double ms) { return ms <= double(effect.budget.frame_ms); })) /
                  double(frames.size());
    kept.median_ms = middle_of(frames);
    kept.changes = keeper.changes();
    return kept;
}

// Something else that always wants a core, as long as this lives.
class TakenCore {
  public:
    ~TakenCore() {
        is_over_ = true;
        thread_.join();
    }

  private:
    std::atomic<bool> is_over_ = false;
    std::thread thread_{[this] {
        while (!is_over_) {
        }
    }};
};

void write_keeper(std::ostream& out) {
    out << "## The keeper\n\nRates three times as high, and the frame limit at what the demo costs with its "
           "own "
           "rates and a sixth more; ten seconds behind the first two, 900x560. Then the same beside "
           "something "
           "else that takes one core.\n\n"
           "| demo | limit ms | within it, without keeper | with | median ms without | with | changes | goal "
           "| |\n"
           "| --- | --- | --- | --- | --- | --- | --- | --- | --- |\n";
    const auto row = [&](const std::string& name, const Demo& what) {
        const Kept without = run(what, false), with = run(what, true);
        out << "| " << name << " | " << what.effect.budget.frame_ms << " | " << without.within * 100
            << " % | " << with.within * 100 << " % | " << without.median_ms << " | " << with.median_ms
            << " | " << with.changes << " | at least 95 % | " << (with.within >= 0.95 ? "held" : "**missed**")
            << " |\n"
            << std::flush;
    };
    for (const char* name : {main_demo, smoke_demo, breaking_demo}) {
        Demo what = demo(name, 3);
        what.effect.budget.frame_ms = float(run(demo(name, 1), false).median_ms * 7 / 6);
        row(name, what);
        const TakenCore taken;
        row(std::string(name) + ", a core taken", what);
    }
}

void write_prediction(std::ostream& out) {
    out << "\n## Prediction\n\nOn this machine, from two profiles of it: the median frame of each demo, "
           "measured, and "
           "predicted from the one profile for the other; both run in turn. Three seconds, 900x560.\n\n"
           "| demo | measured ms | predicted ms | apart | goal | |\n| --- | --- | --- | --- | --- | --- |\n";
    // Each the quicker of two, measured in the order 1, 2, 2, 1, so that a machine that gets slower or
    // quicker does so for both.
    std::array<MachineProfile, 4> profiles;
    for (MachineProfile& profile : profiles) {
        profile = *measured_machine("here", run_together, [](double) {});
    }
    const auto quicker = [](MachineProfile one, const MachineProfile& other) {
        for (size_t i = 0; i < one.ms.size(); ++i) {
            one.ms[i] = std::min(one.ms[i], other.ms[i]);
        }
        return one;
    };
    const MachineProfile first = quicker(profiles[0], profiles[3]),
                         second = quicker(profiles[1], profiles[2]);
    for (const char* name : demo_names) {
        // In turn, so that what disturbs one disturbs the other.
        const Demo what = demo(name, 1);
        std::vector<Trial> both;
        for (const MachineRatio& ratio : {same_machine, ratio_of(first, second)}) {
            both.emplace_back(std::make_shared<const Effect>(what.effect), what.assets, Span{0, 3}, drawn());
            both.back().set_machine(ratio);
        }
        run_together(both);
        const auto frame_ms = [](const Trial& trial) {
            return trial.figures().median_ms + trial.figures().picture_ms;
        };
        const double measured = frame_ms(both[0]), predicted_ms = frame_ms(both[1]);
        const double apart = std::abs(predicted_ms / measured - 1);
        out << "| " << name << " | " << measured << " | " << predicted_ms << " | " << apart * 100
            << " % | at most 15 % | " << (apart <= 0.15 ? "held" : "**missed**") << " |\n"
            << std::flush;
    }
}

void write_fits(std::ostream& out) {
    out << "\n## Fit\n\nRates three times as high, limits as each demo has them, but for the frame: what it "
           "takes with "
           "its own rates and a fifth more. Three seconds, 640x400.\n\n"
           "| demo | frame ms before | after | limit | runs | machine time s | of the picture stays | goal | "
           "|\n"
           "| --- | --- | --- | --- | --- | --- | --- | --- | --- |\n";
    const auto small = [] { return moment_painter(640, 400); };
    for (const char* name : demo_names) {
        const Span span{0, 3};
        const Demo own = demo(name, 1);
        Trial usual(std::make_shared<const Effect>(own.effect), own.assets, span, small());
        run_together({&usual, 1});
        Demo what = demo(name, 3);
        what.effect.budget.frame_ms = float(usual.figures().frame_ms() * 1.2);
        const Stopwatch watch;
        const auto result =
            fit({std::make_shared<const Effect>(what.effect),
                 [](const Effect& effect) { return AssetLibrary().load(effect, demo_folder).assets; }, span,
                 small, numbers_to_fit(what.effect), 0.02},
                run_together, [](int, int) {});
        const double seconds = watch.elapsed_ms() / 1000;
        const bool is_held = result->holds && seconds < 60 && result->kept >= 0.7;
        out << "| " << name << " | " << result->before.frame_ms() << " | " << result->after.frame_ms()
            << " | " << what.effect.budget.frame_ms << " | " << result->runs << " | " << seconds << " | "
            << result->kept * 100 << " % | within, 60 s, 70 % | "
            << (is_held         ? "held"
                : result->holds ? "**missed**"
                                : "**missed**: does not fit")
            << " |\n"
            << std::flush;
    }
}

// Four sources of different sizes, each with an influence of its own.
Effect four_sources() {
    Effect effect = starter_effect();
    effect.elements.clear();
    const char* const influences[] = {"turbulence", "vortex", "drag", "ball"};
    for (int i = 0; i < 4; ++i) {
        std::string source, influence;
        effect = with_new_element(effect, *find_type("emitter"), source);
        effect = with_new_element(effect, *find_type(influences[i]), influence);
        for (Element& element : effect.elements) {
            auto* emitter = std::get_if<Emitter>(&element.body);
            if (element.id == source && emitter != nullptr) {
                emitter->rate = float(4000 * (i + 1));
                emitter->capacity = 30000;
                emitter->position = {float(i) - 1.5f, 1, 0};
            } else if (element.id == influence) {
                element.links = {{source, 1}};
            }
            if (family_of(element.body) != Family::source && element.id != influence) {
                std::erase_if(element.links, [&](const Link& link) { return link.source == source; });
            }
        }
    }
    return effect;
}

void write_worths(std::ostream& out) {
    constexpr int rounds = 5;
    const auto effect = std::make_shared<const Effect>(four_sources());
    const Span span{1, 3};
    const auto table = worths({effect, {}, span, drawn, rounds}, run_together, [](const WorthTable&) {});
    double sum = 0, spread = 0;
    for (const Worth& row : table->rows) {
        const Element* element = find_element(*effect, row.off.holder);
        if (row.off.what == Switch::What::element && std::holds_alternative<Emitter>(element->body)) {
            sum += row.saved_ms();
            spread += row.spread_ms;
        }
    }
    std::vector<double> all;
    for (int i = 0; i < rounds; ++i) {
        std::vector<Trial> both;
        both.emplace_back(effect, Assets(), span, drawn());
        both.emplace_back(std::make_shared<const Effect>(bare(*effect)), Assets(), span, drawn());
        run_together(both);
        const auto frame_ms = [](const TrialFigures& figures) {
            return figures.median_ms + figures.picture_ms;
        };
        all.push_back(frame_ms(both[0].figures()) - frame_ms(both[1].figures()));
    }
    const double without = middle_of(all);
    const double apart = std::abs(sum / without - 1);
    out << "\n## What each thing costs\n\nFour sources with an influence each, 900x560: milliseconds saved "
           "without each of them, added up, against those saved without all. Medians of five runs.\n\n"
           "| added up ms | spread | without all ms | apart | goal | |\n| --- | --- | --- | --- | --- | --- "
           "|\n| "
        << sum << " | " << spread << " | " << without << " | " << apart * 100 << " % | at most 15 % | "
        << (apart <= 0.15 ? "held" : "**missed**") << " |\n"
        << std::flush;
}

// Two versions in step, as A and B show them, against each by itself: the same steps of both.
void write_pair(std::ostream& out) {
    constexpr int first = 60, end = 240, rounds = 3;
    out << "\n## A and B\n\nThe effect and a version of it with half of its rates in step, 900x560 each, "
           "steps "
        << first << " to " << end
        << ": medians of what a frame of both costs, against the sum of what a frame costs where each runs "
           "by itself. The middle of "
        << rounds
        << " rounds.\n\n| demo | A and B ms | A ms | B ms | of the sum | goal | |\n"
           "| --- | --- | --- | --- | --- | --- | --- |\n";
    const auto alone = [](const Demo& what) {
        Simulation simulation;
        simulation.set_effect(std::make_shared<const Effect>(what.effect), what.assets);
        Renderer renderer;
        Frame frame;
        Picture picture;
        std::vector<double> frames;
        for (int i = 0; i < end;) {
            simulation.step();
            if (simulation.is_warming_up()) {
                continue;
            }
            simulation.write_frame(frame);
            renderer.draw(frame, *frame.now, camera_of(what.effect.stage), width, height, picture);
            if (i++ >= first) {
                frames.push_back(simulation.meters().step_ms + renderer.meters().total_ms);
            }
        }
        return middle_of(frames);
    };
    AssetLibrary library;
    const auto both = [&](const Demo& a, const Demo& b) {
        Pair pair(library);
        pair.setSize({width, height});
        pair.setCamera(camera_of(a.effect.stage));
        int side = 0;
        for (const Demo* what : {&a, &b}) {
            pair.setVersion(side++, std::make_shared<const Effect>(what->effect), demo_folder.c_str());
        }
        pair.setPlaying(true);
        std::vector<double> frames;
        for (int seen = 0; seen < end;) {
            std::this_thread::sleep_for(std::chrono::milliseconds(20));
            for (const PairCost& cost : pair.takeCosts()) {
                if (seen++ >= first && seen <= end) {
                    frames.push_back(double(cost.frame_ms[0] + cost.frame_ms[1]));
                }
            }
        }
        return middle_of(frames);
    };
    for (const char* name : {main_demo, smoke_demo, breaking_demo}) {
        const Demo a = demo(name, 1), b = demo(name, 0.5f);
        std::vector<double> pair_ms, a_ms, b_ms, shares;
        for (int i = 0; i < rounds; ++i) {
            a_ms.push_back(alone(a));
            pair_ms.push_back(both(a, b));
            b_ms.push_back(alone(b));
            shares.push_back(pair_ms.back() / (a_ms.back() + b_ms.back()));
        }
        const double share = middle_of(shares);
        out << "| " << name << " | " << middle_of(pair_ms) << " | " << middle_of(a_ms) << " | "
            << middle_of(b_ms) << " | " << share * 100 << " % | at most 100 %, measured within 5 % | "
            << (share <= 1.05 ? "held" : "**missed**") << " |\n"
            << std::flush;
    }
}

} // namespace

void write_steering(std::ostream& out, const std::string& part) {
    out << "# Performance of budgets that steer\n\n"
        << heading() << "\n\n"
        << std::fixed << std::setprecision(1);
    const std::pair<const char*, void (*)(std::ostream&)> parts[] = {{"keeper", write_keeper},
                                                                     {"prediction", write_prediction},
                                                                     {"fit", write_fits},
                                                                     {"worth", write_worths},
                                                                     {"pair", write_pair}};
    for (const auto& [name, write] : parts) {
        if (part.empty() || part == name) {
            write(out);
        }
    }
}

} // namespace ember::bench
