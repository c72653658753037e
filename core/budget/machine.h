// The machine that an effect is for: what each kind of work takes there, measured once by running the same
// small effects on each machine; and what an effect that runs here would cost there.
#pragma once

#include "core/base/problem.h"
#include "core/scene/meters.h"

#include <array>
#include <filesystem>
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

struct MachineProfile {
    std::string name;
    std::string about; // how it came about, for people
    int threads = 1;
    WorkTimes ms{}; // of the measuring effects, see measured_machine()
    bool operator==(const MachineProfile&) const = default;
};

/// See docs/machine-profiles.md.
std::string text_of(const MachineProfile& profile);
std::optional<MachineProfile> read_profile(const std::filesystem::path& path, Problems& problems);

/// How much longer (or shorter) each kind of work takes there than here.
using WorkRatio = WorkTimes;
constexpr WorkRatio same_machine = {1, 1, 1, 1, 1, 1, 1, 1, 1, 1};
WorkRatio ratio_of(const MachineProfile& there, const MachineProfile& here);

/// What a step that was measured here would cost there. An element's milliseconds are taken as the kind of
/// work that it is (`kinds`, in the order of the meters); counts are the same everywhere.
Meters predicted(const Meters& here, const std::vector<Work>& kinds, const WorkRatio& ratio);

} // namespace ember
