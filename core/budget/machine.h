// The machine that an effect is for: what each kind of work takes there, measured once by running the same
// small effects on each machine; and what an effect that runs here would cost there.
#pragma once

#include "core/base/problem.h"
#include "core/effect/effect.h"
#include "core/scene/meters.h"

#include <array>
#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace ember {

enum class Work { births, forces, collision, smoke, pieces, stage, things, clouds, focus, finishing };
constexpr size_t kinds_of_work = 10;
constexpr size_t kinds_of_step = 5; // the first of them; the others are of the picture
std::string_view name_of(Work work);

/// Milliseconds, or factors on them, by Work.
using WorkTimes = std::array<double, kinds_of_work>;
/// The same by names: of types of elements, or of what looks are drawn as.
using NamedTimes = std::map<std::string, double, std::less<>>;

struct MachineProfile {
    std::string name;
    std::string about; // how it came about, for people
    int threads = 1;
    WorkTimes ms{}; // of the measuring effects, see measured_machine()
    /// Of single forces and colliders, and of what the same particles take when they are drawn as dots, as
    /// cards and so on. May be empty: then the kind of work stands for all of its kind.
    NamedTimes elements, looks;
    /// Within those of looks: what makes the particles ready, which goes by their number; the rest goes by
    /// their pixels. What is missing here is not told apart.
    NamedTimes readied;
    bool operator==(const MachineProfile&) const = default;
};

/// See docs/machine-profiles.md.
std::string text_of(const MachineProfile& profile);
std::optional<MachineProfile> read_profile(const std::filesystem::path& path, Problems& problems);

/// How much longer (or shorter) each kind of work takes there than here, and by name what is known of it.
struct MachineRatio {
    WorkTimes work = {1, 1, 1, 1, 1, 1, 1, 1, 1, 1};
    NamedTimes elements;
    NamedTimes looks, readied; // both know the same names

    double operator[](Work kind) const { return work[size_t(kind)]; }
    bool operator==(const MachineRatio&) const = default;
};
inline const MachineRatio same_machine;
MachineRatio ratio_of(const MachineProfile& there, const MachineProfile& here);

/// What kind of work most of an element's milliseconds in a step are, and how much longer they take there.
struct ElementRatio {
    Work kind = Work::forces;
    double ratio = 1;
};
/// In the order of the effect's elements.
std::vector<ElementRatio> ratios_of(const Effect& effect, const MachineRatio& ratio);
/// How much longer drawing an element takes there: making its things ready, and their pixels.
struct DrawingRatio {
    double readied = 1, pixels = 1;
    /// What it takes there, of what it takes here, in which its things are made ready.
    double of(double ms, double readied_ms) const {
        return readied_ms * readied + (ms - readied_ms) * pixels;
    }
};
/// By the look that it wears.
DrawingRatio drawing_ratio_of(const Effect& effect, const Element& element, const MachineRatio& ratio);

/// What a step that was measured here would cost there: each element by its own ratio (in the order of the
/// meters), the parts of the step by those of their elements. Counts are the same everywhere.
Meters predicted(const Meters& here, const std::vector<ElementRatio>& elements, const MachineRatio& ratio);
/// How much longer all that is drawn takes there, but for stage and smoke: of the milliseconds that elements
/// took here, in their order, and those within them that made their things ready.
double things_ratio_of(const Effect& effect, const std::vector<double>& element_ms,
                       const std::vector<double>& readied_ms, const MachineRatio& ratio);

} // namespace ember
