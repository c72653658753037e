// Measures a machine: the same small effects are run and drawn on every one.
#pragma once

#include "core/budget/worth.h"

namespace ember {

/// A few thousand particles with forces and colliders, a volume of smoke, a body that comes apart, particles
/// with each force and collider that needs no file, and drawn in each way; each run five times; of each kind
/// of work, force, collider and look the run that was disturbed the least. Takes less than a minute on a
/// machine of today. `told` hears the share that is done. Nothing if it was ended on the way.
std::optional<MachineProfile> measured_machine(const std::string& name, const RunTrials& run,
                                               const std::function<void(double share)>& told);

} // namespace ember
