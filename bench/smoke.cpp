// Smoke: whole steps of volumes from 32^3 to 128^3 cells, what forces add to them, and OpenVDB doing a part
// of the same on its grid: scalars carried (MacCormack) and one Poisson problem solved. The same pair is also
// done by our kernels alone.
#include "bench/figures.h"
#include "bench/one_scalar.h"
#include "bench/turns.h"
#include "bench/vdb_smoke.h"

#include "core/smoke/volume.h"

#include <benchmark/benchmark.h>

#include <list>
#include <string>
#include <vector>

namespace ember::bench {

namespace {

constexpr double step_s = 1.0 / 60;

// A warm, stirred gas with a hand in it, in which no block is empty.
class RunningSmoke {
  public:
    explicit RunningSmoke(int cells) : volume_(smoke_kernels(best_isa())) {
        Smoke smoke;
        smoke.position = {0, 1, 0};
        smoke.size = {2, 2, 2};
        smoke.resolution = cells;
        smoke.curl = 1;
        smoke.fade = 0;
        volume_.set(smoke);
        SmokeFeed feed;
        feed.place.position = {0, 1, 0};
        feed.shape = FeedShape::box;
        feed.half_size = {1, 1, 1};
        feed.way = FeedWay::keep;
        feed.density = 0.1f;
        SmokeFeed warm = feed;
        warm.place.position = {0, 0.4f, 0};
        warm.half_size = {0.4f, 0.2f, 0.4f};
        warm.density = 2;
        warm.heat = 100;
        influences_.feeds = {feed, warm};
        influences_.pushes = {{{0.4f, 0.5f, 0}, {-2, 0, 0.5f}, 0.2f, 0.2f, 20}};
        step();
        influences_.feeds = {warm};
        for (int i = 0; i < 30; ++i) {
            step();
        }
    }

    void feel(const ElementBody& force) {
        Effect effect;
        effect.elements = {{.id = "smoke", .name = "Smoke", .body = Smoke()},
                           {.id = "force", .name = "Force", .body = force, .links = {{"smoke", 1}}}};
        effect_ = prepared(std::make_shared<const Effect>(std::move(effect)), {}, {});
        const StepTime time = {.step_s = step_s};
        influences_.forces = compiled_for(effect_, {}, time, placements_in(effect_, time), 0).forces;
    }

    const SmokeMeter& step() {
        volume_.step(influences_, step_s);
        influences_.time_s += step_s;
        return volume_.meter();
    }

  private:
    SmokeVolume volume_;
    SmokeInfluences influences_;
    PreparedEffect effect_; // that the forces are of
};

// The same pair of computations on both sides.
void pair_against_openvdb(benchmark::State& state) {
    OneScalar ours(64);
    const VdbSmoke theirs(64);
    in_turns(
        state,
        [&] {
            ours.begin_anew();
            return seconds_of([&] { ours.carry_and_solve(); });
        },
        [&] { return seconds_of([&] { theirs.carry_and_solve(1); }); });
    if (!(ours.left() < relative_error)) {
        state.SkipWithError("the pressure was not found");
    }
}

// Whole steps, in which five scalars are carried; `scalars`: that the other side carries.
void step_against_openvdb(benchmark::State& state, int scalars) {
    RunningSmoke ours(64);
    const VdbSmoke theirs(64);
    std::vector<double> pair_ms; // what is carried, and the pressure
    in_turns(
        state,
        [&] {
            return seconds_of([&] {
                const SmokeMeter& now = ours.step();
                pair_ms.push_back(now.carry_ms + now.pressure_ms);
            });
        },
        [&] { return seconds_of([&] { theirs.carry_and_solve(scalars); }); });
    state.counters["pair_ms"] = middle_of(pair_ms);
}

// The same gas with a force on all of it, and without.
void step_with(benchmark::State& state, const ElementBody& force) {
    RunningSmoke with(64), without(64);
    with.feel(force);
    in_turns(
        state, [&] { return seconds_of([&] { with.step(); }); },
        [&] { return seconds_of([&] { without.step(); }); });
}

std::vector<std::pair<std::string, ElementBody>> forces_on_smoke() {
    PathFlow path;
    path.speed = 1;
    return {{"gravity", Gravity()}, {"wind", Wind()},
            {"drag", Drag()},       {"vortex", Vortex()},
            {"pull", Pull()},       {"spring", Spring()},
            {"path flow", path},    {"turbulence of three octaves", Turbulence()}};
}

// Steps of grids of all sizes in turn; of small ones several, since the others leave the caches cold.
void whole_steps(benchmark::State& state) {
    struct Side {
        int cells;
        RunningSmoke smoke;
        std::vector<double> step_ms, feed_ms, carry_ms, force_ms, pressure_ms;
        int rounds = 0;

        explicit Side(int side) : cells(side), smoke(side) {}
    };
    std::list<Side> sides;
    for (const int cells : bench_sides) {
        sides.emplace_back(cells);
    }
    for (auto _ : state) {
        double sum = 0;
        for (Side& side : sides) {
            const int at_a_time = sides.back().cells * sides.back().cells / (side.cells * side.cells);
            for (int i = 0; i < at_a_time; ++i) {
                const SmokeMeter* now = nullptr;
                const double seconds = seconds_of([&] { now = &side.smoke.step(); });
                side.step_ms.push_back(seconds * 1000);
                side.feed_ms.push_back(now->feed_ms);
                side.carry_ms.push_back(now->carry_ms);
                side.force_ms.push_back(now->force_ms);
                side.pressure_ms.push_back(now->pressure_ms);
                side.rounds += now->pressure_rounds;
                sum += seconds;
            }
        }
        state.SetIterationTime(sum);
    }
    for (const Side& side : sides) {
        const std::string of = "smoke " + std::to_string(side.cells) + " ";
        values()[of + "step ms"] = state.counters[of + "ms"] = middle_of(side.step_ms);
        values()[of + "feed ms"] = middle_of(side.feed_ms);
        values()[of + "carry ms"] = middle_of(side.carry_ms);
        values()[of + "force ms"] = middle_of(side.force_ms);
        values()[of + "pressure ms"] = middle_of(side.pressure_ms);
        values()[of + "rounds"] = double(side.rounds) / double(side.step_ms.size());
    }
}

} // namespace

std::vector<std::string> smoke_force_names() {
    std::vector<std::string> names;
    for (const auto& [name, force] : forces_on_smoke()) {
        names.push_back(name);
    }
    return names;
}

void register_smoke() {
    benchmark::RegisterBenchmark("P6 pair", pair_against_openvdb)
        ->Unit(benchmark::kMillisecond)
        ->UseManualTime();
    for (const int scalars : {1, 5}) {
        benchmark::RegisterBenchmark(("P6 step " + std::to_string(scalars)).c_str(), step_against_openvdb,
                                     scalars)
            ->Unit(benchmark::kMillisecond)
            ->UseManualTime();
    }
    for (const auto& [name, force] : forces_on_smoke()) {
        benchmark::RegisterBenchmark(("P17 " + name).c_str(), step_with, force)
            ->Unit(benchmark::kMillisecond)
            ->UseManualTime();
    }
    benchmark::RegisterBenchmark("smoke steps", whole_steps)
        ->Unit(benchmark::kMillisecond)
        ->UseManualTime()
        ->Iterations(25)
        ->Repetitions(1);
}

} // namespace ember::bench
