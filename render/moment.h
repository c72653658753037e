// Moments of trials as pictures.
#pragma once

#include "core/budget/trial.h"
#include "render/camera.h"

#include <optional>

namespace ember {

struct DrawMeters;

/// What a picture took by the kind of work; those of steps are 0.
WorkTimes work_of(const DrawMeters& meters);

/// What a picture that was drawn here would cost on another machine.
DrawMeters predicted(const DrawMeters& here, const Effect& effect, const MachineRatio& ratio);

/// Draws the moments of one run in this size, and says what a picture of each took once the stage has
/// settled, as it has while an effect plays: of three pictures the least that things and finishing took. Each
/// call draws one picture. Without a camera: through the effect's own.
DrawMoment moment_painter(int width, int height, std::optional<Camera> camera = {});

} // namespace ember
