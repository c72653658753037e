// Forces: what changes the motion of particles.
#pragma once

#include "core/effect/place.h"

namespace ember {

struct Gravity : Reach {
    Vec3 direction = {0, -1, 0};
    float strength = 9.81f;
    bool operator==(const Gravity&) const = default;
};

/// Moving air that takes particles along.
struct Wind : Reach {
    Vec3 direction = {1, 0, 0};
    float speed = 3;
    float grip = 0.6f;
    float gusts = 0.3f;
    float gust_period = 3;
    bool operator==(const Wind&) const = default;
};

struct Drag : Reach {
    float linear = 0.5f;
    float quadratic = 0;
    float brake = 0;
    bool operator==(const Drag&) const = default;
};

/// Divergence-free curl noise.
struct Turbulence : Reach {
    float strength = 3;
    float eddy_size = 0.8f;
    int octaves = 3;
    float roughness = 0.55f;
    float churn = 0.3f;
    Vec3 drift;
    bool operator==(const Turbulence&) const = default;
};

/// The same field as a displacement: it bends paths and leaves velocities alone.
struct Waves : Reach {
    float speed = 0.5f;
    float eddy_size = 0.8f;
    int octaves = 1;
    float roughness = 0.5f;
    float churn = 0;
    Vec3 drift;
    bool operator==(const Waves&) const = default;
};

enum class VortexAbout { line, point, plane };

/// Air that turns about its own y axis.
struct Vortex : Reach, Place {
    VortexAbout about = VortexAbout::line;
    float spin = 180;
    float core = 1;
    float inflow = 0;
    float lift = 0;
    float grip = 4;
    bool operator==(const Vortex&) const = default;
};

enum class PullLaw { constant, linear, inverse_square };

struct Pull : Reach, Place {
    PullLaw law = PullLaw::inverse_square;
    float strength = 4;
    float core = 0.1f;
    bool operator==(const Pull&) const = default;
};

enum class SpringTo { point, line, plane };

struct Spring : Reach, Place {
    SpringTo to = SpringTo::point;
    float frequency = 1;
    float damping = 0.1f;
    bool operator==(const Spring&) const = default;
};

/// What becomes of what has come to the end of a path.
enum class FlowEnd { stop, go_on, loop, die };

struct PathFlow : Reach, Place, PathShape {
    float speed = 2;
    float pull = 6;
    float grip = 12;
    float tube = 0;
    FlowEnd flow_end = FlowEnd::stop;
    bool operator==(const PathFlow&) const = default;
};

enum class FlowGrid { file, mesh, noise, smoke };
enum class SwirlAbout { x, y, z, own };

struct GridFlow : Reach, Place {
    FlowGrid grid = FlowGrid::noise;
    std::string file;
    std::string mesh;
    float scale = 1;
    Vec3 size = {2, 2, 2};
    int resolution = 32;
    float attraction = 0.3f;
    float swirl = 1;
    SwirlAbout swirl_about = SwirlAbout::y;
    float eddy_size = 0.8f;
    float speed = 1;
    float grip = 4;
    bool operator==(const GridFlow&) const = default;
};

struct Jitter : Reach {
    float strength = 1;
    bool operator==(const Jitter&) const = default;
};

struct Flock : Reach {
    float view = 0.4f;
    float separation = 3;
    float separation_share = 0.4f;
    float alignment = 2;
    float cohesion = 1.5f;
    float cruise = 1;
    float cruise_grip = 1;
    std::string fears;
    float fear_distance = 1;
    float fear = 12;
    bool operator==(const Flock&) const = default;
};

} // namespace ember
