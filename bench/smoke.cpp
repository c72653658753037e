// Smoke: whole steps of volumes from 32^3 to 128^3 cells, and OpenVDB doing a part of the same on its grid:
// one scalar carried (MacCormack) and one Poisson problem solved to the same tolerance.
#include "bench/figures.h"
#include "bench/turns.h"
#include "bench/vdb_smoke.h"

#include "core/smoke/volume.h"

#include <benchmark/benchmark.h>

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

    const SmokeMeter& step() {
        volume_.step(influences_, step_s);
        influences_.time_s += step_s;
        return volume_.meter();
    }

  private:
    SmokeVolume volume_;
    SmokeInfluences influences_;
};

// `scalars`: that the other side carries; ours are five.
void against_openvdb(benchmark::State& state, int scalars) {
    RunningSmoke ours(64);
    VdbSmoke theirs(64);
    std::vector<double> pair_ms; // what is carried, all five fields, and the pressure
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

void whole_steps(benchmark::State& state, int cells) {
    RunningSmoke smoke(cells);
    SmokeMeter sum;
    int steps = 0;
    for (auto _ : state) {
        const SmokeMeter& now = smoke.step();
        sum.feed_ms += now.feed_ms;
        sum.carry_ms += now.carry_ms;
        sum.force_ms += now.force_ms;
        sum.pressure_ms += now.pressure_ms;
        sum.pressure_rounds += now.pressure_rounds;
        ++steps;
    }
    const std::string of = "smoke " + std::to_string(cells) + " ";
    values()[of + "feed ms"] = sum.feed_ms / steps;
    values()[of + "carry ms"] = sum.carry_ms / steps;
    values()[of + "force ms"] = sum.force_ms / steps;
    values()[of + "pressure ms"] = sum.pressure_ms / steps;
    values()[of + "rounds"] = double(sum.pressure_rounds) / steps;
}

} // namespace

void register_smoke() {
    for (const int scalars : {1, 5}) {
        benchmark::RegisterBenchmark(("P6 " + std::to_string(scalars)).c_str(), against_openvdb, scalars)
            ->Unit(benchmark::kMillisecond)
            ->UseManualTime();
    }
    for (const int cells : bench_sides) {
        benchmark::RegisterBenchmark(("smoke step/" + std::to_string(cells)).c_str(), whole_steps, cells)
            ->Unit(benchmark::kMillisecond)
            ->UseRealTime();
    }
}

} // namespace ember::bench
