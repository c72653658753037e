// The volumes of smoke of an effect: what acts on each in a step, and what is handed on of it.
#pragma once

#include "core/blocks/block.h"
#include "core/scene/field.h"
#include "core/scene/meters.h"
#include "core/scene/piece_box.h"
#include "core/smoke/frame_smoke.h"
#include "core/smoke/smoke_kernels.h"

#include <functional>
#include <map>
#include <memory>
#include <string>

namespace ember {

class SmokeVolume;

class Clouds {
  public:
    explicit Clouds(const SmokeKernels& kernels);
    ~Clouds();
    Clouds(Clouds&&) noexcept;
    Clouds& operator=(Clouds&&) noexcept;

    /// All that the next steps depend on.
    struct Kept;
    std::shared_ptr<const Kept> kept() const;
    /// Goes on as what was kept did, to the byte.
    void restore(const Kept& kept);
    static size_t bytes(const Kept& kept);

    /// The particles of a source, or nullptr.
    using FindBlocks = std::function<const ParticleBlocks*(const std::string&)>;
    /// `pieces`: of breakables at the end of the step, which hold the gas and take it along.
    void step(const PreparedEffect& prepared, const WindowGrids& windows, const StepTime& time,
              const StepPlacements& placed, const FindBlocks& find_blocks,
              const std::vector<PieceBox>& pieces, Meters& meters);
    void clear();

    /// Volumes that have not moved since are those of the last frame.
    void write(const PreparedEffect& prepared, std::vector<std::shared_ptr<const FrameSmoke>>& out) const;

    /// How the first volume flows, as a grid that particles are carried by; nothing if there is none.
    std::shared_ptr<const GridTable> flow(const PreparedEffect& prepared);

    /// What `order.smoke` asks for, of the cells that its places lie in; of several volumes the first counts.
    FieldReading read(const PreparedEffect& prepared, const FieldOrder& order) const;

    /// The volume of an element, or nullptr.
    const SmokeVolume* find(const std::string& id) const;

  private:
    struct Shown;
    struct Waiting;
    struct Held;
    void play(std::unique_ptr<Held>& held, const PreparedEffect& prepared, size_t element,
              const StepTime& time, Meters& meters) const;

    const SmokeKernels* kernels_;
    std::map<std::string, std::unique_ptr<Held>> held_; // by the element's id
};

} // namespace ember
