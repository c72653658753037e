// The volumes of smoke of an effect: what acts on each in a step, and what is handed on of it.
#pragma once

#include "core/particles/pool.h"
#include "core/particles/program.h"
#include "core/runtime/meters.h"
#include "core/smoke/volume.h"

#include <functional>
#include <map>
#include <string>

namespace ember {

/// Smoke as a picture needs it, of one volume.
struct FrameSmoke {
    size_t element = 0; // index in Effect::elements
    SmokeSize size;
    std::vector<float> density; // of the cells, x fastest, then y
    std::vector<float> heat;    // K, the same; empty if nothing glows
};

class Clouds {
  public:
    explicit Clouds(const SmokeKernels& kernels) : kernels_(&kernels) {}

    /// `find_pool`: the particles of a source, or nullptr.
    void step(const PreparedEffect& prepared, const WindowGrids& windows, const StepTime& time,
              const std::function<const ParticlePool*(const std::string&)>& find_pool, Meters& meters);
    void clear() { volumes_.clear(); }

    void write(const PreparedEffect& prepared, std::vector<FrameSmoke>& out) const;

    /// How the first volume flows, as a grid that particles are carried by; nothing if there is none.
    std::shared_ptr<const GridTable> flow(const PreparedEffect& prepared) const;

    /// The volume of an element, or nullptr.
    const SmokeVolume* find(const std::string& id) const;

  private:
    const SmokeKernels* kernels_;
    std::map<std::string, SmokeVolume> volumes_; // by the element's id
};

} // namespace ember
