// What modulators say at a moment.
#pragma once

#include "core/effect/drive.h"
#include "core/scene/meters.h"
#include "core/scene/prepared.h"
#include "core/scene/program.h"

namespace ember {

/// The values of all modulators that are not muted. `meters`: of the last step; readings of counts follow it.
/// The same effect, time and counts give the same values.
std::vector<ModulatorValue> modulator_values(const PreparedEffect& prepared, const StepTime& time,
                                             const Meters& meters);

} // namespace ember
