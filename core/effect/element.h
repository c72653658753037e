// The kinds of element that stand on the board, as plain values. Their parameters are described in tables/:
// adding one is a member in one of the nine headers below and a line there.
#pragma once

#include "core/effect/breakable.h"
#include "core/effect/colliders.h"
#include "core/effect/forces.h"
#include "core/effect/lights.h"
#include "core/effect/modulators.h"
#include "core/effect/movers.h"
#include "core/effect/smoke.h"
#include "core/effect/sources.h"
#include "core/effect/triggers.h"

#include <string>
#include <variant>
#include <vector>

namespace ember {

using AnyElementBody =
    std::variant<Emitter, Gravity, Wind, Drag, Turbulence, Waves, Vortex, Pull, Spring, PathFlow, GridFlow,
                 Jitter, Flock, Plane, Box, Ball, Capsule, Cylinder, HeightMap, MeshCollider, Contacts,
                 PieceCollider, Breakable, Pin, Blast, CleanupZone, Dropper, PathMover, Orbit, Swing, Wander,
                 KeyedMover, Pointer, Light, Smoke, SmokeSource, Push, Cycle, Growth, TimeCurve, Sway, Steps,
                 CountReading, MoverReading, Trigger>;

/// What an element is. What copies, destroys and compares all kinds stands in one file: it would be made anew
/// in every other that copies an effect, which is most of the time that those would take to build.
struct ElementBody : AnyElementBody {
    using AnyElementBody::AnyElementBody;
    using AnyElementBody::operator=;
    ElementBody();
    ElementBody(const ElementBody& other);
    ElementBody(ElementBody&& other) noexcept;
    ElementBody& operator=(const ElementBody& other);
    ElementBody& operator=(ElementBody&& other) noexcept;
    ~ElementBody();
    bool operator==(const ElementBody& other) const;
};

enum class Family { source, force, collider, breaking, mover, light, smoke, modulator, trigger };

/// The weight with which an influence acts on a source, 0..1. For a collider: the share of particles that it
/// stops; of smoke, how tight it is.
struct Link {
    std::string source; // id of the source
    float weight = 1;
    bool operator==(const Link&) const = default;
};

struct Element {
    std::string id; // unique in the effect, never changes
    std::string name;
    ElementBody body;
    bool muted = false;
    bool solo = false;
    std::string group;              // of rows on the board, by its name; may be empty
    std::vector<Link> links;        // of an influence; in order of the sources' ids in the file
    std::string unknown;            // members of the file's object that this version does not know, as JSON
    std::string unknown_parameters; // the same for its "parameters"
    bool operator==(const Element&) const = default;
};

} // namespace ember
