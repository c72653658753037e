// Measures the goals and writes docs/performance.md:   ember-bench docs/performance.md
#include "bench/figures.h"

#include "core/base/file.h"

#include <benchmark/benchmark.h>

#include <chrono>
#include <ctime>
#include <fstream>
#include <functional>
#include <iomanip>
#include <iostream>
#include <sstream>
#include <thread>

namespace ember::bench {

std::map<std::string, double>& values() {
    static std::map<std::string, double> map;
    return map;
}

namespace {

// Shows what the console reporter shows and keeps the medians.
class Collector : public benchmark::ConsoleReporter {
  public:
    Collector() : ConsoleReporter(OO_None) {}

    void ReportRuns(const std::vector<Run>& runs) override {
        ConsoleReporter::ReportRuns(runs);
        for (const Run& run : runs) {
            if (run.run_type == Run::RT_Aggregate && run.aggregate_name == "median") {
                medians_[run.run_name.function_name] = run.GetAdjustedRealTime() / 1000; // from ms
                labels_[run.run_name.function_name] = run.report_label;
                for (const auto& [name, counter] : run.counters) {
                    medians_[run.run_name.function_name + " " + name] = counter.value;
                }
            }
        }
    }
    const Seconds& medians() const { return medians_; }
    const std::map<std::string, std::string>& labels() const { return labels_; }

  private:
    Seconds medians_;
    std::map<std::string, std::string> labels_;
};

std::string processor() {
    std::ifstream info("/proc/cpuinfo");
    for (std::string line; std::getline(info, line);) {
        if (line.starts_with("model name")) {
            return line.substr(line.find(':') + 2);
        }
    }
    return "unknown processor";
}

std::string today() {
    const std::time_t now = std::chrono::system_clock::to_time_t(std::chrono::system_clock::now());
    std::ostringstream text;
    text << std::put_time(std::gmtime(&now), "%Y-%m-%d");
    return text.str();
}

const char* verdict(bool held) {
    return held ? "held" : "**missed**";
}

using Median = std::function<double(const std::string&)>; // seconds

void write_influences(std::ostream& out, const Median& of) {
    const double particles = bench_blocks * 512.0;
    out << "## What each influence costs\n\nNanoseconds per particle and step on one thread. Motion is in "
           "every row but its own taken off. Colliders meet a cloud of particles of which some touch "
           "them.\n\n"
        << "| influence | AVX2+FMA | x86-64-v2 | scalar |\n| --- | --- | --- | --- |\n";
    for (const std::string& name : influence_names()) {
        out << "| " << name;
        for (const char* isa : {"AVX2+FMA", "x86-64-v2", "scalar"}) {
            const double motion = name == "motion" ? 0 : of(std::string("particles/motion/") + isa);
            out << " | " << std::max(0.0, of("particles/" + name + "/" + isa) - motion) / particles * 1e9;
        }
        out << " |\n";
    }
    out << "\n## What each birth costs\n\nNanoseconds per birth on one thread, AVX2+FMA.\n\n| shape | "
           "ns |\n| --- | --- |\n";
    for (const std::string& name : birth_names()) {
        out << "| " << name << " | " << of("births/" + name) / particles * 1e9 << " |\n";
    }
}

void write_looks(std::ostream& out, const Median& of) {
    out << "\n## What each look costs\n\nMilliseconds for 20,000 particles of 12 px spread over a picture of "
           "1280x800, projected, binned and drawn, on two threads.\n\n| look | ms |\n| --- | --- |\n";
    for (const std::string& name : look_names()) {
        out << "| " << name << " | " << of("look/" + name) * 1000 << " |\n";
    }
}

void write_crowds(std::ostream& out, const Median& of) {
    out << "\n## How cost grows\n\nWhole steps on two threads: turbulence of 1 octave, vortex, drag and "
           "ground, with births, deaths and compaction, every particle living for a second.\n\n"
        << "| particles alive | ms | ns per particle |\n| --- | --- | --- |\n";
    for (const int count : bench_counts) {
        const double alive = of("P9 alive of " + std::to_string(count));
        const double ns = of("P9 ns of " + std::to_string(count));
        out << "| " << int(alive) << " | " << ns * alive / 1e6 << " | " << ns << " |\n";
    }
    out << "\nParticles that see one another, two threads, each with some sixty others in view (flock) or "
           "touching "
           "a few (contacts).\n\n| what | ms | ns per particle |\n| --- | --- | --- |\n";
    for (const int count : {5000, 20000, 80000}) {
        const double s = of("flock/" + std::to_string(count));
        out << "| flock of " << count << " | " << s * 1000 << " | " << s / count * 1e9 << " |\n";
    }
    out << "| contacts of 20000 | " << of("contacts") * 1000 << " | " << of("contacts") / 20000 * 1e9
        << " |\n";
    const double pieces_ms = of("pieces against mesh ours_ms");
    out << "\nPieces of a breakable as what particles hit: 20000 particles among 150 pieces that fly apart, "
           "two "
           "threads, against one mesh collider: at most 1.5 times as long.\n\n"
           "| what | ms | ns per particle | times a mesh |\n| --- | --- | --- | --- |\n| pieces | "
        << pieces_ms << " | " << pieces_ms / 20000 * 1e6 << " | " << 1 / of("pieces against mesh times")
        << " |\n";
}

// Nanoseconds of a step for each of a cube's cells.
double ns_a_cell(int side) {
    return values().at("smoke " + std::to_string(side) + " step ms") * 1e6 / (double(side) * side * side);
}

void write_smoke(std::ostream& out) {
    out << "\n## What smoke costs\n\nWhole steps on two threads of a gas in which no block is empty, in ms: "
           "all "
           "fields carried twice (there and back), forces, pressure down to 0.0008 of the mean difference of "
           "velocity within a cell, and feeding.\n\n"
           "| cells | step | ns a cell | carried | forces | pressure | rounds | fed |\n"
           "| --- | --- | --- | --- | --- | --- | --- | --- |\n";
    for (const int side : bench_sides) {
        const auto part = [&](const char* what) {
            return values().at("smoke " + std::to_string(side) + " " + what);
        };
        out << "| " << side << "^3 | " << part("step ms") << " | " << ns_a_cell(side) << " | "
            << part("carry ms") << " | " << part("force ms") << " | " << part("pressure ms") << " | "
            << part("rounds") << " | " << part("feed ms") << " |\n";
    }
}

// P7 and P8.
void write_breaking_goals(std::ostream& out, const std::map<std::string, double>& v) {
    for (const int count : bench_pieces) {
        const std::string name = "pieces " + std::to_string(count);
        const double raw = v.at(name + " raw");
        out << "| " << (count == bench_pieces[0] ? "P7" : "") << " | " << int(v.at(name + " count"))
            << " pieces fall into a heap for 1.5 s, none asleep, nothing cleaned up: our step ("
            << v.at(name + " ms") << " ms) against Bullet with the hulls of the same pieces | "
            << std::setprecision(2) << raw << std::setprecision(1) << " times its time | at most 1.1 | "
            << verdict(raw <= 1.1) << " |\n";
    }
    const double cleaned = v.at("salt-stack last_ms"), uncleaned = v.at("salt-stack uncleaned last_ms");
    const double grown = cleaned / v.at("salt-stack first_ms");
    out << "| P8 | salt-stack, step and picture in the last 10 s of a minute, with cleanup (" << cleaned
        << " ms, " << int(v.at("salt-stack pieces")) << " pieces) against without (" << uncleaned << " ms, "
        << int(v.at("salt-stack uncleaned pieces")) << " pieces) | " << uncleaned / cleaned
        << " times as fast | at least 5 | " << verdict(uncleaned / cleaned >= 5)
        << " |\n| | with cleanup, the last 10 s against the first | " << std::setprecision(2) << grown
        << std::setprecision(1) << " times as long | at most 1.1 | " << verdict(grown <= 1.1) << " |\n";
}

void write_page(std::ostream& out, const Collector& collector) {
    const Seconds& s = collector.medians();
    const auto of = [&](const std::string& name) { return s.contains(name) ? s.at(name) : 0.0; };
    const auto& v = values();
    const double p1 = of("P1 times"), p4 = of("P4 times");
    const auto frame_ms_of = [&](const std::string& name) { return of("whole frame of " + name) * 1000; };
    const double frame_ms = frame_ms_of(main_demo);
    out << std::fixed << std::setprecision(1);
    out << "# Performance\n\n"
        << heading() << " Loops are medians of five repetitions taken in one "
        << "run. Machines are shared and noisy, so the two sides of a ratio are timed in turn, and its "
           "median is "
           "taken.\n\n"
        << "| id | what | measured | goal | |\n| --- | --- | --- | --- | --- |\n";
    out << "| P1 | particle step (gravity, wind, drag, turbulence of 3 octaves, ground, box), one thread: "
           "AVX2+FMA against the scalar "
        << "build of the same kernels | " << p1 << " times as fast | at least 7 | " << verdict(p1 >= 7)
        << " |\n";
    const double p2 = of("P2 ours_ms"), p2_copies = 1 / of("P2 times");
    out << "| P2 | " << int(v.at("alive against copy"))
        << " particles: turbulence (1 octave), vortex, drag, ground, "
           "births, deaths, compaction, 2 threads, against copying the same bytes once ("
        << of("P2 other_ms") << " ms) | " << p2 << " ms, " << p2_copies
        << " times | at most 3 times or 16 ms | " << verdict(p2 <= 16 || p2_copies <= 3) << " |\n";
    out << "| P3 | bytes per live particle: state and the three frames handed to the picture | "
        << v.at("bytes per particle") << " | at most 96 | " << verdict(v.at("bytes per particle") <= 96)
        << " |\n";
    out << "| P4 | " << int(v.at("sprites drawn of " + std::to_string(bench_sprites)))
        << " soft sprites of 8 px at 1280x800: our renderer (" << of("P4 ours_ms")
        << " ms, projected, binned and added to the light) against OpenGL on " << collector.labels().at("P4")
        << " (" << of("P4 other_ms") << " ms, the same, instanced quads) | " << p4
        << " times as fast | at least 12 | " << verdict(p4 >= 12) << " |\n";
    const double streaks = of("P4 streaks times");
    out << "| | " << int(v.at("sprites drawn of " + std::to_string(bench_sprites / 2)))
        << " streaks of 6 by 30 px, the same way (" << of("P4 streaks ours_ms") << " ms against "
        << of("P4 streaks other_ms") << " ms) | " << streaks << " times as fast | at least 6 | "
        << verdict(streaks >= 6) << " |\n";
    const auto against_opengl = [&](const std::string& name, const std::string& what, double goal) {
        const double times = of("P4 " + name + " times");
        out << "| | " << what << ", the same way (" << of("P4 " + name + " ours_ms") << " ms against "
            << of("P4 " + name + " other_ms") << " ms) | " << times << " times as fast | "
            << (goal > 0 ? "at least " + std::to_string(int(goal)) : std::string("no goal")) << " | "
            << (goal > 0 ? verdict(times >= goal) : "told") << " |\n";
    };
    against_opengl("cards", std::to_string(bench_sprites / 2) + " textured cards of 12 px", 6);
    against_opengl("trails", std::to_string(bench_sprites / 2) + " trails of six pieces", 0);
    against_opengl("bodies", std::to_string(bench_sprites / 20) + " lit bodies of 20 triangles", 2);
    out << "| P5 | sluice-spray, " << int(v.at("frame droplets")) << " droplets of "
        << int(v.at("frame particles")) << " particles, step and picture at 900x560 | " << frame_ms << " ms, "
        << 1000 / frame_ms << " a second | at least 60 a second | " << verdict(frame_ms <= 1000.0 / 60)
        << " |\n";
    for (const std::string name : demo_names) {
        if (name != main_demo) {
            const double ms = frame_ms_of(name);
            const int goal = name == smoke_demo || name == breaking_demo ? 30 : 60;
            out << "| | " << name << ", " << int(v.at("particles of " + name)) << " particles, the same | "
                << ms << " ms, " << 1000 / ms << " a second | at least " << goal << " a second | "
                << verdict(ms <= 1000.0 / goal) << " |\n";
        }
    }
    write_breaking_goals(out, v);
    const auto against_vdb = [&](const char* what, const std::string& ours, const std::string& theirs,
                                 double ours_ms, double theirs_ms, int goal) {
        out << "| " << what << " | smoke, 64x64x64 cells: " << ours << " (" << ours_ms
            << " ms), against OpenVDB " << theirs << " (" << theirs_ms << " ms) | " << theirs_ms / ours_ms
            << " times as fast | ";
        if (goal > 0) {
            out << "at least " << goal << " | " << verdict(theirs_ms / ours_ms >= goal) << " |\n";
        } else {
            out << "no goal | told |\n";
        }
    };
    const std::string vdb_pair = "carrying one scalar and solving one Poisson problem on the same grid";
    against_vdb("P6", "one scalar carried, and the pressure found from nothing",
                vdb_pair + ", to the same residual", of("P6 pair ours_ms"), of("P6 pair other_ms"), 60);
    against_vdb("", "the whole step", vdb_pair, of("P6 step 1 ours_ms"), of("P6 step 1 other_ms"), 30);
    against_vdb("", "of the step, the five fields carried, and the pressure", vdb_pair,
                of("P6 step 1 pair_ms"), of("P6 step 1 other_ms"), 0);
    against_vdb("", "the same", "carrying five scalars and solving that problem", of("P6 step 5 pair_ms"),
                of("P6 step 5 other_ms"), 0);
    double least = 1e9, most = 0;
    for (const int count : bench_counts) {
        const double ns = of("P9 ns of " + std::to_string(count));
        least = std::min(least, ns);
        most = std::max(most, ns);
    }
    out << "| P9 | time per particle from 10 k to 4 M particles | " << least << " to " << most << " ns, "
        << (most / least - 1) * 100 << " % apart | linear within 20 % | " << verdict(most / least <= 1.2)
        << " |\n";
    double least_cell = 1e9, most_cell = 0;
    for (const int side : bench_sides) {
        least_cell = std::min(least_cell, ns_a_cell(side));
        most_cell = std::max(most_cell, ns_a_cell(side));
    }
    out << "| | time per cell of smoke from 32^3 to 128^3 cells | " << least_cell << " to " << most_cell
        << " ns, " << (most_cell / least_cell - 1) * 100 << " % apart | linear within 20 % | "
        << verdict(most_cell / least_cell <= 1.2) << " |\n";
    const auto of_piece = [&](int count) {
        const std::string name = "pieces " + std::to_string(count);
        return v.at(name + " ms") / v.at(name + " count") * 1000;
    };
    const auto [least_piece, most_piece] =
        std::minmax({of_piece(bench_pieces[0]), of_piece(bench_pieces[1]), of_piece(bench_pieces[2]),
                     of_piece(bench_pieces[3])});
    out << "| | time per piece that falls into a heap, from 100 to 3000 pieces | " << least_piece << " to "
        << most_piece << " \u00b5s, " << (most_piece / least_piece - 1) * 100
        << " % apart | told | no step in the curve |\n";
    out << "| | flock of 20000, step | " << of("flock/20000") * 1000 << " ms | 60 a second | "
        << verdict(of("flock/20000") <= 1.0 / 60) << " |\n";
    out << "| P10 | from a slider's move to the changed picture, " << int(v.at("latency particles"))
        << " particles alive | " << v.at("latency median") << " screen frames (median), "
        << v.at("latency 95") << " (95 of 100) | at most 2 | " << verdict(v.at("latency median") <= 2)
        << " |\n";
    out << "| P11 | start of the program to the first picture of the demo | " << std::setprecision(2)
        << v.at("start") << " s | under 1.5 s | " << verdict(v.at("start") < 1.5) << " |\n"
        << std::setprecision(1);
    const double panels = v.at("panels share") * 100;
    out << "| P12 | processor time of a picture of sluice-spray in the window with board, strip, gauges and "
           "details drawn, over that with none drawn ("
        << v.at("panels frame ms") << " ms) | " << panels << " % more | under 2 % | " << verdict(panels < 2)
        << " |\n";
    for (const std::string name : demo_names) {
        const double median = v.at("window median of " + name), late = v.at("window 95 of " + name);
        out << "| " << (name == main_demo ? "P13" : "") << " | " << name
            << ", step and picture in the window at 1280x800, of its own limit | " << median * 100
            << " % (median), " << late * 100 << " % (95 of 100), " << v.at("window over of " + name) * 100
            << " % of frames over | median at most 85 % | " << verdict(median <= 0.85) << " |\n";
    }
    for (const std::string name : demo_names) {
        const double worst = v.at("past worst s of " + name), kept = v.at("past MB of " + name);
        const double share = v.at("past share of " + name) * 100;
        const double goal = name == smoke_demo || name == breaking_demo ? 2 : 1;
        out << "| " << (name == main_demo ? "P16" : "") << " | " << name
            << ": the farthest of 30 moments of a played minute, state alone | " << std::setprecision(2)
            << worst << " s; " << std::setprecision(1) << kept << " MB kept, keeping them " << share
            << " % of the steps | at most " << int(goal) << " s, 256 MB, 3 % | "
            << verdict(worst <= goal && kept <= 256 && share <= 3) << " |\n";
    }
    for (const std::string& name : smoke_force_names()) {
        const double share = (1 - of("P17 " + name + " times")) * 100;
        const double goal = name.starts_with("turbulence") ? 10 : 8;
        out << "| " << (name == smoke_force_names().front() ? "P17" : "") << " | " << name
            << " on smoke of 64x64x64 cells, all of it full, of the step (" << of("P17 " + name + " ours_ms")
            << " ms) | " << share << " % | under " << int(goal) << " % | " << verdict(share < goal) << " |\n";
    }
    out << "| | " << int(v.at("tracks")) << " keyed numbers, of a step | " << std::setprecision(3)
        << v.at("tracks ms") << std::setprecision(1) << " ms | at most 0.1 ms | "
        << verdict(v.at("tracks ms") <= 0.1) << " |\n";
    out << "| | " << main_demo
        << ", held at 6 s while a force is turned for two seconds: something of it, and the "
        << "moment as it would be after letting go | " << std::setprecision(2) << v.at("held first s")
        << " s, " << v.at("held s") << std::setprecision(1) << " s | at once, 0.7 s | "
        << verdict(v.at("held s") <= 0.7) << " |\n";
    const double more = v.at("open 60") - v.at("open empty");
    out << "| | opening an effect of 60 elements, to the picture and all panels, over an empty one ("
        << std::setprecision(3) << v.at("open empty") << " s) | " << more << " s more | under 0.5 s | "
        << verdict(more < 0.5) << " |\n\n"
        << std::setprecision(1);

    out << "The frame of P5 is made of: step " << v.at("frame step ms") << " ms, dots "
        << v.at("frame dots ms") << " ms, bloom and tone curve " << v.at("frame finishing ms")
        << " ms (means of the last repetition).\n\n";
    write_influences(out, of);
    write_looks(out, of);
    write_crowds(out, of);
    write_smoke(out);
}

} // namespace

std::string heading() {
    return "Written by `./run-bench` on " + today() + ", " + processor() + ", " +
           std::to_string(std::thread::hardware_concurrency()) + " cores, no GPU, release build.";
}

} // namespace ember::bench

int main(int argc, char** argv) {
    using namespace ember::bench;
    if (argc < 2 || argv[1][0] == '-') {
        std::cerr << "usage: ember-bench FILE.md                   all but budgets and bakes, into a page\n"
                     "       ember-bench FILE.md OPTIONS...        what these options of Google Benchmark "
                     "choose, on the "
                     "screen\n"
                     "       ember-bench demos [NAME...]   only how demos hold their limits in the window\n"
                     "       ember-bench window            only P10 to P13\n"
                     "       ember-bench past              only P16\n"
                     "       ember-bench budgets FILE.md [PART]   only what steers budgets, or of that: "
                     "keeper, prediction, fit, worth, pair\n"
                     "       ember-bench bakes FILE.md     only bakes\n";
        return 1;
    }
    const std::string page = argv[1];
    if (page == "demos" || page == "window" || page == "past") {
        page == "demos"    ? measure_demos(argc, argv)
        : page == "window" ? measure_window(argc, argv)
                           : measure_past();
        for (const auto& [name, value] : values()) {
            std::cout << name << ": " << value << "\n";
        }
        return 0;
    }
    if (page == "budgets" || page == "bakes") {
        const auto problem = ember::write_file(argc > 2 ? argv[2] : "/dev/stdout", [&](std::ostream& out) {
            page == "budgets" ? write_steering(out, argc > 3 ? argv[3] : "") : write_bakes(out);
        });
        if (problem) {
            std::cerr << problem->text() << "\n";
        }
        return problem ? 2 : 0;
    }
    std::string repetitions = "--benchmark_repetitions=5";
    std::string aggregates = "--benchmark_report_aggregates_only=true";
    std::string interleaving = "--benchmark_enable_random_interleaving=true";
    std::string time = "--benchmark_min_time=0.3";
    std::vector<char*> options = {argv[0], repetitions.data(), aggregates.data(), interleaving.data(),
                                  time.data()};
    options.insert(options.end(), argv + 2, argv + argc);
    int count = int(options.size());

    if (argc == 2) {
        measure_window(argc, argv);
        measure_past();
    }
    register_particles();
    register_frames();
    register_sprites();
    register_smoke();
    register_debris();
    benchmark::Initialize(&count, options.data());
    Collector collector;
    benchmark::RunSpecifiedBenchmarks(&collector);
    if (argc > 2) {
        return 0; // what was chosen is told on the screen; a page has all
    }
    const auto problem =
        ember::write_file(page, [&](std::ostream& stream) { write_page(stream, collector); });
    if (problem) {
        std::cerr << problem->text() << "\n";
        return 2;
    }
    return 0;
}
