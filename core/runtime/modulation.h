// What modulators say at a moment.
#pragma once

#include "core/effect/drive.h"
#include "core/scene/counts.h"
#include "core/scene/prepared.h"
#include "core/scene/program.h"

namespace ember {

/// The values of all modulators that are not muted. `counts`: after the last step.
/// The same effect, time and counts give the same values.
std::vector<ModulatorValue> modulator_values(const PreparedEffect& prepared, const StepTime& time,
                                             const StepCounts& counts);

} // namespace ember
