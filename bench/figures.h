// What the measurements leave behind for docs/performance.md: a value by name, each the median of several
// runs.
#pragma once

#include <map>
#include <ostream>
#include <string>
#include <vector>

namespace ember::bench {

/// Median seconds of one iteration, by the benchmark's name.
using Seconds = std::map<std::string, double>;

/// Other measured values, by name; filled by the benchmarks as they run.
std::map<std::string, double>& values();

/// P1, P2, P9 and nanoseconds per particle for each force, collider and birth shape.
void register_particles();
/// What stands in the tables, in their order.
std::vector<std::string>& influence_names();
std::vector<std::string>& birth_names();
/// P3, and a whole frame of the demo.
void register_frames();
/// P4: our renderer and software OpenGL draw the same sprites; and what each look costs.
void register_sprites();
std::vector<std::string>& look_names();
/// P6, and whole steps of volumes of smoke with the parts of their time.
void register_smoke();
/// P17, one after the other.
std::vector<std::string> smoke_force_names();
/// P7 and P8.
void register_debris();
/// P10 to P13 are times between events, not loops: measured at once, into values().
void measure_window(int& argc, char** argv);
/// P16: a minute of each demo is played and gone back into; and what keyed numbers cost a step.
void measure_past();
/// When, on which machine and how a page was made, as a sentence.
std::string heading();
/// A page of its own, or a part of it: what the keeper keeps ("keeper"), how well costs are predicted
/// ("prediction"), what fits ("fit"), what each thing costs ("worth"), A and B ("pair").
void write_steering(std::ostream& out, const std::string& part);
/// Another: how long bakes take.
void write_bakes(std::ostream& out);
/// P13 alone.
void measure_demos(int& argc, char** argv);

constexpr const char* main_demo = "sluice-spray";
constexpr const char* smoke_demo = "pan-steam";
constexpr const char* breaking_demo = "salt-stack";
constexpr const char* demo_names[] = {main_demo,       "brine-shoal", "wind-pump", "drain-whirl",
                                      "crystal-bloom", "flare-call",  smoke_demo,  breaking_demo};
constexpr int bench_sides[] = {32, 48, 64, 96, 128}; // cells
constexpr int bench_pieces[] = {100, 300, 1000, 3000};
constexpr int bench_blocks = 64;
constexpr int bench_sprites = 100000;
constexpr int bench_counts[] = {10000, 100000, 1000000, 4000000};

} // namespace ember::bench
