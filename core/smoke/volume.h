// A gas in a bound, from one step to the next.
//
//     SmokeVolume volume(smoke_kernels(best_isa()));
//     volume.set(smoke);
//     volume.step(influences, 1.0 / 60);
//
// The grid is staggered: what flows lies on the faces of cells, what is carried in their middles. In each
// step the fields of all cells are carried along (MacCormack with a limiter, see kernels/smoke.kern),
// sources, pushes and forces act on them, the faces take over what the cells have won, and the pressure takes
// out what would pile up. Before velocities are carried the pressure acts on them once more: half of it at
// the start of the way and half at its end, so that eddies do not lose energy to it (J. Zehnder, R. Narain,
// B. Thomaszewski, "An Advection-Reflection Solver for Detail-Preserving Fluid Simulation", 2018).
#pragma once

#include "core/assets/smoke_clip.h"
#include "core/base/axes.h"
#include "core/scene/program.h"
#include "core/scene/smoke_meter.h"
#include "core/smoke/pressure.h"
#include "core/smoke/smoke_kernels.h"

#include <cstdint>
#include <optional>
#include <vector>

namespace ember {

/// A particle that feeds smoke.
struct FeedingParticle {
    Vec3 place, velocity;        // world, m/s
    float density = 1, heat = 1; // factors on what its feed gives
};

/// Puts smoke into cells whose middles are within a shape.
struct SmokeFeed {
    Placement place;
    FeedShape shape = FeedShape::ball;
    Vec3 half_size;                         // m
    std::vector<FeedingParticle> particles; // of FeedShape::particles
    FeedWay way = FeedWay::add;
    float density = 0;  // per second, or the level that is kept
    float heat = 0;     // K, the same
    Vec3 velocity;      // m/s, world; of particles besides their own
    bool moves = false; // the gas takes on that velocity
    float ragged = 0;   // 0..1
    float soft = 0;     // 0..1, share of the least half size over which it thins out inwards
    uint32_t seed = 0;
};

/// Moves the gas in a ball.
struct SmokePush {
    Vec3 position, velocity; // world
    float radius = 0, fade_distance = 0, grip = 0;
};

struct SmokeInfluences {
    std::vector<SmokeFeed> feeds;
    std::vector<SmokePush> pushes;
    std::vector<Influence<ForceRow>> forces;
    std::vector<ColliderRow> obstacles; // as they are at the end of the step
    std::vector<ColliderRow> porous;    // obstacles that only a share of is solid
    uint32_t seed = 0;
    double time_s = 0;
    bool carries = false; // something is carried along by the air, gas or not

    /// Whether one of the forces acts on clear air.
    bool blow_air() const;
};

class SmokeVolume {
  public:
    explicit SmokeVolume(const SmokeKernels& kernels) : kernels_(&kernels), pressure_(*kernels.pressure) {}

    /// All that the next steps depend on; what follows from it is left out.
    struct Kept {
        Smoke smoke;
        bool is_set = false, is_still = true;
        SmokeSize size;
        std::vector<float> density, heat; // of the cells of a plane
        FloatCells faces[3];
        std::vector<uint16_t> solid;
        std::vector<ColliderRow> obstacles; // what they point to is not read
        std::vector<char> active, moved;
        float restored = 1;
        double thin = 0;
        PressureSolver::Kept pressure;
        SmokeMeter meter;

        size_t bytes() const;
    };
    Kept kept() const;
    /// Goes on as what was kept did, to the byte.
    void restore(const Kept& kept);

    /// Parameters for the next steps. Another bound or other sides begin anew, without smoke; so does what
    /// begins or ends to play a clip. Cells of another size take over what there is.
    /// True if it begins anew.
    bool set(const Smoke& smoke);
    /// False if there is nothing to be moved: no gas, nothing that feeds it, and no use of the air alone.
    /// Then all stands still, and it has cost nothing.
    bool step(const SmokeInfluences& influences, double step_s);

    /// In place of steps: what a clip has at a frame, between two of them evenly mixed, with the clip's
    /// middle at the volume's position. The air stands still. Without a frame there is nothing.
    void show(const SmokeClip& clip, std::optional<double> frame);

    const SmokeSize& size() const { return size_; }
    /// Velocity in a cell's middle, m/s.
    Vec3 flow(int x, int y, int z) const {
        const size_t at = size_.at(x, y, z);
        return {flow_[0][at], flow_[1][at], flow_[2][at]};
    }
    /// What flows out of a cell through its faces, m/s: next to nothing but in solid ones.
    float outflow(int x, int y, int z) const {
        const size_t at = size_.at(x, y, z);
        return faces_[0][at + 1] - faces_[0][at] + faces_[1][at + size_.stride()] - faces_[1][at] +
               faces_[2][at + size_.slice()] - faces_[2][at];
    }
    /// All cells, see SmokeSize::packed(): their densities and heat.
    const SmokeCells& cells() const { return cells_; }
    /// Whether a block holds smoke or heat; x fastest, then y.
    const std::vector<char>& active_blocks() const { return active_; }
    const PressureSolver& pressure() const { return pressure_; }
    /// Velocities of the faces, m/s.
    const FloatCells& faces(int axis) const { return faces_[axis]; }
    /// Whether a cell is within an obstacle.
    bool is_solid(int x, int y, int z) const { return solid_[size_.at(x, y, z)] != 0; }
    /// Of the last step.
    const SmokeMeter& meter() const { return meter_; }
    /// What each of the forces took in the last step, within what its meter says.
    const std::vector<double>& force_ms() const { return force_ms_; }
    /// The sum of the densities of all cells.
    double mass() const;

    /// Room for tests: velocities of the faces that the next step begins with.
    void set_faces(const FloatCells (&faces)[3]);

  private:
    class Blown;
    void clear();
    void change_cells(const SmokeSize& size);
    void begin_meter();
    bool has_nothing_to_do(const SmokeInfluences& influences) const;
    void open_faces(const CellBox& box);
    void mark_obstacles(const std::vector<ColliderRow>& obstacles);
    std::vector<CellBox> open_pockets();
    std::vector<CellBox> close_pockets();
    void mark_active(const SmokeInfluences& influences);
    void fill_rim(SmokeCells& cells, bool rests) const;
    void spread_into_solids();
    void reflect();
    double leaving(double step_s) const;
    template <class Visit>
    void each_still(Visit visit) const;
    void copy_still(const SmokeCells& from, SmokeCells& to, bool if_moved) const;
    template <class Visit>
    void each_hemmed_in(int y, int z, Visit visit) const;
    void carry(double step_s);
    void feed(const SmokeInfluences& influences, double step_s);
    void feed_with(const SmokeFeed& feed, double step_s, double time_s);
    void push_with(const SmokePush& push, double step_s);
    void slow_within(const ColliderRow& porous, double step_s);
    void add_forces(const SmokeInfluences& influences);
    template <class Begin>
    void add_swirls(const SmokeSize& size, float amount, FloatCells (&velocity)[3], FloatCells (&swirl)[3],
                    FloatCells& strength, FloatCells (&out)[3], const Begin& begin);
    void find_broad_push(const SmokeInfluences& influences);
    void find_broad(int z);
    size_t wide_row(int y, int z) const;
    void spread_broad(int y, int z);
    void act(const SmokeInfluences& influences, double step_s);
    void move_faces();
    void hold_solids();
    SliceStage pressing();
    SliceStage reading_flow();

    SmokePlanes planes(FloatCells (&of)[3]) { return {of[0].data(), of[1].data(), of[2].data()}; }
    /// The sum of what `visit(run)` returns, the same on any number of threads.
    template <class Visit>
    double sum_runs(Visit visit) const;
    template <class Change>
    void change_within(const Vec3& low, const Vec3& high, Change change);

    const SmokeKernels* kernels_;
    Smoke smoke_;
    bool is_set_ = false;
    bool is_still_ = true;   // no gas, and no motion
    SmokeSize size_, broad_; // broad: of cells four times as wide, for what is large
    SmokeCells cells_, carried_, next_;
    FloatCells faces_[3], flow_[3], middles_[3], won_[3], push_[3], strength_, open_[3];
    FloatCells wide_push_[3]; // of the broad grid, as long as rows of the fine one
    FloatCells broad_middles_[3], broad_swirl_[3], broad_push_[3], broad_strength_;
    std::vector<uint16_t> solid_; // 1 + the obstacle's place in the list, 0 for gas; or `pocket`
    std::vector<ColliderRow> obstacles_;
    std::vector<char> active_; // blocks
    std::vector<char> moved_;  // those that were active in the last step
    std::vector<SmokeRun> active_runs_;
    float restored_ = 1; // factor on all densities that what was carried is due
    double thin_ = 0;    // density that was too thin to be kept, summed over cells
    PressureSolver pressure_;
    SmokeMeter meter_;
    std::vector<double> force_ms_;
};

/// `visit(x)` for the cells of a row that are in eights of which some face is closed; there are few.
template <class Visit>
void SmokeVolume::each_hemmed_in(int y, int z, Visit visit) const {
    for (int first = 0; first < size_.x; first += 8) {
        for (int x = first; x < first + 8 && !pressure_.is_clear(first, y, z); ++x) {
            visit(x);
        }
    }
}

} // namespace ember
