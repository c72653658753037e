// Lights that stand on the stage, beside its sun.
#pragma once

#include "core/effect/place.h"

namespace ember {

enum class LightKind { point, spot };

/// Shines from its position; a spot along its own -y, so that one that is not turned shines down.
struct Light : Place {
    LightKind kind = LightKind::point;
    Colour colour = {1, 0.75f, 0.45f, 1};
    float strength = 3; // on a surface that faces it at one metre
    float reach = 6;    // m, where it has faded to nothing
    float cone = 50;    // deg, whole angle
    float cone_softness = 0.4f;
    bool shadows = true;
    bool operator==(const Light&) const = default;
};

} // namespace ember
